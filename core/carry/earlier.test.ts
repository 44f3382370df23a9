import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Carry } from '../design/carry.ts'
import { tableOf } from '../design/directory.ts'
import { newId, type Design, type Row, type Table } from '../design/model.ts'
import { replay } from '../edit/apply.ts'
import { proposeJunction } from '../relate/propose.ts'
import { carryRows } from './apply.ts'
import { composeFlows } from './compose.ts'
import { flowing } from './earlier.ts'

const start = fernhollow().versions[1]?.design as Design
const table = (design: Design, id: string): Table => tableOf(design, id) ?? expect.fail(`no table ${id}`)
const sorted = (rows: readonly Row[] | undefined): string[] =>
  (rows ?? []).map((row) => JSON.stringify(Object.entries(row).sort())).sort()

describe('a carry of an earlier time', () => {
  const many = table(start, 't_admission')
  const reference = many.foreignKeys.find((key) => key.table === 't_reason') ?? expect.fail()
  const junction = proposeJunction(start, many, table(start, 't_reason'))
  // As it stands in a log: the operation did all of it by itself.
  const result = replay(start, {
    kind: 'relationship.resolveToJunction',
    table: many.id,
    foreignKey: reference.id,
    junction,
    carry: newId('y')
  })
  const end = result.ok ? result.design : expect.fail(result.refusal.message)
  const carry = end.carries.at(-1) as Carry

  it('is kept as it was, and read as flows there and back', () => {
    expect(carry).toMatchObject({ source: 't_admission', target: junction.table.id })
    const { id, there, back } = flowing(carry, [end, start])
    const flow = composeFlows(start, end, [{ id, flow: there }])
    const made = carryRows(flow, start).rows.get(junction.table.id)
    expect(sorted(made)).toEqual(sorted(table(end, junction.table.id).rows))
    expect(made?.length).toBeGreaterThan(5)
    const home = composeFlows(end, start, [{ id, flow: back }])
    const rows = carryRows(home, end).rows.get('t_admission')
    expect(sorted(rows)).toEqual(sorted(many.rows))
  })

  it('that looks a key up reads the same backwards', () => {
    const pairs = (column: string, refersTo: string) => [{ column, refersTo }]
    const looked: Carry = {
      id: 'y_looked',
      table: 't_admission',
      referred: 't_reason',
      was: pairs('c_admission_reason_code', 'c_reason_reason_code'),
      becomes: pairs('c_new', 'c_reason_description')
    }
    const { there, back } = flowing(looked, [])
    const found = carryRows(there, start).rows.get('t_admission') ?? []
    const said = new Map(
      table(start, 't_reason').rows.map((row) => [row.c_reason_reason_code, row.c_reason_description])
    )
    for (const row of found) expect(row.c_new).toBe(said.get(row.c_admission_reason_code))
    expect(back.fills).toMatchObject([
      { columns: [{ id: 'c_admission_reason_code' }], on: [{ own: 'c_new' }] }
    ])
  })

  it('puts one value for all into rows, and goes back by those that have it', () => {
    const valued: Carry = {
      id: 'y_valued',
      source: 't_reason',
      target: 't_made',
      where: ['c_reason_description'],
      columns: [
        { to: 'c_code', from: 'c_reason_reason_code' },
        { to: 'c_no', value: 1 },
        { to: 'c_said', from: 'c_reason_description' }
      ]
    }
    const { there, back } = flowing(valued, [])
    const rows = carryRows(there, start).rows.get('t_made') ?? []
    expect(rows).toHaveLength(table(start, 't_reason').rows.length)
    expect(rows.every((row) => row.c_no === 1)).toBe(true)
    expect(back.fills[0]?.on).toEqual([{ own: 'c_reason_reason_code', other: 'c_code' }])
  })
})
