import { tableOf } from '../design/directory.ts'
import type { Design, ForeignKey, Row, Table } from '../design/model.ts'

/** How far a label looks for words behind a reference. */
const DEEPEST = 2

/**
 * What a row is called for a person: its first text that says something by itself, a moment where it has
 * one, and only where there is neither what it refers to or its key. Never a bare number where there is
 * anything better.
 */
export function rowLabel(design: Design, table: Table, row: Row, depth = 0): string {
  const referring = new Set(
    table.foreignKeys.flatMap((foreignKey) => foreignKey.pairs.map((pair) => pair.column))
  )
  const said = (id: string): string | undefined => {
    const value = row[id]
    return value === null || value === undefined || value === '' ? undefined : String(value)
  }
  const plain = table.columns.filter((column) => !referring.has(column.id))
  const isText = (kind: string): boolean => kind === 'text' || kind === 'char'
  const named =
    plain.find(
      (column) =>
        isText(column.type.kind) &&
        /name|title|label|description/i.test(column.name) &&
        said(column.id) !== undefined
    ) ?? plain.find((column) => isText(column.type.kind) && said(column.id) !== undefined)
  if (named) return said(named.id) as string
  const moment = plain.find(
    (column) =>
      (column.type.kind === 'timestamp' || column.type.kind === 'date') && said(column.id) !== undefined
  )
  const when = moment && (said(moment.id) as string).slice(0, 16)
  const [first] =
    depth < DEEPEST
      ? table.foreignKeys.flatMap((foreignKey) => referredLabel(design, foreignKey, row, depth))
      : []
  if (first || when) return [first, when].filter(Boolean).join(', ')
  return (table.primaryKey?.columns ?? table.columns.slice(0, 1).map((column) => column.id))
    .map((id) => said(id) ?? '–')
    .join(', ')
}

function referredLabel(design: Design, foreignKey: ForeignKey, row: Row, depth: number): string[] {
  const parent = tableOf(design, foreignKey.table)
  const found = parent?.rows.find((each) =>
    foreignKey.pairs.every(
      (pair) =>
        row[pair.column] !== undefined &&
        row[pair.column] !== null &&
        each[pair.refersTo] === row[pair.column]
    )
  )
  return parent && found ? [rowLabel(design, parent, found, depth + 1)] : []
}

/** Some pairs of rows as a junction would hold them, in words; none where a side has no rows. */
export function pairPreview(design: Design, first: Table, second: Table): string[] {
  const count = Math.min(3, first.rows.length * second.rows.length)
  return Array.from({ length: count }, (_, at) => {
    const left = first.rows[Math.floor(at / 2) % first.rows.length]
    const right = second.rows[at % second.rows.length]
    return left && right ? `${rowLabel(design, first, left)} · ${rowLabel(design, second, right)}` : ''
  }).filter(Boolean)
}
