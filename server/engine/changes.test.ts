import { toJunction } from '../../core/restructure/to-junction.ts'
import { made } from '../../tests/made.ts'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Design, Key, Table } from '../../core/design/model.ts'
import { PROVABLE } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { adoptPolicy } from '../../core/naming/policy.ts'
import { proposeJunction } from '../../core/relate/propose.ts'
import { splitRepeated } from '../../core/restructure/split.ts'
import { generatedInstead, switchKey } from '../../core/restructure/another-key.ts'
import { planMigration } from '../../core/version/plan.ts'
import { proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Engine } from './engine.ts'
import { testEngine } from '../../tests/engines.ts'

const start = fernhollow().versions[3]?.design as Design
const dose = { table: 't_dose' }

/** What is done to a design by proposals that look at it, one after the other. */
function inTurn(...steps: ((design: Design) => Operation)[]): Operation {
  const operations: Operation[] = []
  let design = start
  for (const step of steps) {
    const operation = step(design)
    design = carryOut(design, operation)
    operations.push(operation)
  }
  return { kind: 'batch', operations }
}

function carryOut(design: Design, operation: Operation): Design {
  const result = apply(design, operation)
  if (!result.ok) throw new Error(result.refusal.message)
  return result.design
}

const table = (design: Design, id: string): Table =>
  design.tables.find((each) => each.id === id) ?? expect.fail(`no table ${id}`)
const counted =
  (id: string) =>
  (design: Design): Operation =>
    made(generatedInstead(design, table(design, id)))
const switched =
  (id: string, at = 0) =>
  (design: Design): Operation =>
    made(switchKey(design, table(design, id), table(design, id).uniques[at] as Key))
const resolved =
  (id: string, referred: string) =>
  (design: Design): Operation => {
    const [many, one] = [table(design, id), table(design, referred)]
    const reference = many.foreignKeys.find((each) => each.table === referred) ?? expect.fail()
    return made(toJunction(design, many, reference, proposeJunction(design, many, one)))
  }
/** The natural key goes altogether when a counted one has taken its place. */
const without =
  (id: string) =>
  (design: Design): Operation => ({
    kind: 'batch',
    operations: table(design, id).uniques.flatMap((key) => [
      { kind: 'unique.remove' as const, table: id, key: key.id },
      ...key.columns.map((column) => ({ kind: 'column.remove' as const, table: id, column }))
    ])
  })

/** One change of each kind to the demo with its rows: there, back, and there again on a real engine. */
const CHANGES: [what: string, ...operations: Operation[]][] = [
  [
    'a list of values gets another',
    {
      kind: 'enum.change',
      enum: { id: 'e_level', name: 'level', values: ['learning', 'trusted', 'teaching', 'retired'] }
    }
  ],
  [
    'a list is renamed and put into another order',
    {
      kind: 'enum.change',
      enum: { id: 'e_level', name: 'grade_of_trust', values: ['teaching', 'trusted', 'learning'] }
    }
  ],
  [
    'a list goes, and its columns are text',
    {
      kind: 'column.retype',
      table: 't_volunteer_skill',
      column: 'c_volunteer_skill_level',
      type: { kind: 'text', length: 20 }
    },
    { kind: 'enum.remove', enum: 'e_level' }
  ],
  [
    'a text becomes one of a list',
    { kind: 'enum.add', enum: { id: 'e_sex', name: 'sex', values: ['f', 'm'] } },
    {
      kind: 'column.retype',
      table: 't_patient',
      column: 'c_patient_sex',
      type: { kind: 'enum', enum: 'e_sex' }
    }
  ],
  [
    'a new column is computed',
    {
      kind: 'column.add',
      table: 't_pen',
      column: {
        id: 'c_n',
        name: 'crowded',
        type: { kind: 'boolean' },
        required: false,
        computed: '{c_pen_capacity} > 4'
      }
    }
  ],
  ['a computed column goes', { kind: 'column.remove', ...dose, column: 'c_dose_cost' }],
  [
    'a column that was there is computed from one that is new',
    {
      kind: 'column.add',
      ...dose,
      column: {
        id: 'c_n',
        name: 'n',
        type: { kind: 'decimal', precision: 8, scale: 2 },
        required: false,
        default: { kind: 'value', value: '1.50' }
      }
    },
    { kind: 'column.compute', ...dose, column: 'c_dose_cost', expression: '{c_n} * 2' }
  ],
  [
    'a column is computed from something else',
    { kind: 'column.compute', ...dose, column: 'c_dose_cost', expression: '{c_dose_quantity} * 2' }
  ],
  [
    'a column is computed no longer, and keeps what it held',
    { kind: 'column.compute', ...dose, column: 'c_dose_cost', expression: null }
  ],
  [
    'a column is computed from now on, and what it held comes back',
    { kind: 'column.compute', table: 't_stay', column: 'c_stay_ended_at', expression: '{c_stay_started_at}' }
  ],
  [
    'what a column is computed from has another type',
    {
      kind: 'column.retype',
      ...dose,
      column: 'c_dose_quantity',
      type: { kind: 'decimal', precision: 9, scale: 3 }
    }
  ],
  [
    'a check comes, changes and goes',
    {
      kind: 'check.add',
      table: 't_patient',
      check: { id: 'x_n', condition: "{c_patient_found_on} >= '2020-01-01'" }
    },
    {
      kind: 'check.change',
      table: 't_pen',
      check: { id: 'x_pen_capacity', condition: '{c_pen_capacity} > 0' }
    },
    { kind: 'check.remove', ...dose, check: 'x_dose_quantity' }
  ],
  [
    'a checked column is renamed',
    { kind: 'column.rename', table: 't_pen', column: 'c_pen_capacity', name: 'room for' }
  ],
  [
    'an index comes, runs the other way and goes',
    {
      kind: 'index.add',
      table: 't_patient',
      index: {
        id: 'i_n',
        columns: [{ column: 'c_patient_found_on', descending: true }],
        unique: false,
        where: '{c_patient_ring} IS NOT NULL'
      }
    },
    {
      kind: 'index.change',
      table: 't_carer_note',
      index: {
        id: 'i_carer_note_latest',
        columns: [{ column: 'c_carer_note_admission_id', descending: true }],
        unique: false
      }
    },
    { kind: 'index.remove', table: 't_stay', index: 'i_stay_open' }
  ],
  [
    'constraints are named',
    { kind: 'constraint.rename', ...dose, constraint: 'k_dose', name: 'dose key' },
    { kind: 'constraint.rename', ...dose, constraint: 'x_dose_quantity', name: 'some' },
    { kind: 'constraint.rename', table: 't_stay', constraint: 'i_stay_open', name: null }
  ],
  [
    'notes change',
    { kind: 'table.annotate', ...dose, note: "it's another" },
    { kind: 'column.annotate', ...dose, column: 'c_dose_unit_cost', note: '' },
    { kind: 'column.annotate', ...dose, column: 'c_dose_quantity', note: 'how much' }
  ],
  [
    'a row policy changes and another comes',
    {
      kind: 'rowPolicy.change',
      table: 't_carer_note',
      rowPolicy: {
        id: 'p_carer_note_open',
        name: 'open_notes',
        command: 'ALL',
        condition: 'NOT {c_carer_note_kept_private}'
      }
    },
    {
      kind: 'rowPolicy.add',
      table: 't_patient',
      rowPolicy: {
        id: 'p_n',
        name: 'found',
        command: 'INSERT',
        role: 'front desk',
        condition: '{c_patient_found_on} <= today()'
      }
    }
  ],
  ['a row policy goes', { kind: 'rowPolicy.remove', table: 't_carer_note', rowPolicy: 'p_carer_note_open' }],
  [
    'tables move into a schema',
    { kind: 'schema.add', schema: { id: 's_n', name: 'the ward' } },
    { kind: 'table.setSchema', table: 't_ward', schema: 's_n' },
    { kind: 'table.setSchema', table: 't_pen', schema: 's_n' }
  ],
  [
    'a table moves into a schema under another name',
    { kind: 'table.rename', table: 't_volunteer', name: 'helper' },
    { kind: 'table.setSchema', table: 't_volunteer', schema: 's_staff' }
  ],
  [
    'a column of new types comes',
    {
      kind: 'column.add',
      table: 't_shift',
      column: {
        id: 'c_n',
        name: 'pause',
        type: { kind: 'interval' },
        required: true,
        default: { kind: 'value', value: 'PT15M' }
      }
    },
    {
      kind: 'column.add',
      table: 't_shift',
      column: { id: 'c_m', name: 'badge', type: { kind: 'binary', length: 4 }, required: false }
    }
  ],
  [
    'a default is worked out',
    {
      kind: 'column.setDefault',
      table: 't_skill',
      column: 'c_skill_name',
      default: { kind: 'expression', expression: "upper('new')" }
    }
  ],
  [
    'foreign keys get no indexes any more',
    { kind: 'design.setPolicy', policy: { ...start.policy, indexForeignKeys: false } }
  ],
  ['a counted key takes a natural one’s place, and what refers follows', inTurn(counted('t_reason'))],
  ['a counted key takes the place of one of two columns', inTurn(counted('t_pen'))],
  ['a counted key takes a natural one’s place for good', inTurn(counted('t_reason'), without('t_reason'))],
  [
    'a counted key goes for good, though the keys of what refers were made of it',
    inTurn(switched('t_skill'), without('t_skill'))
  ],
  [
    'a natural key takes a counted one’s place, in the keys of what refers too',
    inTurn(switched('t_skill'), switched('t_condition'))
  ],
  ['a key changes over and back again', inTurn(switched('t_skill'), switched('t_skill'))],
  [
    'one key after another changes over, and the second reference goes by the first',
    inTurn(counted('t_pen'), counted('t_ward'))
  ],
  [
    'a key changes over while its list of values gets another',
    inTurn(switched('t_skill'), counted('t_reason'), () => ({
      kind: 'enum.change',
      enum: { id: 'e_level', name: 'level', values: ['learning', 'trusted', 'teaching', 'retired'] }
    }))
  ],
  [
    'a reference becomes a junction, and then the key that it is by changes over',
    inTurn(resolved('t_admission', 't_reason'), counted('t_reason'))
  ],
  [
    'two references of one table become junctions, and then its own key changes over',
    inTurn(resolved('t_admission', 't_reason'), resolved('t_admission', 't_finder'), counted('t_reason'))
  ],
  [
    'the key that a reference is by changes over, and then the reference becomes a junction',
    inTurn(counted('t_reason'), resolved('t_admission', 't_reason'), switched('t_reason'))
  ],
  [
    'columns that repeat become rows, and a key changes over',
    inTurn((design) => {
      const finder = table(design, 't_finder')
      const texts = finder.columns.filter((each) => each.type.kind === 'text' && !each.required)
      return splitRepeated(design, finder, 'said', texts.slice(0, 2))?.operation ?? expect.fail('no split')
    }, switched('t_skill'))
  ],
  [
    'a reference to a key that is not the first becomes a junction',
    inTurn(
      (design) => ({
        kind: 'column.add',
        table: 't_shift',
        column: {
          id: 'c_wanted',
          name: 'wanted',
          type: table(design, 't_skill').columns[1]?.type ?? expect.fail(),
          required: false
        },
        values: table(design, 't_shift').rows.map((_, at) =>
          at % 3 === 2 ? null : String(table(design, 't_skill').rows[at % 3]?.c_skill_name)
        )
      }),
      (design) => ({
        kind: 'foreignKey.add',
        table: 't_shift',
        foreignKey: {
          id: 'f_wanted',
          table: 't_skill',
          key: table(design, 't_skill').uniques[0]?.id ?? '',
          pairs: [{ column: 'c_wanted', refersTo: 'c_skill_name' }],
          onDelete: 'SET NULL',
          onUpdate: 'CASCADE'
        }
      }),
      (design) => {
        const [shift, skill] = [table(design, 't_shift'), table(design, 't_skill')]
        const wanted = shift.foreignKeys.find((each) => each.id === 'f_wanted') ?? expect.fail()
        return made(toJunction(design, shift, wanted, proposeJunction(design, shift, skill)))
      }
    )
  ],
  [
    'everything is named by another policy',
    adoptPolicy(
      start,
      {
        ...start.policy,
        letterCase: 'UpperCamel',
        tables: 'plural',
        primaryKey: 'PK_{table}',
        index: 'IX_{table}_{columns}'
      },
      true
    )
  ]
]

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))('on %s', (_, dialect) => {
  let engine: Engine
  beforeAll(async () => {
    engine = await testEngine(dialect)
  })
  afterAll(() => engine.close())

  it.each(CHANGES)('%s', async (_what, ...operations) => {
    const end = carryOut(start, { kind: 'batch', operations })
    const proof = await proveMigration(start, end, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    expect(proof.good).toBe(true)
    // The way there says something wherever the engine keeps what has changed.
    const silent = planMigration(start, end, dialect).up.length === 0
    expect(
      silent &&
        JSON.stringify(dialect.catalog(start).catalog) !== JSON.stringify(dialect.catalog(end).catalog)
    ).toBe(false)
  })

  it('a junction goes back into the reference that it was, with what was written in between', async () => {
    const end = carryOut(start, resolved('t_admission', 't_finder')(start))
    const proof = await proveMigration(start, end, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    // The proof has left the engine at the end. A pair goes, one comes, and one gets another beside it.
    const ids = table(start, 't_admission').rows.map((row) => Number(row.c_admission_admission_id))
    const [first, second] = [ids[0] ?? 0, ids[1] ?? 0]
    await engine.query(`DELETE FROM admission_finder WHERE admission_id IN (${first}, ${second})`)
    await engine.query(
      `INSERT INTO admission_finder (admission_id, finder_id) VALUES (${second}, 3), (${second}, 2)`
    )
    for (const { sql } of planMigration(start, end, dialect).down) await engine.query(sql)
    const rows = await engine.query('SELECT admission_id AS id, finder_id AS finder FROM admission')
    const now = new Map(rows.map((row) => [Number(row.id), row.finder]))
    expect([now.get(first), now.get(second)]).toEqual([null, 2])
    for (const row of table(start, 't_admission').rows.slice(2))
      expect(now.get(Number(row.c_admission_admission_id))).toBe(row.c_admission_finder_id ?? null)
  })

  it('what was changed and deleted between down and up stays so, and what has no place there is put back', async () => {
    const end = carryOut(start, resolved('t_admission', 't_finder')(start))
    const plan = planMigration(start, end, dialect)
    const run = async (statements: readonly { sql: string }[]): Promise<void> => {
      for (const { sql } of statements) await engine.query(sql)
    }
    const proof = await proveMigration(start, end, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    const pairs = async (): Promise<string[]> => {
      const rows = await engine.query('SELECT admission_id AS id, finder_id AS finder FROM admission_finder')
      return rows.map((row) => `${String(row.id)} ${String(row.finder)}`).sort()
    }
    const before = await pairs()
    const [first = '', second = ''] = before.map((pair) => pair.split(' ')[0] ?? '')
    const finder = (id: string): string =>
      before.find((pair) => pair.startsWith(`${id} `))?.split(' ')[1] ?? ''
    const another = (id: string): string => ['1', '2', '3'].find((each) => each !== finder(id)) ?? ''
    // A second finder of one admission has no place in the reference; which of the two has is told by the order.
    await engine.query(
      `INSERT INTO admission_finder (admission_id, finder_id) VALUES (${first}, ${another(first)})`
    )
    await run(plan.down)
    await engine.query(`UPDATE admission SET finder_id = NULL WHERE admission_id = ${second}`)
    const third =
      before.map((pair) => pair.split(' ')[0] ?? '').find((id) => id !== first && id !== second) ?? ''
    await engine.query(`UPDATE admission SET finder_id = ${another(third)} WHERE admission_id = ${third}`)
    await run(plan.up)
    const wanted = [
      ...before.filter((pair) => ![second, third].includes(pair.split(' ')[0] ?? '')),
      `${first} ${another(first)}`,
      `${third} ${another(third)}`
    ]
    expect(await pairs()).toEqual(wanted.sort())
  })
})
