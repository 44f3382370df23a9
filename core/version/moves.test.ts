import { toJunction } from '../restructure/to-junction.ts'
import { made } from '../../tests/made.ts'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { changeOfMind } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { carryRows } from '../carry/apply.ts'
import { columnsOf } from '../carry/columns.ts'
import { groundOf } from '../carry/ground.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import type { Column, Design, Key, Row, Table } from '../design/model.ts'
import { tablesRead, type TypedColumn } from '../design/row-query.ts'
import { canonicalValue } from '../design/same.ts'
import type { Parsed } from '../design/type.ts'
import { DIALECTS } from '../dialect/index.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { proposeJunction } from '../relate/propose.ts'
import { generatedInstead, switchKey } from '../restructure/another-key.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { movesBetween, reachesEveryRow, RowsAfter, type Moves } from './moves.ts'

const start = fernhollow().versions[3]?.design as Design
const table = (design: Design, id: string): Table => tableOf(design, id) ?? expect.fail(`no table ${id}`)
const column = (design: Design, id: string, name: string): string =>
  table(design, id).columns.find((each) => each.name === name)?.id ?? expect.fail(`no ${name}`)

function after(design: Design, ...operations: (Operation | Parsed<Operation>)[]): Design {
  return operations.reduce((current, each) => {
    const operation = 'ok' in each ? (each.ok ? each.value : expect.fail(each.message)) : each
    const result = apply(current, operation)
    return result.ok ? result.design : expect.fail(result.refusal.message)
  }, design)
}
const counted = (design: Design, id: string): Design =>
  after(design, generatedInstead(design, table(design, id)))
const switched = (design: Design, id: string): Design =>
  after(design, switchKey(design, table(design, id), table(design, id).uniques[0] as Key))
const resolved = (design: Design, id: string, referred: string): Design => {
  const many = table(design, id)
  const reference = many.foreignKeys.find((key) => key.table === referred) ?? expect.fail('no reference')
  return after(
    design,
    made(toJunction(design, many, reference, proposeJunction(design, many, table(design, referred))))
  )
}
const there = (from: Design, to: Design): Moves => movesBetween(from, to)
const back = (from: Design, to: Design): Moves => movesBetween(to, from)
const keepsakes = (from: Design, to: Design): ReturnType<typeof findKeepsakes> =>
  findKeepsakes(from, to, {
    before: DIALECTS.sqlite.catalog(from).catalog,
    after: DIALECTS.sqlite.catalog(to).catalog,
    there: there(from, to).flow,
    back: back(from, to).flow,
    filled: back(from, to).flow.fills,
    inPart: [],
    emptied: new Set(),
    isStopped: false,
    nameFor: (name) => `kept_${name}`
  })

/** Rows as they are compared: the values of some columns, each in one spelling, in one order. */
const said = (rows: readonly Row[], columns: readonly Column[]): string[] =>
  rows.map((row) => JSON.stringify(columns.map(({ id, type }) => canonicalValue(row[id], type)))).sort()

describe('what a migration moves', () => {
  it('is what the operations did to the design’s own rows, whatever was done, one after the other', () => {
    const counts = new Map<string, number>()
    const count = (what: string): void => void counts.set(what, (counts.get(what) ?? 0) + 1)
    fc.assert(
      fc.property(fc.array(fc.nat(1000), { minLength: 20, maxLength: 40 }), (given) => {
        const numbers = new Numbers(given)
        const kinds: string[] = []
        let to = start
        for (let n = 0; n < 6; n++) {
          const change = changeOfMind(to, numbers)
          const result = change && apply(to, change.operation)
          if (!result?.ok) continue
          to = result.design
          kinds.push(change?.kind ?? '')
        }
        const moves = there(start, to)
        expect(moves.flow.left).toEqual([])
        const { rows } = carryRows(moves.flow, moves.grown)
        for (const [id, found] of rows) {
          const wanted = tableOf(to, id)
          if (!wanted) continue
          const columns = wanted.columns.filter((each) => each.default?.kind !== 'generated')
          expect(said(found, columns)).toEqual(said(wanted.rows, columns))
          if (found.length > 0) count(tableOf(start, id) ? 'filled' : 'added')
        }
        kinds.forEach(count)
        if (kinds.length > 2) count('several')
        expect(reads(moves, start)).toEqual([])
        expect(reads(back(start, to), to)).toEqual([])
      }),
      { numRuns: times(120) }
    )
    for (const what of ['counted', 'switched', 'split', 'resolved', 'several', 'filled', 'added'])
      expect([what, counts.get(what) ?? 0]).toSatisfy(([, times]) => (times as number) > 10)
  })

  /** Tables that are read and are not there; what is read of those that are must be as well. */
  function reads({ flow, grown }: Moves, from: Design): string[] {
    const types = new Map<string, readonly TypedColumn[]>()
    const ground = groundOf(grown, types)
    for (const { name, query } of flow.results) types.set(name, columnsOf(query, ground))
    const queries = [...flow.adds.map((each) => each.rows), ...flow.fills.map((each) => each.from)]
    for (const query of queries) columnsOf(query, ground)
    return queries.flatMap(tablesRead).filter((id) => !tableOf(from, id))
  }

  it('goes by way of what is there no more when a key changes over twice', () => {
    const twice = switched(switched(start, 't_skill'), 't_skill')
    const { flow } = there(start, twice)
    const fills = flow.fills.filter((fill) => fill.table === 't_volunteer_skill')
    expect(fills).toHaveLength(1)
    expect(fills[0]?.on.map((each) => each.own)).toEqual(['c_volunteer_skill_skill_id'])
    expect(fills[0]?.columns.map(({ id }) => id)).toEqual([column(twice, 't_volunteer_skill', 'skill_id')])
  })

  it('leaves out what nothing needs, and what was carried in an earlier version', () => {
    const to = switched(start, 't_skill')
    const reference = table(to, 't_shift').foreignKeys.find((key) => key.table === 't_skill')?.id ?? ''
    const without = after(
      to,
      { kind: 'foreignKey.remove', table: 't_shift', foreignKey: reference },
      { kind: 'column.remove', table: 't_shift', column: column(to, 't_shift', 'skill_name') }
    )
    expect(there(start, without).flow.fills.map((fill) => fill.table)).toEqual(['t_volunteer_skill'])
    const later = after(to, { kind: 'table.annotate', table: 't_skill', note: 'another' })
    expect(there(to, later).flow).toMatchObject({ fills: [], adds: [], results: [] })
  })

  it('fills a junction that was made a moment before, and goes back into the column', () => {
    const to = counted(resolved(start, 't_admission', 't_reason'), 't_reason')
    const moves = there(start, to)
    expect(moves.flow.adds).toHaveLength(1)
    const made = moves.flow.adds[0]?.table ?? ''
    expect(carryRows(moves.flow, moves.grown).rows.get(made)).toHaveLength(
      table(start, 't_admission').rows.filter((row) => row.c_admission_reason_code).length
    )
    const home = back(start, to)
    expect(home.flow.fills.map((fill) => fill.table)).toContain('t_admission')
    const { rows } = carryRows(home.flow, home.grown)
    const reasons = said(rows.get('t_admission') ?? [], [
      columnOf(table(start, 't_admission'), 'c_admission_reason_code') as Column
    ])
    expect(reasons.filter((each) => each !== '[null]').length).toBeGreaterThan(5)
  })

  it('is known of its rows by what the columns come from', () => {
    const to = counted(start, 't_pen')
    const rows = new RowsAfter(there(start, to))
    const pen = column(to, 't_stay', 'pen_id')
    expect(rows.has('t_stay', pen)).toBe(true)
    expect(rows.filled('t_stay')).toContain(pen)
    expect(rows.unique('t_pen')).toContainEqual([column(to, 't_pen', 'pen_id')])
  })

  it('reaches every row by one column, or by several that are all required', () => {
    const fill = (...columns: string[]) => ({
      table: 't_stay',
      columns: [{ id: 'c_x', from: 'c_x' }],
      from: { kind: 'table', table: 't_pen' } as const,
      on: columns.map((own) => ({ own, other: own }))
    })
    const stay = table(start, 't_stay')
    expect(reachesEveryRow(fill('c_stay_ended_at'), stay)).toBe(true)
    expect(reachesEveryRow(fill('c_stay_ward_code', 'c_stay_pen_no'), stay)).toBe(true)
    expect(reachesEveryRow(fill('c_stay_ward_code', 'c_stay_ended_at'), stay)).toBe(false)
  })
})

describe('what a migration keeps', () => {
  it('is what is dropped or narrowed, by a key that outlives the change', () => {
    const to = after(
      start,
      { kind: 'column.remove', table: 't_patient', column: 'c_patient_sex' },
      {
        kind: 'column.retype',
        table: 't_dose',
        column: 'c_dose_unit_cost',
        type: { kind: 'decimal', precision: 5, scale: 2 }
      }
    )
    expect(keepsakes(start, to).keepsakes).toMatchObject([
      {
        name: 'kept_patient',
        key: ['c_patient_patient_id'],
        columns: [{ id: 'c_patient_sex', why: 'dropped' }]
      },
      { name: 'kept_dose', columns: [{ id: 'c_dose_unit_cost', why: 'narrowed' }] }
    ])
  })

  it('is nothing that is computed, and nothing that the way back fills from elsewhere', () => {
    expect(
      keepsakes(start, after(start, { kind: 'column.remove', table: 't_dose', column: 'c_dose_cost' }))
        .keepsakes
    ).toEqual([])
    expect(keepsakes(start, switched(start, 't_skill')).keepsakes).toEqual([])
  })

  it('is found again by a key that is counted first, where no other outlives the change', () => {
    const to = counted(start, 't_reason')
    const bare = after(
      to,
      ...table(to, 't_reason').uniques.map((key): Operation => ({
        kind: 'unique.remove',
        table: 't_reason',
        key: key.id
      })),
      { kind: 'column.remove', table: 't_reason', column: 'c_reason_reason_code' }
    )
    const made = column(bare, 't_reason', 'reason_id')
    const kept = keepsakes(start, bare)
    expect(kept.early).toEqual([{ table: 't_reason', column: made }])
    expect(kept.keepsakes.find((each) => each.table === 't_reason')).toMatchObject({
      key: [made],
      columns: [{ id: 'c_reason_reason_code', why: 'dropped' }]
    })
    // On the way back it is put back before what refers to it is looked up in it.
    expect(keptColumns(start, kept.keepsakes)).toContainEqual({
      table: 't_reason',
      column: 'c_reason_reason_code'
    })
  })

  it('is found again by all that stays, where no key outlives the change', () => {
    const skill =
      table(start, 't_volunteer_skill').foreignKeys.find((key) => key.table === 't_skill')?.id ?? ''
    const on = { table: 't_volunteer_skill' }
    const lost = after(
      start,
      { kind: 'key.setPrimary', ...on, key: null },
      { kind: 'foreignKey.remove', ...on, foreignKey: skill },
      { kind: 'column.remove', ...on, column: 'c_volunteer_skill_skill_id' }
    )
    expect(keepsakes(start, lost)).toMatchObject({
      keepsakes: [
        {
          by: 'row',
          key: ['volunteer_id', 'level', 'since'].map((name) => `c_volunteer_skill_${name}`),
          columns: [{ name: 'skill_id', why: 'dropped' }]
        }
      ],
      warnings: [{ ...on, effect: 'kept' }]
    })
  })
})
