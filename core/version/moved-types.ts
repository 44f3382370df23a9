import { BrokenQuery, columnsOf } from '../carry/columns.ts'
import { groundOf } from '../carry/ground.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import type { Column, Design, Table } from '../design/model.ts'
import { withResults, type RowQuery, type TypedColumn } from '../design/row-query.ts'
import { typeText, type Type } from '../design/type.ts'
import type { Moves } from './moves.ts'
import type { Warning } from './warnings.ts'

/** Columns that get values from elsewhere which they may not hold: another list's, no list's, or longer texts. */
export function movedUnfit(to: Design, { flow, grown }: Moves): Warning[] {
  const given = (rows: RowQuery): readonly TypedColumn[] => {
    try {
      return columnsOf(withResults(rows, flow.everyResult), groundOf(grown))
    } catch (error) {
      // What cannot be carried is told elsewhere.
      if (error instanceof BrokenQuery) return []
      throw error
    }
  }
  const moved = [
    ...flow.adds.map(({ table, rows }) => ({
      table,
      pairs: given(rows).map(({ id, type }) => ({ into: id, type }))
    })),
    ...flow.fills.map(({ table, columns, from }) => ({
      table,
      pairs: columns.flatMap(({ id, from: source }) => {
        const found = given(from).find((each) => each.id === source)
        return found ? [{ into: id, type: found.type }] : []
      })
    }))
  ]
  const unfit = moved.flatMap(({ table: id, pairs }) => {
    const table = tableOf(to, id)
    return pairs.flatMap(({ into, type }): Warning[] => {
      const column = table && columnOf(table, into)
      return column && mayNotHold(type, column.type, grown, to)
        ? [warningOf(table, column, type, grown, to)]
        : []
    })
  })
  return [...new Map(unfit.map((each) => [each.message, each])).values()]
}

function mayNotHold(type: Type, wanted: Type, from: Design, to: Design): boolean {
  if (wanted.kind === 'enum') {
    const values = to.enums.find(({ id }) => id === wanted.enum)?.values ?? []
    const given = type.kind === 'enum' ? from.enums.find(({ id }) => id === type.enum)?.values : undefined
    return given === undefined || given.some((value) => !values.includes(value))
  }
  const lengthOf = (of: Type): number | undefined =>
    of.kind === 'text' || of.kind === 'char' ? (of.length ?? Infinity) : undefined
  const [long, most] = [lengthOf(type), lengthOf(wanted)]
  return long !== undefined && most !== undefined && long > most
}

function warningOf(table: Table, column: Column, type: Type, from: Design, to: Design): Warning {
  const [was, is] = [typeText(type, from.enums), typeText(column.type, to.enums)]
  return {
    table: table.id,
    message: `${table.name}.${column.name} is ${is}, and gets values that are ${was}: the migration stops at one that it cannot hold.`,
    effect: 'stops'
  }
}
