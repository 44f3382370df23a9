import { once } from '../once.ts'
import { columnOf, columnsIn, fold, fullName, directory, tableOf } from '../design/directory.ts'
import {
  nameSchema,
  type Column,
  type Design,
  type ForeignKey,
  type Row,
  type Table
} from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { IN_DESIGN, IN_TABLE } from '../design/parts/all.ts'
import { ownIds } from '../design/parts/held.ts'
import { Refused } from './refusal.ts'
import { sentence } from '../design/words.ts'

/** The table, or a refusal that says it is gone. */
export function needTable(design: Design, id: string): Table {
  const table = tableOf(design, id)
  if (!table) throw new Refused('missing', 'That table is no longer in the design.', { table: id })
  return table
}

export function needColumn(table: Table, id: string): Column {
  const column = columnOf(table, id)
  if (!column)
    throw new Refused('missing', `${table.name} no longer has that column.`, { table: table.id, column: id })
  return column
}

export function needForeignKey(table: Table, id: string): ForeignKey {
  const foreignKey = table.foreignKeys.find((each) => each.id === id)
  if (!foreignKey)
    throw new Refused('missing', `${table.name} no longer has that relationship.`, { table: table.id })
  return foreignKey
}

/** The refusal where a table has no key to refer to. */
export function noKey(referred: Table): Refused {
  const [first] = referred.columns
  return new Refused(
    'no-key',
    `${referred.name} has no primary key yet, so nothing can refer to its rows. Choose its key first.`,
    { table: referred.id },
    first
      ? [
          {
            label: `Make ${first.name} the key of ${referred.name}`,
            operation: {
              kind: 'key.setPrimary',
              table: referred.id,
              key: { id: `k_${first.id.slice(first.id.indexOf('_') + 1)}`, columns: [first.id] }
            }
          }
        ]
      : []
  )
}

/** The design with one table changed. */
export function withTable(design: Design, id: string, change: (table: Table) => Table): Design {
  return { ...design, tables: design.tables.map((table) => (table.id === id ? change(table) : table)) }
}

/** The table with one column changed. */
export function withColumn(table: Table, id: string, change: (column: Column) => Column): Table {
  return { ...table, columns: table.columns.map((column) => (column.id === id ? change(column) : column)) }
}

/** The table with one reference in the place of the one with its id. */
export function withForeignKey(design: Design, table: string, foreignKey: ForeignKey): Design {
  const replaced = (each: ForeignKey): ForeignKey => (each.id === foreignKey.id ? foreignKey : each)
  return withTable(design, table, (t) => ({ ...t, foreignKeys: t.foreignKeys.map(replaced) }))
}

/** The row without what it holds in a column. */
export function without(row: Row, column: string): Row {
  const { [column]: _, ...rest } = row
  return rest
}

export function withoutAt<T>(list: readonly T[], index: number): T[] {
  return [...list.slice(0, index), ...list.slice(index + 1)]
}

/** The list with the item put at the index, or at the end where there is no such index. */
export function insertedAt<T>(list: readonly T[], item: T, index = list.length): T[] {
  return [...list.slice(0, index), item, ...list.slice(index)]
}

export function checkName(name: string, where: { table?: string; column?: string }): void {
  const parsed = nameSchema.safeParse(name)
  if (!parsed.success)
    throw new Refused(
      'name-invalid',
      `${sentence(parsed.error.issues[0]?.message ?? 'that is not a name')}.`,
      where
    )
}

/** @param schema the id of the schema that the name is for; two schemas may each have a table of one name. */
export function checkTableName(design: Design, name: string, self?: string, schema?: string): void {
  checkName(name, self ? { table: self } : {})
  const other = directory(design).byName.get(fold(fullName(design, { name, schema })))
  if (other && other.id !== self)
    throw new Refused(
      'name-taken',
      `There is already a table called ${shorten(fullName(design, other))}. Names must differ in more than letter case.`,
      { table: other.id }
    )
}

/** Refuses a name that is none, or that another of the list has; `what` says what they all are. */
export function checkSharedName(
  list: readonly { id: string; name: string }[],
  name: string,
  what: string,
  self?: string
): void {
  checkName(name, {})
  const other = list.find((each) => each.id !== self && fold(each.name) === fold(name))
  if (other)
    throw new Refused(
      'name-taken',
      `There is already a ${what} called ${shorten(other.name)}. Names must differ in more than letter case.`
    )
}

export function checkColumnName(table: Table, name: string, self?: string): void {
  checkName(name, { table: table.id, ...(self && { column: self }) })
  const other = table.columns.find((column) => column.id !== self && fold(column.name) === fold(name))
  if (other)
    throw new Refused(
      'name-taken',
      `${table.name} already has a column called ${shorten(other.name)}. Names must differ in more than letter case.`,
      { table: table.id, column: other.id }
    )
}

/**
 * Every id on the table: its own, its columns', its keys' and its foreign keys'; one that stands twice
 * stands here twice.
 */
export function idsOf(table: Table): string[] {
  return [table.id, ...IN_TABLE.flatMap((name) => ownIds(name, table))]
}

const idSetOf = once((table: Table): ReadonlySet<string> => new Set(idsOf(table)))

/** Refuses an id that something in the design has already, and one that stands twice in what is added. */
export function checkNewIds(design: Design, ids: readonly string[]): void {
  const wanted = new Set(ids)
  const onTables = design.tables.some((table) => {
    const own = idSetOf(table)
    return ids.some((id) => own.has(id))
  })
  const inDesign = IN_DESIGN.some((name) => ownIds(name, design).some((id) => wanted.has(id)))
  const taken = wanted.size < ids.length || onTables || inDesign
  if (taken) throw new Refused('id-taken', 'That is in the design already.')
}

/** The columns a foreign key stands on. */
export function ownColumns(table: Table, foreignKey: ForeignKey): Column[] {
  return columnsIn(
    table,
    foreignKey.pairs.map((pair) => pair.column)
  )
}

/** A flaw as a sentence of its own. */
export const asSentence = (flaw: string): string => `${sentence(flaw)}${flaw.endsWith('.') ? '' : '.'}`

/** By their names, whatever was chosen first. */
export const sorted = <Value>(all: Record<string, Value>): Record<string, Value> =>
  Object.fromEntries(Object.entries(all).sort(([one], [other]) => (one < other ? -1 : 1)))
