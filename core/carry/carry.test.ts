import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Numbers, QueryMaker, someTables } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { tableOf } from '../design/directory.ts'
import type { Design, Row } from '../design/model.ts'
import type { Flow } from '../design/carry.ts'
import { canonicalValue } from '../design/same.ts'
import type { Type } from '../design/type.ts'
import { carryRows } from './apply.ts'
import { columnsOf } from './columns.ts'
import { composeFlows } from './compose.ts'
import { rowsOf } from './evaluate.ts'
import { groundOf } from './ground.ts'
import { Promises } from './promises.ts'

const numbers = fc.array(fc.nat(1000), { minLength: 20, maxLength: 80 })

/** A table's rows in one spelling and one order. */
function said(design: Design, table: string): string[] {
  const columns = tableOf(design, table)?.columns ?? []
  const row = (each: Row): string =>
    JSON.stringify(columns.map(({ id, type }) => canonicalValue(each[id], type)))
  return (tableOf(design, table)?.rows ?? []).map(row).sort()
}

/** The design with rows that have come of a flow. */
function withRows(design: Design, rows: ReadonlyMap<string, readonly Row[]>): Design {
  return {
    ...design,
    tables: design.tables.map((table) => ({ ...table, rows: [...(rows.get(table.id) ?? table.rows)] }))
  }
}

/** The design without some of the columns that came in between. */
function withoutSome(design: Design, numbers: Numbers): Design {
  const goes = (id: string): boolean => id.startsWith('c_new_') && numbers.next(3) === 0
  return {
    ...design,
    tables: design.tables.map((table) => ({ ...table, columns: table.columns.filter(({ id }) => !goes(id)) }))
  }
}

describe('flows one after the other', () => {
  it('come to the same as what they are composed to', () => {
    const counted = { changing: 0, filling: 0, adding: 0, thrice: 0, chained: 0 }
    fc.assert(
      fc.property(numbers, (given) => {
        const source = new Numbers(given)
        const design = someTables(source)
        const flows: Flow[] = []
        let step = design
        for (let n = 0; n < 2 + source.next(4); n++) {
          const { flow, after } = new QueryMaker(source, step).flow(1 + source.next(2), n)
          step = withRows(after, carryRows(flow, step).rows)
          flows.push(flow)
        }
        const to = withoutSome(step, source)
        const composed = composeFlows(
          design,
          to,
          flows.map((flow, at) => ({ id: `y_${at}`, flow }))
        )
        expect(composed.left).toEqual([])
        const whole = withRows(to, carryRows(composed, design).rows)
        for (const { id } of design.tables) expect(said(whole, id)).toEqual(said(to, id))
        if (design.tables.some(({ id }) => said(to, id).join() !== said(design, id).join()))
          counted.changing++
        if (flows.filter((flow) => flow.fills.length > 0).length > 1) counted.filling++
        if (flows.filter((flow) => flow.adds.length > 0).length > 1) counted.adding++
        if (flows.length > 2) counted.thrice++
        const fills = flows.flatMap((flow) => flow.fills)
        const isChained = fills.some((fill, at) =>
          fills.slice(0, at).some((earlier) => earlier.columns[0]?.id === fill.on[0]?.own)
        )
        if (isChained) counted.chained++
      }),
      { numRuns: times(600) }
    )
    for (const count of Object.values(counted)) expect(count).toBeGreaterThan(20)
  })
})

describe('what is promised of a query', () => {
  it('holds of its rows', () => {
    const counted = { unique: 0, filled: 0, rows: 0 }
    fc.assert(
      fc.property(numbers, (given) => {
        const source = new Numbers(given)
        const design = someTables(source)
        const query = new QueryMaker(source, design).query(3)
        const ground = groundOf(design)
        const columns = new Map(columnsOf(query, ground).map(({ id, type }) => [id, type]))
        const rows = rowsOf(query, {
          ground,
          table: (id) => tableOf(design, id)?.rows ?? [],
          result: () => []
        })
        const promises = new Promises(design)
        for (const set of promises.unique(query)) {
          const filled = rows.filter((row) => set.every((id) => (row[id] ?? null) !== null))
          const keys = filled.map((row) => set.map((id) => canonicalValue(row[id], columns.get(id) as Type)))
          expect(new Set(keys.map((key) => JSON.stringify(key))).size).toBe(keys.length)
          if (keys.length > 1) counted.unique++
        }
        for (const id of promises.filled(query)) {
          for (const row of rows) expect(row[id] ?? null).not.toBeNull()
          counted.filled++
        }
        counted.rows += rows.length
      }),
      { numRuns: times(600) }
    )
    for (const count of Object.values(counted)) expect(count).toBeGreaterThan(100)
  })
})
