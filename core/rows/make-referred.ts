import { columnOf, fold, tableOf } from '../design/directory.ts'
import { filledRow } from '../design/filled.ts'
import type { Design, ForeignKey, Row, Table } from '../design/model.ts'
import { parseValue } from '../design/value.ts'
import { listed } from '../design/words.ts'
import { proposeLabel, rowLabel } from '../relate/label.ts'

/** A row that is not there yet and that a reference would lead to. */
export interface MissingRow {
  parent: Table
  row: Row
  /** What the row that refers would hold. */
  values: Row
  says: string
}

/**
 * The row that is missing where something is typed into a reference that nothing is called: it is called so, and what
 * else it must hold is left to be written. Nothing where it could not be referred to, or one is called so already.
 */
export function missingRow(
  design: Design,
  key: ForeignKey,
  typed: string,
  now?: string
): MissingRow | undefined {
  const parent = tableOf(design, key.table)
  const wanted = typed.trim()
  if (!parent || parent.external || wanted === '') return undefined
  const [id] = parent.label ?? proposeLabel(parent)
  const column = id === undefined ? undefined : columnOf(parent, id)
  const isReference = parent.foreignKeys.some(({ pairs }) => pairs.some((pair) => pair.column === id))
  if (!column || isReference || column.computed !== undefined) return undefined
  const value = parseValue(wanted, column.type, design.enums)
  const isThere = parent.rows.some((row) => fold(rowLabel(design, parent, row)) === fold(wanted))
  if (!value.ok || isThere) return undefined
  const row = filledRow(design, parent, { [column.id]: value.value }, new Map(), now)
  const values = Object.fromEntries(key.pairs.map((pair) => [pair.column, row[pair.refersTo] ?? null]))
  if (Object.values(values).includes(null)) return undefined
  const open = parent.columns.filter(
    (each) => each.required && each.computed === undefined && (row[each.id] ?? null) === null
  )
  const needs = open.length > 0 ? `, which then needs ${listed(open.map(({ name }) => name))}` : ''
  return { parent, row, values, says: `make ${parent.name} “${wanted}”${needs}` }
}
