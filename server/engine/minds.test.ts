import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tableOf } from '../../core/design/directory.ts'
import type { Design, Table } from '../../core/design/model.ts'
import { PROVABLE } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Answers, ChangeOffer } from '../../core/restructure/change.ts'
import { offersFor } from '../../core/restructure/index.ts'
import { planMigration } from '../../core/version/plan.ts'
import { proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { helpers, outcomes, places } from '../../tests/alike.ts'
import { testEngine } from '../../tests/engines.ts'
import type { Engine } from './engine.ts'

/** Every change of mind, on the demo with its rows: there, back and there again on each engine. */

const start = fernhollow().versions[3]?.design as Design
const table = (design: Design, id: string): Table =>
  tableOf(design, id) ?? design.tables.find(({ name }) => name === id) ?? expect.fail(`no table ${id}`)

/** Where a change is made: a table, and which of those that it refers to. */
interface Case {
  kind: string
  at: string
  to?: string
  answers?: Answers
  /** What is there before, beside the demo. */
  beside?: Operation[]
  /** What the same place is offered afterwards, since the shape is recognised as what it is. */
  then?: string
  /** Where it is offered, if the table itself is gone. */
  thenAt?: string
}

/** A skill that a volunteer is best at, beside those that they have: for one of them it is among those, for another not. */
const bestSkill: Operation[] = [
  {
    kind: 'relationship.add',
    parent: 't_skill',
    child: 't_volunteer',
    foreignKey: 'f_best',
    columns: [{ id: 'c_best', name: 'best_skill_id' }],
    required: false,
    onDelete: 'SET NULL',
    onUpdate: 'CASCADE'
  },
  {
    kind: 'table.setRows',
    table: 't_volunteer',
    rows: (tableOf(start, 't_volunteer')?.rows ?? []).map((row, at) => ({
      ...row,
      ...(at < 5 && { c_best: (at % 3) + 1 })
    }))
  }
]

/** What another change of mind does to the demo, as it is answered or proposed. */
function after(of: Case): Operation[] {
  const operation = offer(prepared(of), of).operation(of.answers)
  return [...(of.beside ?? []), operation.ok ? operation.value : expect.fail(operation.message)]
}

/** What ends up in quotes, sorts before small letters, and is what a keepsake has of its own. */
const oddlyCalled: Operation[] = [
  { kind: 'table.rename', table: 't_driver', name: '[o\'dri"ver' },
  { kind: 'table.rename', table: 't_fosterer', name: 'select; --' },
  ...['driver', 'fosterer'].flatMap((name): Operation[] => [
    { kind: 'column.rename', table: `t_${name}`, column: `c_${name}_id`, name: 'returns' },
    { kind: 'column.rename', table: `t_${name}`, column: `c_${name}_badge`, name: 'town_became' }
  ])
]

/** What engines do not compare, or each in its own way. */
const withDocuments: Operation[] = ['driver', 'fosterer'].flatMap((name): Operation[] => [
  {
    kind: 'column.add',
    table: `t_${name}`,
    column: { id: `c_${name}_papers`, name: 'papers', type: { kind: 'json' }, required: false }
  },
  {
    kind: 'column.add',
    table: `t_${name}`,
    column: { id: `c_${name}_drive`, name: 'drive', type: { kind: 'interval' }, required: false }
  },
  {
    kind: 'table.setRows',
    table: `t_${name}`,
    rows: [3, 4, 8, 9].map((no) => ({
      [`c_${name}_id`]: no,
      [`c_${name}_name`]: 'Wim Tarrant',
      [`c_${name}_town`]: 'Oxlea',
      [`c_${name}_papers`]: `{"licence": ${no}}`,
      [`c_${name}_drive`]: 'PT45M'
    }))
  }
])

/** A release goes by a number of its own; and then an admission has several. */
const numbered = after({ kind: 'own key', at: 't_release', to: 't_admission' })
const several = after({ kind: 'any number', at: 't_release', to: 't_admission', beside: numbered })

const CASES: Case[] = [
  { kind: 'one table', at: 't_reason', beside: outcomes, answers: { name: 'cause' } },
  { kind: 'one table', at: 't_driver', beside: helpers },
  { kind: 'one table', at: 't_driver', beside: [...helpers, ...oddlyCalled] },
  { kind: 'one table', at: 't_driver', beside: [...helpers, ...withDocuments] },
  {
    kind: 'apart',
    at: 'cause',
    beside: after({ kind: 'one table', at: 't_reason', beside: outcomes, answers: { name: 'cause' } }),
    then: 'one table',
    thenAt: 'outcome'
  },
  {
    kind: 'apart',
    at: 'helper',
    beside: after({ kind: 'one table', at: 't_driver', beside: helpers, answers: { name: 'helper' } })
  },
  { kind: 'apart', at: 't_place', beside: places, then: 'one table', thenAt: 'clinic' },
  { kind: 'at most one', at: 't_release', to: 't_admission', beside: several, then: 'any number' },
  { kind: 'any number', at: 't_release', to: 't_admission', beside: numbered, then: 'at most one' },
  { kind: 'shared key', at: 't_release', to: 't_admission', beside: numbered, then: 'own key' },
  {
    kind: 'required',
    at: 't_admission',
    to: 't_patient',
    beside: after({ kind: 'optional', at: 't_admission', to: 't_patient' }),
    then: 'optional'
  },
  {
    kind: 'table to list',
    at: 't_ward',
    to: 'any',
    beside: after({ kind: 'list to table', at: 't_ward' })
  },
  { kind: 'superfluous', at: 't_volunteer', to: 't_skill', beside: bestSkill },
  { kind: 'to junction', at: 't_admission', to: 't_finder' },
  { kind: 'to junction', at: 't_admission', to: 't_reason', answers: { keyed: 'own', name: 'cause' } },
  { kind: 'from junction', at: 't_volunteer_skill', answers: { which: 'first' } },
  { kind: 'from junction', at: 't_dose', answers: { which: 'most c_dose_given_at' } },
  { kind: 'optional', at: 't_admission', to: 't_patient', then: 'required' },
  { kind: 'identifying', at: 't_admission', to: 't_patient', then: 'non-identifying' },
  { kind: 'identifying', at: 't_admission', to: 't_patient', answers: { beside: 'counted', old: 'gone' } },
  { kind: 'non-identifying', at: 't_pen', to: 't_ward', then: 'identifying' },
  { kind: 'own key', at: 't_release', to: 't_admission', then: 'shared key' },
  { kind: 'further', at: 't_admission', to: 't_patient' },
  { kind: 'nearer', at: 't_shift', to: 't_ward', answers: { several: 'first' } },
  { kind: 'turned round', at: 't_admission', to: 't_finder', answers: { several: 'last' } },
  { kind: 'columns up', at: 't_admission', to: 't_patient', answers: { differ: 'first' } },
  { kind: 'columns down', at: 't_admission', to: 't_patient', answers: { which: ['c_patient_found_at'] } },
  { kind: 'split off', at: 't_finder', then: 'split off' },
  { kind: 'split off', at: 't_release', answers: { rows: 'all' } },
  { kind: 'facts apart', at: 't_patient', answers: { which: ['c_patient_found_on', 'c_patient_found_at'] } },
  { kind: 'facts apart', at: 't_patient', answers: { which: ['c_patient_sex'], by: 'c_patient_sex' } },
  { kind: 'facts apart', at: 't_ward', answers: { which: ['c_ward_housing'] } },
  { kind: 'list to table', at: 't_ward' },
  { kind: 'merged into its one', at: 't_release', to: 't_admission' },
  { kind: 'merged into each', at: 't_admission', to: 't_finder' },
  { kind: 'generated key', at: 't_dose', then: 'pair as key' },
  { kind: 'generated key', at: 't_ward', then: 'natural key' },
  { kind: 'natural key', at: 't_ward', then: 'natural key' }
]

function prepared({ beside = [] }: Case): Design {
  const result = apply(start, { kind: 'batch', operations: beside })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

function offer(design: Design, { kind, at, to }: Case): ChangeOffer {
  const of = table(design, at)
  const keys = to === 'any' ? of.foreignKeys : of.foreignKeys.filter((key) => key.table === to)
  const places = to === undefined ? [undefined] : keys
  const offers = places.flatMap((foreignKey) => offersFor(design, { table: of, foreignKey }))
  const found = offers.find((each) => each.kind === kind)
  return found ?? expect.fail(`${kind} is not offered for ${of.name}`)
}

function changed(design: Design, of: Case): Design {
  const operation = offer(design, of).operation(of.answers)
  if (!operation.ok) expect.fail(operation.message)
  const result = apply(design, operation.value)
  return result.ok ? result.design : expect.fail(result.refusal.message)
}

it('every kind that is offered for any of these tables is among them', () => {
  const offered = CASES.flatMap((each) => {
    const design = prepared(each)
    return design.tables.flatMap((of) =>
      [undefined, ...of.foreignKeys].flatMap((foreignKey) => offersFor(design, { table: of, foreignKey }))
    )
  })
  const done = new Set(CASES.map(({ kind }) => kind))
  expect([...new Set(offered.map(({ kind }) => kind))].filter((kind) => !done.has(kind))).toEqual([])
})

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))('on %s', (_, dialect) => {
  let engine: Engine
  beforeAll(async () => {
    engine = await testEngine(dialect)
  })
  afterAll(() => engine.close())

  it.each(CASES.map((each) => [`${each.kind} of ${each.at} ${each.to ?? ''}`, each] as const))(
    '%s',
    async (_what, each) => {
      const from = prepared(each)
      const end = changed(from, each)
      const plan = planMigration(from, end, dialect)
      expect([...plan.warnings.up, ...plan.warnings.down].filter(({ effect }) => effect === 'lost')).toEqual(
        []
      )
      const proof = await proveMigration(from, end, dialect, engine.query)
      expect(sayTrouble(proof)).toEqual([])
      expect(proof.good).toBe(true)
      if (each.then)
        expect(offer(end, { ...each, kind: each.then, at: each.thenAt ?? each.at }).kind).toBe(each.then)
    }
  )
})
