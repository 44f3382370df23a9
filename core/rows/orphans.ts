import { columnsIn, keyOf, tableOf } from '../design/directory.ts'
import { filledRow, type Counters } from '../design/filled.ts'
import { textOfKey } from '../design/key-text.ts'
import type { Column, Design, ForeignKey, Row, Table } from '../design/model.ts'
import { rowIndex, wayBy } from '../design/row-index.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { plainFor } from '../edit/mend-rows.ts'
import type { Operation } from '../edit/operation.ts'
import { addRows } from '../edit/row.ts'
import { counted } from '../naming/words.ts'
import { lookalikesIn } from '../relate/lookalike.ts'
import { inSql, type InSql } from './in-sql.ts'

/** A reference of a table, or columns that only look like one, and the rows that point at nothing by it. */
export interface Orphaned {
  table: Table
  parent: Table
  /** Pairs of columns, as a reference has them. */
  pairs: ForeignKey['pairs']
  /** Nothing where it is not declared. */
  foreignKey: ForeignKey | undefined
  rows: readonly number[]
}

/** What of a table leads or could lead to rows of others, with those that point at nothing. Other systems' rows are not known. */
export function orphansOf(design: Design, table: Table): Orphaned[] {
  const declared = table.foreignKeys.flatMap((foreignKey): Omit<Orphaned, 'rows'>[] => {
    const parent = tableOf(design, foreignKey.table)
    return parent && keyOf(parent, foreignKey.key)
      ? [{ table, parent, pairs: foreignKey.pairs, foreignKey }]
      : []
  })
  const alike = lookalikesIn(design, table).map(({ parent, own }) => ({
    table,
    parent,
    pairs: own.map(({ id }, at) => ({ column: id, refersTo: parent.primaryKey?.columns[at] as string })),
    foreignKey: undefined
  }))
  return [...declared, ...alike]
    .filter(({ parent }) => !parent.external && !table.external)
    .map((each) => ({ ...each, rows: lostIn(each) }))
}

function lostIn({ table, parent, pairs }: Omit<Orphaned, 'rows'>): number[] {
  const its = pairs.map(({ refersTo }) => refersTo)
  const own = pairs.map(({ column }) => column)
  const there = rowIndex(parent, wayBy(its))
  const types = columnsIn(parent, its)
  return table.rows.flatMap((row, place) => {
    const text = textOfKey(table, own, row, types)
    return text !== undefined && !there.has(text) ? [place] : []
  })
}

/** What puts rows right that point at nothing. */
export const MENDINGS = ['make', 'point', 'empty', 'delete'] as const
export type Mending = (typeof MENDINGS)[number]

/** Which of them can be done: what is required is not emptied, and what is in a key neither. */
export function mendingsFor({ table, pairs }: Orphaned): readonly Mending[] {
  const own = columnsIn(
    table,
    pairs.map(({ column }) => column)
  )
  const isHeld = own.some(({ id, required }) => required || table.primaryKey?.columns.includes(id))
  return MENDINGS.filter((each) => each !== 'empty' || !isHeld)
}

/**
 * What mends the design's own rows, as one step.
 * @param to the place of the row that they are to point at.
 */
export function mendOrphans(
  design: Design,
  orphaned: Orphaned,
  mending: Mending,
  to = 0
): Extract<Operation, { kind: 'batch' }> {
  const { table, parent, pairs, rows } = orphaned
  const those = counted(rows.length, table.name)
  const changedTo = (values: Row): Operation => ({
    kind: 'rows.change',
    table: table.id,
    changed: rows.map((at) => ({ at, was: table.rows[at] ?? {}, row: { ...table.rows[at], ...values } })),
    gone: [],
    come: []
  })
  const step = (label: string, operation: Operation) => ({
    kind: 'batch' as const,
    label,
    operations: [operation]
  })
  switch (mending) {
    case 'make': {
      const made = missingRows(design, orphaned)
      return step(`make ${counted(made.length, `missing ${parent.name}`)}`, addRows(parent, made))
    }
    case 'point': {
      const row = parent.rows[to] ?? {}
      const values = Object.fromEntries(pairs.map(({ column, refersTo }) => [column, row[refersTo] ?? null]))
      return step(`let ${those} refer to another ${parent.name}`, changedTo(values))
    }
    case 'empty':
      return step(
        `let ${those} refer to nothing`,
        changedTo(Object.fromEntries(pairs.map(({ column }) => [column, null])))
      )
    case 'delete':
      return step(`delete ${those} that point at nothing`, {
        kind: 'rows.change',
        table: table.id,
        changed: [],
        gone: rows.map((at) => ({ at, row: table.rows[at] ?? {} })),
        come: []
      })
  }
}

/** The rows that are pointed at and are not there, each once, with what is required filled plainly. */
function missingRows(design: Design, { table, parent, pairs, rows }: Orphaned): Row[] {
  const counters: Counters = new Map()
  const own = pairs.map(({ column }) => column)
  const seen = new Set<string | undefined>()
  return rows.flatMap((place): Row[] => {
    const row = table.rows[place] ?? {}
    const text = textOfKey(table, own, row)
    if (seen.has(text)) return []
    seen.add(text)
    const key = Object.fromEntries(pairs.map(({ column, refersTo }) => [refersTo, row[column] ?? null]))
    const filled = filledRow(design, parent, key, counters)
    for (const column of openIn(parent, filled)) filled[column.id] = plainFor(design, column) ?? null
    return [filled]
  })
}

const openIn = ({ columns }: Table, row: Row): Column[] =>
  columns.filter(
    ({ id, required, computed }) => required && computed === undefined && (row[id] ?? null) === null
  )

/** The statement that finds them on a real database, or that mends them. */
export function orphansSql(
  design: Design,
  anyVersion: Dialect,
  orphaned: Orphaned,
  what: 'look' | Mending,
  to = 0
): string {
  const sql = inSql(design, anyVersion)
  const { table, parent, pairs } = orphaned
  const own = pairs.map(({ column }) => column)
  const set = (values: readonly string[]): string =>
    `UPDATE ${sql.table(table)}\nSET ${own.map((id, at) => `${sql.named(table, id)} = ${values[at] ?? 'NULL'}`).join(', ')}`
  const those = (alias: string): string => isLost(sql, orphaned, alias)
  switch (what) {
    case 'look': {
      const columns = new Set([...(table.primaryKey?.columns ?? []), ...own])
      const said = [...columns].map((id) => sql.column('its', table, id))
      return `SELECT ${said.join(', ')}\nFROM ${sql.table(table)} its\nWHERE ${those('its')}`
    }
    case 'delete':
      return `DELETE FROM ${sql.table(table)}\nWHERE ${those(sql.itself(table))}`
    case 'empty':
      return `${set([])}\nWHERE ${those(sql.itself(table))}`
    case 'point': {
      const row = parent.rows[to] ?? {}
      const values = columnsIn(
        parent,
        pairs.map(({ refersTo }) => refersTo)
      ).map(({ id, type }) => sql.dialect.literal(row[id] ?? null, type))
      return `${set(values)}\nWHERE ${those(sql.itself(table))}`
    }
    case 'make':
      return makeSql(design, sql, orphaned)
  }
}

/** That a row says something, and that nothing is there for it. */
function isLost(sql: InSql, { table, parent, pairs }: Orphaned, alias: string): string {
  const filled = pairs.map(({ column }) => `${sql.column(alias, table, column)} IS NOT NULL`)
  const same = pairs.map(
    ({ column, refersTo }) => `other.${sql.named(parent, refersTo)} = ${sql.column(alias, table, column)}`
  )
  return `${filled.join(' AND ')}\n  AND NOT EXISTS (SELECT 1 FROM ${sql.table(parent)} other WHERE ${same.join(' AND ')})`
}

function makeSql(design: Design, sql: InSql, orphaned: Orphaned): string {
  const { table, parent, pairs } = orphaned
  const key = Object.fromEntries(pairs.map(({ refersTo }) => [refersTo, 0]))
  const bare = filledRow(design, parent, key, new Map())
  const open = openIn(parent, bare).filter(({ id }) => !(id in key))
  const into = [...pairs.map(({ refersTo }) => refersTo), ...open.map(({ id }) => id)]
  const values = [
    ...pairs.map(({ column }) => sql.column('its', table, column)),
    ...open.map((column) => sql.dialect.literal(plainFor(design, column) ?? null, column.type))
  ]
  return [
    `INSERT INTO ${sql.table(parent)} (${into.map((id) => sql.named(parent, id)).join(', ')})`,
    `SELECT DISTINCT ${values.join(', ')}`,
    `FROM ${sql.table(table)} its`,
    `WHERE ${isLost(sql, orphaned, 'its')}`
  ].join('\n')
}
