import { describe, expect, it } from 'vitest'
import { bareTable, type Catalog, type CatalogColumn, type CatalogTable } from './catalog.ts'
import type { Keepsake, LookUpStep, MigrationInput } from './migration.ts'
import { prepare, type PrepareWords } from './prepare.ts'
import { qualify } from './qualified.ts'
import { quote } from './postgresql/types.ts'
import { place } from './postgresql/write.ts'

const column = (
  id: string,
  name: string,
  type = 'integer',
  rest: Partial<CatalogColumn> = {}
): CatalogColumn => ({
  id,
  name,
  type,
  required: true,
  default: undefined,
  generated: false,
  computed: undefined,
  note: undefined,
  ...rest
})
const table = (id: string, name: string, ...columns: CatalogColumn[]): CatalogTable => ({
  ...bareTable(id, name),
  columns
})
const catalog = (...tables: CatalogTable[]): Catalog => ({ schemas: [], enums: [], tables })
const words: PrepareWords = {
  quote,
  place,
  nameLimit: { most: 63, of: 'bytes' },
  count: (of, counted) => ({
    statements: [{ sql: `count ${of.name}.${counted.name}`, says: 'count' }],
    as: counted
  })
}
const input = (from: Catalog, to: Catalog, rest: Partial<MigrationInput>): MigrationInput => ({
  from,
  to,
  keep: [],
  restore: [],
  carries: [],
  lookUps: [],
  early: [],
  ...rest
})
const step = (was: [string, string], becomes: [string, string]): LookUpStep => ({
  table: 't_pen',
  referred: 't_ward',
  was: [{ column: was[0], refersTo: was[1] }],
  becomes: [{ column: becomes[0], refersTo: becomes[1] }]
})

const WARD = table(
  't_ward',
  'ward',
  column('c_code', 'ward_code', 'char(3)'),
  column('c_name', 'name', 'varchar(40)')
)
const PEN = table('t_pen', 'pen', column('c_pen_ward', 'ward', 'char(3)'))

describe('the first steps of a migration', () => {
  it('are none where nothing is looked up', () => {
    const given = input(catalog(WARD, PEN), catalog(WARD, PEN), {})
    expect(prepare(given, words)).toEqual({ steps: [], input: given })
  })

  it('add what is looked up to the table as it is, and the rest goes on as if it had always been', () => {
    const to = catalog(WARD, table('t_pen', 'pen', column('c_new', 'ward_name', 'varchar(40)')))
    const { steps, input: after } = prepare(
      input(catalog(WARD, PEN), to, { lookUps: [step(['c_pen_ward', 'c_code'], ['c_new', 'c_name'])] }),
      words
    )
    expect(steps.map(({ sql }) => sql)).toEqual([
      'ALTER TABLE pen ADD COLUMN ward_name varchar(40)',
      'UPDATE pen AS own SET ward_name = referred.name\n  FROM ward AS referred\n  WHERE referred.ward_code = own.ward'
    ])
    // It may be empty until the migration says otherwise, and has the type that it was looked up with.
    expect(after.from.tables[1]?.columns).toEqual([
      PEN.columns[0],
      column('c_new', 'ward_name', 'varchar(40)', { required: false })
    ])
  })

  it('call it something else while its name is still in use', () => {
    const to = catalog(WARD, table('t_pen', 'pen', column('c_new', 'Ward', 'varchar(40)')))
    const { steps } = prepare(
      input(catalog(WARD, PEN), to, { lookUps: [step(['c_pen_ward', 'c_code'], ['c_new', 'c_name'])] }),
      words
    )
    expect(steps[0]?.sql).toBe('ALTER TABLE pen ADD COLUMN "Ward_2" varchar(40)')
    expect(steps[1]?.sql).toContain('SET "Ward_2" = referred.name')
  })

  it('quote every name, whatever it is and wherever it stands', () => {
    const [schema, odd] = ['a"b', "o'neill; --"]
    const from = catalog(
      table('t_ward', qualify(schema, odd), column('c_code', 'select'), column('c_name', '🦔')),
      table('t_pen', odd, column('c_pen_ward', 'own'))
    )
    const to = catalog(
      from.tables[0] as CatalogTable,
      table('t_pen', odd, column('c_new', 'x; DROP TABLE y'))
    )
    const { steps } = prepare(
      input(from, to, { lookUps: [step(['c_pen_ward', 'c_code'], ['c_new', 'c_name'])] }),
      words
    )
    expect(steps.map(({ sql }) => sql)).toEqual([
      'ALTER TABLE "o\'neill; --" ADD COLUMN "x; DROP TABLE y" integer',
      'UPDATE "o\'neill; --" AS own SET "x; DROP TABLE y" = referred."🦔"\n  FROM "a""b"."o\'neill; --" AS referred\n  WHERE referred."select" = own.own'
    ])
  })

  it('look up in a table that refers to itself, by what was added a moment ago', () => {
    const note = table('t_note', 'note', column('c_no', 'note_no'), column('c_answers', 'answers'))
    const to = catalog(
      table(
        't_note',
        'note',
        column('c_id', 'note_id', 'bigint', { generated: true }),
        column('c_answers_id', 'answers_id', 'bigint')
      )
    )
    const self: LookUpStep = {
      table: 't_note',
      referred: 't_note',
      was: [{ column: 'c_answers', refersTo: 'c_no' }],
      becomes: [{ column: 'c_answers_id', refersTo: 'c_id' }]
    }
    const { steps } = prepare(
      input(catalog(note), to, { early: [{ table: 't_note', column: 'c_id' }], lookUps: [self] }),
      words
    )
    expect(steps.map(({ sql }) => sql)).toEqual([
      'count note.note_id',
      'ALTER TABLE note ADD COLUMN answers_id bigint',
      'UPDATE note AS own SET answers_id = referred.note_id\n  FROM note AS referred\n  WHERE referred.note_no = own.answers'
    ])
  })

  it('put back what was kept before anything is looked up in it', () => {
    const from = catalog(
      table('t_ward', 'ward', column('c_id', 'ward_id')),
      table('t_pen', 'pen', column('c_pen_ward_id', 'ward_id'))
    )
    const keepsake: Keepsake = {
      name: 'keepsake_ward',
      table: 't_ward',
      key: ['c_id'],
      columns: [{ id: 'c_code', name: 'ward_code', why: 'dropped' }]
    }
    const back: LookUpStep = {
      table: 't_pen',
      referred: 't_ward',
      was: [{ column: 'c_pen_ward_id', refersTo: 'c_id' }],
      becomes: [{ column: 'c_pen_ward', refersTo: 'c_code' }]
    }
    const { steps } = prepare(
      input(from, catalog(WARD, PEN), {
        early: [{ table: 't_ward', column: 'c_code' }],
        restore: [keepsake],
        lookUps: [back]
      }),
      words
    )
    expect(steps.map(({ sql }) => sql)).toEqual([
      'ALTER TABLE ward ADD COLUMN ward_code char(3)',
      'UPDATE ward AS own SET ward_code = kept.c_code\n  FROM keepsake_ward AS kept\n  WHERE kept.c_id = own.ward_id',
      'ALTER TABLE pen ADD COLUMN ward char(3)',
      'UPDATE pen AS own SET ward = referred.ward_code\n  FROM ward AS referred\n  WHERE referred.ward_id = own.ward_id'
    ])
  })
})
