import { describe, expect, it } from 'vitest'
import { tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import { DIALECTS } from '../dialect/index.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { readFilling } from '../typing/given.ts'
import { compareDesigns } from '../version/compare.ts'
import { planMigration } from '../version/plan.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { fillColumn, fillingOf } from './fill.ts'

const start = fernhollow().versions[3]?.design as Design
const table = (design: Design, id: string): Table => tableOf(design, id) ?? expect.fail(`no table ${id}`)

function done(design: Design, ...operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

/** The design with a column filled as it is typed. */
function filled(design: Design, of: string, id: string, text: string): Design {
  const on = table(design, of)
  const column = on.columns.find((each) => each.id === id) ?? expect.fail(`no column ${id}`)
  const filling = readFilling(design, on, column, text)
  if (!filling.ok) expect.fail(filling.message)
  const operation = fillColumn(design, on, column, filling.value, start)
  return operation.ok ? done(design, operation.value) : expect.fail(operation.message)
}

/** With a new column that is required, of 30 characters. */
const grown = done(start, {
  kind: 'column.add',
  table: 't_patient',
  column: { id: 'c_new', name: 'called', type: { kind: 'text', length: 30 }, required: true }
})
const values = (design: Design): unknown[] => table(design, 't_patient').rows.map((row) => row.c_new)
const said = (design: Design): string[] =>
  planMigration(start, design, DIALECTS.postgresql).up.map(({ sql }) => sql)

describe('what rows that are there get in a column', () => {
  it('is asked where it is required, and then no longer stops anything', () => {
    const stops = (design: Design): string[] =>
      planMigration(start, design, DIALECTS.postgresql)
        .warnings.up.filter(({ effect }) => effect === 'stops')
        .map(({ message }) => message)
    expect(stops(grown).join()).toContain('patient.called is new, required and has no default')
    expect(stops(filled(grown, 't_patient', 'c_new', 'nobody'))).toEqual([])
  })

  it('is a value, in the design’s own rows at once', () => {
    const design = filled(grown, 't_patient', 'c_new', 'nobody')
    expect(new Set(values(design))).toEqual(new Set(['nobody']))
    expect(said(design)).toContainEqual(expect.stringMatching(/^UPDATE patient SET called = .*'nobody'/))
    expect(compareDesigns(start, design).map(({ sentence }) => sentence)).toContain(
      'patient.called gets “nobody” in rows that have nothing there.'
    )
  })

  it('is worked out from the row', () => {
    const design = filled(grown, 't_patient', 'c_new', "computed 'a ' || species_code")
    const { rows } = table(design, 't_patient')
    expect(rows.length).toBeGreaterThan(3)
    for (const row of rows) expect(row.c_new).toBe(`a ${String(row.c_patient_species_code)}`)
    expect(said(design)).toContainEqual(
      expect.stringMatching(/^UPDATE patient SET called = 'a ' \|\| species_code/)
    )
  })

  it('is looked up in the row referred to', () => {
    const typed = done(grown, {
      kind: 'column.retype',
      table: 't_patient',
      column: 'c_new',
      type: table(start, 't_species').columns.find(({ name }) => name === 'common_name')?.type ?? {
        kind: 'text'
      }
    })
    const design = filled(typed, 't_patient', 'c_new', 'copied species.common_name')
    const names = new Map(
      table(start, 't_species').rows.map((row) => [row.c_species_species_code, row.c_species_common_name])
    )
    for (const row of table(design, 't_patient').rows)
      expect(row.c_new).toBe(names.get(row.c_patient_species_code))
    expect(values(design)).not.toContain(undefined)
  })

  it('is put for by another, and taken away again', () => {
    const design = filled(filled(grown, 't_patient', 'c_new', 'one'), 't_patient', 'c_new', 'two')
    expect(design.carries.length).toBe(start.carries.length + 1)
    expect(said(design).join()).toContain("'two'")
    expect(said(design).join()).not.toContain("'one'")
    const none = filled(design, 't_patient', 'c_new', '')
    expect(fillingOf(none, 't_patient', 'c_new', start)).toBeUndefined()
  })

  it.each([
    ['generated', 'Only an integer can be generated.'],
    ['= 1 +', ''],
    ['computed nowhere', ''],
    ['computed called', 'called cannot be read here'],
    ['copied nothing', 'Say which column it is copied from'],
    ['x'.repeat(31), '']
  ])('refuses %j in words', (text, words) => {
    const on = table(grown, 't_patient')
    const column = on.columns.find(({ id }) => id === 'c_new') ?? expect.fail('no column')
    const read = readFilling(grown, on, column, text)
    expect(read.ok ? '' : read.message).toContain(words)
    expect(read.ok).toBe(false)
  })

  it('asks for a key where rows cannot be found by one', () => {
    const bare = done(start, {
      kind: 'table.add',
      table: {
        ...table(grown, 't_patient'),
        id: 't_bare',
        name: 'bare',
        columns: [{ id: 'c_bare', name: 'bare', type: { kind: 'text', length: 5 }, required: false }],
        primaryKey: undefined,
        uniques: [],
        foreignKeys: [],
        checks: [],
        indexes: [],
        rowPolicies: [],
        rows: []
      }
    })
    const on = table(bare, 't_bare')
    const asked = fillColumn(bare, on, on.columns[0] ?? expect.fail('no column'), { value: 'x' }, start)
    expect(asked.ok ? '' : asked.message).toContain('no key by which its rows are found')
  })
})
