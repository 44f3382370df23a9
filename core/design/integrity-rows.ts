import { fits } from './value.ts'
import { columnOf, tableOf } from './directory.ts'
import { type Column, type Design, type Row, type Table } from './model.ts'
import { rowsDelta } from './successive.ts'
import { shorten } from './type.ts'
import { type Flaw } from './flaw.ts'

/** What is wrong in rows as values of their columns; which rules they break is said by ./violations.ts. */

/** What a table's rows were judged by; as long as that stays, they are as they were found. */
interface JudgedBy {
  enums: Design['enums']
  columns: readonly Pick<Column, 'id' | 'type' | 'computed'>[]
}

interface RowFlaw {
  at: number
  column: string
  message: string
}

const judgedRows = new WeakMap<readonly Row[], { by: JudgedBy; flaws: readonly RowFlaw[] }>()

export function flawsOfRows(design: Design, table: Table, path: Flaw['path'], before?: Design): Flaw[] {
  if (table.rows.length === 0) return []
  const was = before && tableOf(before, table.id)
  const isAlike = was && judgedAlike({ enums: before.enums, columns: was.columns }, design, table)
  const flaws = isAlike ? flawsOfNewRows(design, was, table) : flawsOfAllRows(design, table)
  return flaws.map(({ at, column, message }) => ({
    path: [...path, 'rows', at, column],
    message: `row ${at + 1} of ${table.name}: ${message}`
  }))
}

function flawsOfAllRows(design: Design, table: Table): readonly RowFlaw[] {
  const known = judgedRows.get(table.rows)
  if (known && judgedAlike(known.by, design, table)) return known.flaws
  const by = { enums: design.enums, columns: table.columns }
  const flaws = table.rows.flatMap((row, at) => judgeRow(design, table, row, at))
  judgedRows.set(table.rows, { by, flaws })
  return flaws
}

/** Of rows that are there in another state of the table, nothing is said. */
function flawsOfNewRows(design: Design, was: Table, table: Table): RowFlaw[] {
  const { head, before, after } = rowsDelta(was.rows, table.rows)
  const flaws: RowFlaw[] = []
  const there = new Set(after === 0 ? [] : was.rows.slice(head, head + before))
  for (let at = head; at < head + after; at++) {
    const row = table.rows[at] as Row
    if (!there.has(row)) flaws.push(...judgeRow(design, table, row, at))
  }
  return flaws
}

function judgedAlike({ enums, columns }: JudgedBy, design: Design, table: Table): boolean {
  const alike = (one: JudgedBy['columns'][number], other: Column | undefined): boolean =>
    one.id === other?.id && one.type === other.type && one.computed === other.computed
  return (
    enums === design.enums &&
    columns.length === table.columns.length &&
    columns.every((column, at) => alike(column, table.columns[at]))
  )
}

function judgeRow(design: Design, table: Table, row: Row, at: number): RowFlaw[] {
  return Object.entries(row).flatMap(([id, value]) => {
    const flaw = (message: string): RowFlaw[] => [{ at, column: id, message }]
    const column = columnOf(table, id)
    if (!column) return flaw(`${table.name} has no column ${id}`)
    if (column.computed !== undefined && value !== null)
      return flaw(`${column.name} is computed, so no value can be put there`)
    return fits(value, column.type, design.enums)
      ? []
      : flaw(`${shorten(JSON.stringify(value))} does not fit ${column.name}`)
  })
}
