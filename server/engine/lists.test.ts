import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readExpression } from '../../core/design/expressions.ts'
import { emptyDesign, emptyTable, type Column, type Design, type Table } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { planMigration } from '../../core/version/plan.ts'
import { proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { column } from '../../tests/columns.ts'
import type { Engine } from './engine.ts'
import { testEngine } from '../../tests/engines.ts'

const LIST = { id: 'e_housing', name: 'housing' }
const NUMBER = column('pen_id', 'integer', { required: true })
const HOUSING: Column = {
  ...column('housing', 'text(20)'),
  type: { kind: 'enum', enum: LIST.id }
}

function pens(values: string[], more: Partial<Table> = {}): Design {
  return {
    ...emptyDesign('Pens', 'd_pens'),
    enums: [{ ...LIST, values }],
    tables: [
      {
        ...emptyTable('pen', 't_pen'),
        columns: [NUMBER, HOUSING],
        primaryKey: { id: 'k_pen', columns: [NUMBER.id] },
        rows: [
          { [NUMBER.id]: 1, [HOUSING.id]: 'cage' },
          { [NUMBER.id]: 2, [HOUSING.id]: 'pool' }
        ],
        ...more
      }
    ]
  }
}
const condition = (text: string, values: string[]): string => {
  const read = readExpression(text, { columns: [NUMBER, HOUSING], enums: [{ ...LIST, values }] })
  return read.ok ? read.value : expect.fail(read.message)
}

describe('a list of values of PostgreSQL', () => {
  const dialect = DIALECTS.postgresql
  let engine: Engine
  beforeAll(async () => {
    engine = await testEngine(dialect)
  })
  afterAll(() => engine.close())

  const isReplaced = (from: Design, to: Design): boolean =>
    planMigration(from, to, dialect).ways.up.steps.some(({ kind }) => kind === 'makeList')
  const proven = async (from: Design, to: Design): Promise<string[]> =>
    sayTrouble(await proveMigration(from, to, dialect, engine.query))

  it.each(['normal', 'state', 'in', 'off', 'pen', 'type', 'null', 'c_housing', "o'clock"])(
    'gets %s added, and no table is written anew for it',
    async (value) => {
      const [from, to] = [pens(['cage', 'pool']), pens(['cage', value, 'pool'])]
      expect(isReplaced(from, to)).toBe(false)
      expect(await proven(from, to)).toEqual([])
    }
  )

  const grown = ['cage', 'pool', 'normal']
  it.each<[string, Design, Design]>([
    [
      'is what a column begins with',
      pens(['cage', 'pool']),
      pens(grown, {
        columns: [NUMBER, { ...HOUSING, default: { kind: 'value', value: 'normal' } }]
      })
    ],
    [
      'stands in a check',
      pens(['cage', 'pool']),
      pens(grown, {
        checks: [{ id: 'x_pen', condition: condition("housing <> 'normal' or pen_id > 0", grown) }]
      })
    ],
    [
      'may be what a text holds that becomes one of the list',
      pens(['cage', 'pool'], {
        columns: [NUMBER, { ...HOUSING, type: { kind: 'text', length: 20 } }],
        rows: [{ [NUMBER.id]: 1, [HOUSING.id]: 'normal' }]
      }),
      pens(grown, { rows: [{ [NUMBER.id]: 1, [HOUSING.id]: 'normal' }] })
    ]
  ])('is replaced where the new value %s', async (_, from, to) => {
    expect(isReplaced(from, to)).toBe(true)
    expect(await proven(from, to)).toEqual([])
  })
})
