import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { tableOf } from '../design/directory.ts'
import type { Design, Key, Table } from '../design/model.ts'
import type { Parsed } from '../design/type.ts'
import { DIALECTS } from '../dialect/index.ts'
import type { LookUpStep } from '../dialect/migration.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { proposeJunction, resolveOperation } from '../relate/propose.ts'
import { generatedInstead, switchKey } from '../relate/switch-key.ts'
import {
  carriesBetween,
  isLookedUp,
  lookedUpBy,
  lookUpsSince,
  reachesEveryRow,
  type Carries
} from './carries.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { times } from '../../tests/times.ts'

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
const there = (from: Design, to: Design): Carries =>
  carriesBetween(from, to, lookUpsSince(from, to).there, DIALECTS.sqlite.catalog(to).catalog)
const back = (from: Design, to: Design): Carries =>
  carriesBetween(to, from, lookUpsSince(from, to).back, DIALECTS.sqlite.catalog(from).catalog)
const keepsakes = (from: Design, to: Design): ReturnType<typeof findKeepsakes> =>
  findKeepsakes(from, to, {
    after: DIALECTS.sqlite.catalog(to).catalog,
    early: [],
    back: back(from, to).lookUps,
    nameFor: (name) => `kept_${name}`
  })

/** Each step reads what is there by then: in the state before, or made by an earlier step. */
function expectReadable(from: Design, { lookUps, early, rows }: Carries): void {
  const have = new Set(from.tables.flatMap((each) => each.columns.map((one) => `${each.id} ${one.id}`)))
  for (const place of early) {
    expect(have.has(`${place.table} ${place.column}`)).toBe(false)
    have.add(`${place.table} ${place.column}`)
  }
  for (const step of lookUps) {
    for (const pair of [...step.was, ...step.becomes])
      expect(have).toContain(`${step.referred} ${pair.refersTo}`)
    for (const pair of step.was) expect(have).toContain(`${step.table} ${pair.column}`)
    for (const pair of step.becomes) {
      expect(have.has(`${step.table} ${pair.column}`)).toBe(false)
      have.add(`${step.table} ${pair.column}`)
    }
  }
  for (const carry of rows)
    for (const each of carry.columns)
      if ('from' in each) expect(have).toContain(`${carry.source} ${each.from}`)
}

describe('what a migration carries', () => {
  it('reads only what is there, forwards and back, whatever was done to the keys', () => {
    fc.assert(
      fc.property(choices(14, 1), (taken) => {
        const to = grow(
          taken.map(([kind, ...rest], at) => [at % 2 ? kind : 25 + (kind % 2), ...rest]),
          start
        )
        expectReadable(start, there(start, to))
        expectReadable(to, back(start, to))
      }),
      { numRuns: times(150) }
    )
  })

  it('is looked up in the order in which the keys changed over, and backwards on the way back', () => {
    const to = counted(counted(start, 't_pen'), 't_ward')
    expect(there(start, to).lookUps.map((step) => [step.table, step.referred])).toEqual([
      ['t_stay', 't_pen'],
      ['t_pen', 't_ward'],
      ['t_shift', 't_ward']
    ])
    expect(there(start, to).early.map((place) => place.table)).toEqual(['t_pen', 't_ward'])
    expect(back(start, to).lookUps.map((step) => step.table)).toEqual(['t_shift', 't_pen', 't_stay'])
    expect(back(start, to).early).toEqual([])
  })

  it('goes by way of what is there no more when a key changes over twice', () => {
    const once = switched(start, 't_skill')
    const twice = switched(once, 't_skill')
    const steps = there(start, twice).lookUps.filter((step) => step.table === 't_volunteer_skill')
    expect(steps).toHaveLength(2)
    expect(steps[1]?.was[0]?.column).toBe(steps[0]?.becomes[0]?.column)
    // What is only passing through is no column of either state.
    expect(
      [start, twice].some((design) =>
        table(design, 't_volunteer_skill').columns.some((each) => each.id === steps[0]?.becomes[0]?.column)
      )
    ).toBe(false)
  })

  it('leaves out what nothing needs, and what was carried in an earlier version', () => {
    const to = switched(start, 't_skill')
    const without = after(
      to,
      {
        kind: 'foreignKey.remove',
        table: 't_shift',
        foreignKey: table(to, 't_shift').foreignKeys.find((key) => key.table === 't_skill')?.id ?? ''
      },
      { kind: 'column.remove', table: 't_shift', column: column(to, 't_shift', 'skill_name') }
    )
    expect(there(start, without).lookUps.map((step) => step.table)).toEqual(['t_volunteer_skill'])
    expect(
      there(to, after(to, { kind: 'table.annotate', table: 't_skill', note: 'another' })).lookUps
    ).toEqual([])
  })

  it('is looked up at the source of the rows where the table that refers is new', () => {
    const [admission, reason] = [table(start, 't_admission'), table(start, 't_reason')]
    const resolved = after(
      start,
      resolveOperation(
        admission,
        admission.foreignKeys.find((key) => key.table === reason.id) ?? expect.fail(),
        proposeJunction(start, admission, reason)
      )
    )
    const to = counted(resolved, 't_reason')
    const { lookUps, rows } = there(start, to)
    expect(lookUps).toMatchObject([
      {
        table: 't_admission',
        referred: 't_reason',
        was: [{ column: 'c_admission_reason_code', refersTo: 'c_reason_reason_code' }]
      }
    ])
    expect(rows).toHaveLength(1)
    expect(rows[0]?.columns).toContainEqual({
      to: column(to, rows[0]?.target ?? '', 'reason_id'),
      from: lookUps[0]?.becomes[0]?.column
    })
  })

  it('is known by the column, and traced to what it was looked up by', () => {
    const to = counted(start, 't_pen')
    const steps = there(start, to).lookUps
    const stay = table(to, 't_stay')
    expect(isLookedUp(steps, stay, column(to, 't_stay', 'pen_id'))).toBe(true)
    expect(isLookedUp(steps, stay, column(to, 't_stay', 'admission_id'))).toBe(false)
    expect(
      lookedUpBy(steps, stay, [column(to, 't_stay', 'admission_id'), column(to, 't_stay', 'pen_id')])
    ).toEqual(['c_stay_admission_id', 'c_stay_ward_code', 'c_stay_pen_no'])
  })

  it('reaches every row by one column, or by several that are all required', () => {
    const step = (...columns: string[]): LookUpStep => ({
      table: 't_stay',
      referred: 't_pen',
      was: columns.map((each) => ({ column: each, refersTo: each })),
      becomes: []
    })
    const stay = table(start, 't_stay')
    expect(reachesEveryRow(step('c_stay_ended_at'), stay)).toBe(true)
    expect(reachesEveryRow(step('c_stay_ward_code', 'c_stay_pen_no'), stay)).toBe(true)
    expect(reachesEveryRow(step('c_stay_ward_code', 'c_stay_ended_at'), stay)).toBe(false)
  })
})

describe('what a migration keeps', () => {
  it('is what is dropped or narrowed, by a key that outlives the change', () => {
    const to = after(
      start,
      { kind: 'column.remove', table: 't_patient', column: 'c_patient_sex' },
      {
        kind: 'column.retype',
        table: 't_patient',
        column: 'c_patient_found_at',
        type: { kind: 'text', length: 119 }
      }
    )
    expect(keepsakes(start, to).keepsakes).toEqual([
      {
        name: 'kept_patient',
        table: 't_patient',
        key: ['c_patient_patient_id'],
        columns: [
          { id: 'c_patient_sex', name: 'sex', why: 'dropped' },
          { id: 'c_patient_found_at', name: 'found_at', why: 'narrowed' }
        ]
      }
    ])
  })

  it('is nothing that is computed, and nothing that the way back looks up', () => {
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
    expect([...keptColumns(start, kept.keepsakes, lookUpsSince(start, bare).back)]).toContain(
      'c_reason_reason_code'
    )
  })

  it('is lost, and said to be, where no key outlives the change', () => {
    const skill =
      table(start, 't_volunteer_skill').foreignKeys.find((key) => key.table === 't_skill')?.id ?? ''
    const on = { table: 't_volunteer_skill' }
    const lost = after(
      start,
      { kind: 'key.setPrimary', ...on, key: null },
      { kind: 'foreignKey.remove', ...on, foreignKey: skill },
      { kind: 'column.remove', ...on, column: 'c_volunteer_skill_skill_id' }
    )
    expect(keepsakes(start, lost)).toMatchObject({ keepsakes: [], warnings: [{ ...on, effect: 'lost' }] })
  })
})
