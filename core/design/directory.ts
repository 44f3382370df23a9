import { once } from '../once.ts'
import { byId } from './by-id.ts'
import type {
  Column,
  ColumnId,
  Design,
  Enum,
  ForeignKey,
  Key,
  KeyId,
  Policy,
  Table,
  TableId
} from './model.ts'

/** A foreign key and the table that it stands on. */
export interface Reference {
  table: Table
  foreignKey: ForeignKey
}

export interface Directory {
  tables: ReadonlyMap<TableId, Table>
  /**
   * Tables by their full name in lower case: names are doubled when engines that fold case would take them
   * for the same.
   */
  byName: ReadonlyMap<string, Table>
  /** The foreign keys that refer to a table, in the order of the tables that they stand on. */
  referrers: ReadonlyMap<TableId, readonly Reference[]>
}

/** The design's tables by id and name and what refers to each; worked out once for each design value. */
export const directory = once((design: Design): Directory => {
  const tables = new Map<TableId, Table>()
  const byName = new Map<string, Table>()
  const referrers = new Map<TableId, Reference[]>()
  for (const table of design.tables) {
    tables.set(table.id, table)
    byName.set(fold(fullName(design, table)), table)
    for (const foreignKey of table.foreignKeys) {
      const list = referrers.get(foreignKey.table)
      if (list) list.push({ table, foreignKey })
      else referrers.set(foreignKey.table, [{ table, foreignKey }])
    }
  }
  return { tables, byName, referrers }
})

/** A name as the strictest engine compares it. */
export function fold(name: string): string {
  // Most names are plain, and normalising those changes nothing.
  return (PLAIN.test(name) ? name : name.normalize('NFC')).toLowerCase()
}
// eslint-disable-next-line no-control-regex
const PLAIN = /^[\u0000-\u007f]*$/

/** A table's name with its schema before it, where it stands in one: `staff.person`. */
export function fullName(design: Pick<Design, 'schemas'>, table: Pick<Table, 'name' | 'schema'>): string {
  const schema = table.schema === undefined ? undefined : byId(design.schemas).get(table.schema)
  return schema ? `${schema.name}.${table.name}` : table.name
}

/** What a table or column is called in code, before any language writes it in its own way. */
export const nameInCode = (
  { codeNames }: Pick<Design, 'codeNames'>,
  { id, name }: { id: string; name: string }
): string => codeNames?.[id] ?? name

export function tableOf(design: Design, id: TableId): Table | undefined {
  return directory(design).tables.get(id)
}

/** What a table is called; nothing where it is not there. */
export const nameOfTable = (design: Design, id: TableId): string => tableOf(design, id)?.name ?? ''

export const namesOfTables = once(({ tables }: Design): readonly string[] => tables.map(({ name }) => name))

export const policyOf = ({ policy }: Design): Policy => policy
export const enumsOf = ({ enums }: Design): readonly Enum[] => enums

export function referencesTo(design: Design, id: TableId): readonly Reference[] {
  return directory(design).referrers.get(id) ?? []
}

export function columnOf(table: Table, id: ColumnId): Column | undefined {
  return byId(table.columns).get(id)
}

/** The primary or unique key with the id. */
export function keyOf(table: Table, id: KeyId): Key | undefined {
  return table.primaryKey?.id === id ? table.primaryKey : table.uniques.find((key) => key.id === id)
}

/** Every key of the table, the primary one first. */
export function keysOf(table: Table): Key[] {
  return table.primaryKey ? [table.primaryKey, ...table.uniques] : table.uniques
}

/** The columns of a key or foreign key, in its order; ids that the table does not have are passed over. */
export function columnsIn(table: Table, ids: readonly ColumnId[]): Column[] {
  return ids.flatMap((id) => columnOf(table, id) ?? [])
}

/** The names of columns, as they stand in a sentence. */
export const namesIn = (table: Table, ids: readonly ColumnId[]): string =>
  columnsIn(table, ids)
    .map(({ name }) => name)
    .join(', ')

export const isInPrimaryKey = (table: Table, column: ColumnId): boolean =>
  table.primaryKey?.columns.includes(column) ?? false

/** True where both lists hold the same ids, in whatever order. */
export function sameSet(a: readonly string[], b: readonly string[]): boolean {
  if (a.length !== b.length) return false
  const among = new Set(b)
  return a.every((id) => among.has(id))
}

/** The column that the engine counts by itself, if the table has one; of several, the first. */
export function generatedColumn(table: Table): Column | undefined {
  return generatedAmong(table.columns)
}

const generatedAmong = once((columns: readonly Column[]): Column | undefined =>
  columns.find((column) => column.default?.kind === 'generated')
)
