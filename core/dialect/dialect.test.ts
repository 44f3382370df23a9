import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { choices, Maker, NAMES } from '../../tests/designs.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { writeSql } from '../definitions/create-script.ts'
import { emptyDesign, type Column, type Design } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import { newTable, proposeJunction, proposeRelationship } from '../relate/propose.ts'
import { tokens } from '../sql/lexer.ts'
import { bareTable, compareCatalogs, parentsFirst, type CatalogTable } from './catalog.ts'
import { script } from './dialect.ts'
import { DIALECTS, isDialect } from './index.ts'
import { fitName, NameGiver, nameLength } from '../naming/fit.ts'
import { canonicalDefault, fromPrinted, fromPrintedDefault } from './postgresql/types.ts'
import { constraintNames } from './sqlite/read.ts'
import { times } from '../../tests/times.ts'

const design = fernhollow().versions[1]?.design as Design
const dialects = Object.values(DIALECTS)
const AS_WRITTEN = {
  notes: true,
  quote: (name: string) => name,
  oneDefault: (sql: string) => sql,
  oneExpression: (sql: string) => sql
}

describe('names', () => {
  it('are quoted so that they come back as one token, whatever is in them', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.constantFrom(...NAMES), fc.string({ minLength: 1, unit: 'grapheme' })),
        (name) => {
          for (const dialect of dialects) {
            const found = tokens(`SELECT ${dialect.quote(name)} FROM x`)
            expect(found).toHaveLength(4)
            expect(found[1]?.text).toBe(name)
          }
        }
      )
    )
  })

  it.each(['order', 'select', 'table', 'user', 'group', 'primary'])('%s is reserved, and quoted', (word) => {
    expect(DIALECTS.postgresql.quote(word)).toBe(`"${word}"`)
    if (word !== 'user') expect(DIALECTS.sqlite.quote(word)).toBe(`"${word}"`)
  })

  it('that are too long are cut to fit, stay apart, and are never cut inside a character', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1, maxLength: 120, unit: 'grapheme' }), (name) => {
        const fitted = fitName(name, { most: 63, of: 'bytes' })
        expect(nameLength(fitted, 'bytes')).toBeLessThanOrEqual(63)
        expect(fitted.isWellFormed()).toBe(name.isWellFormed())
        if (nameLength(name, 'bytes') <= 63) expect(fitted).toBe(name)
      })
    )
    const giver = new NameGiver({ most: 20, of: 'characters' })
    const given = ['x'.repeat(30), 'x'.repeat(31), 'x'.repeat(30), 'Short', 'SHORT'].map((name) =>
      giver.give(name)
    )
    expect(new Set(given.map((name) => name.toLowerCase())).size).toBe(5)
    expect(given.every((name) => name.length <= 20)).toBe(true)
  })
})

describe('values', () => {
  it('are written as one literal and nothing else', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => {
        for (const dialect of dialects) {
          for (const type of [
            { kind: 'text' as const },
            { kind: 'integer' as const, size: 'normal' as const },
            { kind: 'decimal' as const, precision: 8, scale: 2 }
          ]) {
            const found = tokens(dialect.literal(text, type)).filter((token) => token.word !== '-')
            expect(found).toHaveLength(1)
            expect(['string', 'number']).toContain(found[0]?.kind)
          }
        }
      })
    )
  })
})

describe('the catalog of a design', () => {
  it('that was worked out bit by bit, edit by edit, is the one that is worked out at once', () => {
    fc.assert(
      fc.property(choices(40, 10), (taken) => {
        const maker = new Maker()
        let edited = emptyDesign('Fernhollow', 'd_test')
        for (const choice of taken) {
          const result = apply(edited, maker.operation(edited, choice))
          if (result.ok) edited = result.design
          for (const dialect of dialects) dialect.catalog(edited)
        }
        for (const dialect of dialects)
          expect(dialect.catalog(edited)).toEqual(dialect.catalog(structuredClone(edited)))
      }),
      { numRuns: times(60) }
    )
  })
})

describe('the SQL of a design', () => {
  it('has a default as it was given, to the last digit', () => {
    const exact = '{"n": 12345678901234567890.10}'
    const table = newTable('reading')
    table.columns.push({
      id: 'c_j',
      name: 'j',
      type: { kind: 'json' },
      required: false,
      default: { kind: 'value', value: exact }
    })
    for (const dialect of dialects)
      expect(writeSql({ ...emptyDesign('x'), tables: [table] }, dialect)).toContain(exact)
  })

  it('makes parents before children, and a circle by adding the last reference after', () => {
    const [a, b] = [newTable('ward'), newTable('pen')]
    let circle: Design = { ...emptyDesign('Circle'), tables: [a, b] }
    for (const [parent, child] of [
      [a, b],
      [b, a]
    ] as const) {
      const operation = proposeRelationship(circle, {
        parent: parent.id,
        child: child.id,
        required: false,
        single: false
      })
      const result = operation && apply(circle, operation)
      if (result?.ok) circle = result.design
    }
    const postgresql = DIALECTS.postgresql
      .create(DIALECTS.postgresql.catalog(circle).catalog)
      .map((statement) => statement.sql)
    expect(postgresql.filter((sql) => sql.startsWith('ALTER TABLE'))).toHaveLength(1)
    const order = parentsFirst(DIALECTS.sqlite.catalog(design).catalog.tables).map((table) => table.name)
    for (const table of DIALECTS.sqlite.catalog(design).catalog.tables)
      for (const key of table.foreignKeys)
        expect(order.indexOf(key.table)).toBeLessThanOrEqual(order.indexOf(table.name))
  })

  it('does not run out of stack on a chain of ten thousand tables', () => {
    const chain = Array.from({ length: 10_000 }, (_, at): CatalogTable => ({
      ...bareTable(`${at}`, `t${at}`),
      foreignKeys:
        at < 9999
          ? [
              {
                id: '',
                name: '',
                columns: [],
                table: `${at + 1}`,
                refersTo: [],
                onDelete: 'CASCADE',
                onUpdate: 'CASCADE'
              }
            ]
          : []
    }))
    expect(
      parentsFirst(chain)
        .map((table) => table.name)
        .slice(0, 2)
    ).toEqual(['t9999', 't9998'])
  })

  it('has an index on each reference that no key begins with', () => {
    const { catalog } = DIALECTS.postgresql.catalog(design)
    const indexes = (name: string): string[] =>
      catalog.tables.find((table) => table.name === name)?.indexes.map((index) => index.name) ?? []
    expect(indexes('admission')).toEqual([
      'admission_patient_id_ix',
      'admission_finder_id_ix',
      'admission_reason_code_ix'
    ])
    // dose begins its key with admission_id: only the other side needs one.
    expect(indexes('dose')).toEqual(['dose_medicine_id_ix'])
  })

  it('says what a dialect cannot, as a comment that no name can break out of', () => {
    const column: Column = {
      id: 'c_n',
      name: 'n',
      type: { kind: 'integer', size: 'normal' },
      required: true,
      default: { kind: 'generated' }
    }
    const counted = {
      ...newTable('x'),
      id: 't_x',
      columns: [column, { ...column, id: 'c_m', name: 'm', default: undefined }],
      primaryKey: { id: 'k_x', columns: ['c_n', 'c_m'] }
    }
    const odd = {
      ...emptyDesign('a\u2028b'),
      tables: [counted, { ...newTable('sqlite_x') }, { ...newTable('ü'.repeat(40)) }]
    }
    expect(
      writeSql(odd, DIALECTS.sqlite)
        .split('\n')
        .filter((line) => line.startsWith('-- ')).length
    ).toBe(5)
    expect(DIALECTS.sqlite.catalog(odd).remarks.map((remark) => remark.message)).toEqual([
      expect.stringContaining('x.n is written as a plain number'),
      expect.stringContaining('sqlite_')
    ])
    expect(DIALECTS.postgresql.catalog(odd).remarks.map((remark) => remark.message)).toEqual(
      expect.arrayContaining([expect.stringContaining('63 bytes')])
    )
    expect(isDialect('constructor')).toBe(false)
  })

  it('of a junction has both references inside it', () => {
    const [patient, medicine] = ['t_patient', 't_medicine'].map(
      (id) => design.tables.find((table) => table.id === id) ?? expect.fail(id)
    )
    const result = apply(design, {
      kind: 'relationship.addJunction',
      junction: proposeJunction(design, patient as never, medicine as never)
    })
    if (!result.ok) throw new Error(result.refusal.message)
    expect(script(DIALECTS.sqlite.create(DIALECTS.sqlite.catalog(result.design).catalog)))
      .toContain(`CREATE TABLE patient_medicine (
  patient_id  INTEGER NOT NULL,
  medicine_id INTEGER NOT NULL,
  CONSTRAINT patient_medicine_pk PRIMARY KEY (patient_id, medicine_id),
  CONSTRAINT patient_medicine_patient_id_fk FOREIGN KEY (patient_id)
    REFERENCES patient (patient_id) ON DELETE CASCADE ON UPDATE CASCADE,
  CONSTRAINT patient_medicine_medicine_id_fk FOREIGN KEY (medicine_id)
    REFERENCES medicine (medicine_id) ON DELETE RESTRICT ON UPDATE CASCADE
)`)
  })
})

describe('reading back', () => {
  it('finds the names of constraints in the text of a table, past comments, strings and odd names', () => {
    expect(
      constraintNames(`CREATE TABLE "a (b" ( -- CONSTRAINT no PRIMARY KEY (x)
      "it""s" INTEGER NOT NULL CONSTRAINT one PRIMARY KEY AUTOINCREMENT,
      note TEXT DEFAULT 'CONSTRAINT two UNIQUE (x)', /* , CONSTRAINT three UNIQUE (y) */
      [w] INT CHECK (note IN ('a', 'b')),
      CONSTRAINT "four five" UNIQUE (note, [w]), CONSTRAINT six FOREIGN KEY (w) REFERENCES other (id))`)
    ).toEqual([
      { name: 'one', kind: 'PRIMARY', columns: ['it"s'], deferrable: undefined },
      { name: 'four five', kind: 'UNIQUE', columns: ['note', 'w'], deferrable: undefined },
      { name: 'six', kind: 'FOREIGN', columns: ['w'], deferrable: undefined }
    ])
  })

  it.each([
    ["'oiled'::text", 'text', "'oiled'"],
    ["'it''s'::character varying", 'varchar(20)', "'it''s'"],
    ["'-5'::integer", 'integer', '-5'],
    ['(-5)', 'integer', '-5'],
    ["'x'::bpchar", 'char(6)', "'x'"],
    ["'2026-05-03 07:40:00+00'::timestamp with time zone", 'timestamptz', "'2026-05-03 07:40:00+00'"],
    ['\'{"a": 1}\'::jsonb', 'jsonb', '\'{"a":1}\''],
    ['CURRENT_TIMESTAMP', 'timestamptz', 'CURRENT_TIMESTAMP'],
    ['false', 'boolean', 'false'],
    ['0.20', 'numeric(8,2)', '0.20'],
    [null, 'text', undefined]
  ])('knows the default %s of a %s again', (printed, type, written) =>
    expect(fromPrintedDefault(printed, type)).toBe(written)
  )

  it('takes no missing default for a spelling', () => {
    expect(canonicalDefault("'a'", 'text')).not.toBe(canonicalDefault("'A'", 'text'))
    expect(fromPrintedDefault("''::text", 'text')).toBe("''")
    expect(
      ['character varying(12)', 'character(6)', 'timestamp without time zone', 'numeric(8,2)'].map(
        fromPrinted
      )
    ).toEqual(['varchar(12)', 'char(6)', 'timestamp', 'numeric(8,2)'])
  })

  it('tells every difference of two catalogs', () => {
    const { catalog } = DIALECTS.sqlite.catalog(design)
    expect(compareCatalogs(catalog, structuredClone(catalog), { columnOrder: true, ...AS_WRITTEN })).toEqual(
      []
    )
    const other = structuredClone(catalog)
    const [species, patient] = other.tables as [CatalogTable, CatalogTable]
    species.name = 'kind'
    const [id, , ring] = patient.columns
    if (!id || !ring) throw new Error('columns are missing')
    Object.assign(id, { generated: false })
    Object.assign(ring, { type: { sql: 'TEXT' }, required: true, default: "'none'" })
    patient.columns.reverse()
    patient.uniques = []
    patient.foreignKeys = patient.foreignKeys.map((key) => ({ ...key, onDelete: 'CASCADE' }))
    patient.indexes = []
    const said = compareCatalogs(catalog, other, { columnOrder: true, ...AS_WRITTEN }).map(
      (each) => `${each.table}: ${each.what}`
    )
    expect(said).toEqual([
      'species: table',
      'patient: generated of patient_id',
      'patient: type of ring_no',
      'patient: required of ring_no',
      'patient: default of ring_no',
      'patient: order of columns',
      'patient: unique key',
      'patient: foreign key',
      'patient: foreign key',
      'patient: index',
      'kind: table'
    ])
    expect(
      compareCatalogs(catalog, other, { columnOrder: false, ...AS_WRITTEN }).some(
        (each) => each.what === 'order of columns'
      )
    ).toBe(false)
  })
})
