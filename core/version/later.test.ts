import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import type { Column, Design, Table } from '../design/model.ts'
import { DIALECTS } from '../dialect/index.ts'
import { copiedApart, pricesLater, sayCopiedApart } from './later.ts'

const { design } = fernhollow()
const prices = (id: string, to?: string): Record<string, string> => {
  const table = tableOf(design, id) ?? expect.fail(id)
  const key = table.foreignKeys.find((each) => each.table === to)
  const later = pricesLater(design, table, key, DIALECTS.postgresql)
  return Object.fromEntries(later.map((each) => [each.to, each.price.kind]))
}

describe('what a choice would cost to change later', () => {
  it('is worked out from what would be carried', () => {
    expect(prices('t_admission', 't_finder')).toEqual({
      'many-to-many': 'rows moved',
      'one-to-one': 'free',
      required: 'free'
    })
    expect(prices('t_release', 't_release_site')).toMatchObject({
      'many-to-many': 'rows moved',
      optional: 'free'
    })
    // Of several skills only one has a place, and of what the pairs say only theirs.
    expect(prices('t_volunteer_skill')).toMatchObject({ 'one-to-many': 'knowledge lost' })
    expect(prices('t_volunteer_skill')['a number of its own as key']).toMatch(/^(free|rows moved)$/)
  })
})

describe('a copied value', () => {
  it('says how many rows hold another one than there is now, which looking it up would lose', () => {
    const said = (of: Design): string => {
      const table = tableOf(of, 't_dose') as Table
      const column = columnOf(table, 'c_dose_unit_cost') as Column
      return sayCopiedApart(copiedApart(of, table, column), table.name)
    }
    const priced = (cost: string): Design => ({
      ...design,
      tables: design.tables.map((table) =>
        table.id === 't_medicine'
          ? { ...table, rows: table.rows.map((row) => ({ ...row, c_medicine_unit_cost: cost })) }
          : table
      )
    })
    const rows = tableOf(design, 't_dose')?.rows ?? []
    const first = rows[0]?.c_dose_unit_cost as string
    const others = rows.filter((row) => Number(row.c_dose_unit_cost) !== Number(first)).length
    expect(others).toBeGreaterThan(1)
    expect(others).toBeLessThan(rows.length)
    expect(said(priced(first))).toContain(`${others} of ${rows.length} hold something else`)
    const bare = { ...design, tables: design.tables.map((table) => ({ ...table, rows: [] })) }
    expect(said(bare)).toContain('Taken back later')
  })
})
