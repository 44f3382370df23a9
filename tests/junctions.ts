import { columnsIn } from '../core/design/directory.ts'
import {
  emptyTable,
  type Column,
  type Design,
  type ForeignKey,
  type Row,
  type Table
} from '../core/design/model.ts'
import type { Draws } from './trials.ts'

/**
 * A random design with junctions besides: between two tables or three, or a table and itself, by keys of one column or of
 * several, with something of their own or nothing; each with some of the pairs that there can be.
 */
export function withJunctions(draws: Draws, design: Design): Design {
  const made = Array.from({ length: 1 + draws.below(2) }, (_, at) => junction(draws, design, `j${at}`))
  return { ...design, tables: [...design.tables, ...made] }
}

function junction(draws: Draws, { tables }: Design, name: string): Table {
  const sides = Array.from({ length: draws.chance(25) ? 3 : 2 }, () => draws.pick(tables) as Table)
  const columns: Column[] = []
  const foreignKeys = sides.map((side, at): ForeignKey => {
    const its = columnsIn(side, side.primaryKey?.columns ?? [])
    const own = its.map(({ name: column, type }) => ({
      id: `c_${name}_${at}_${column}`,
      name: `${name}_${at}_${column}`,
      type,
      required: true
    }))
    columns.push(...own)
    return {
      id: `f_${name}_${at}`,
      table: side.id,
      key: side.primaryKey?.id ?? '',
      pairs: own.map(({ id }, n) => ({ column: id, refersTo: its[n]?.id ?? '' })),
      onDelete: 'CASCADE',
      onUpdate: 'NO ACTION'
    }
  })
  const key = columns.map(({ id }) => id)
  const note: Column = { id: `c_${name}_note`, name: `${name}_note`, type: { kind: 'text' }, required: false }
  const hasOwn = draws.chance(50)
  const rows = new Map<string, Row>()
  for (let n = 0; n < 8; n++) {
    const chosen = sides.map((side) => draws.pick(side.rows))
    if (chosen.includes(undefined)) break
    const row = Object.fromEntries(
      foreignKeys.flatMap(({ pairs }, at) =>
        pairs.map(({ column, refersTo }) => [column, chosen[at]?.[refersTo] ?? null])
      )
    ) as Row
    rows.set(JSON.stringify(row), hasOwn ? { ...row, [note.id]: `note ${n}` } : row)
  }
  return {
    ...emptyTable(name, `t_${name}`),
    columns: hasOwn ? [...columns, note] : columns,
    primaryKey: { id: `k_${name}`, columns: key },
    foreignKeys,
    rows: [...rows.values()]
  }
}
