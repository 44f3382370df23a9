import type { Catalog, CatalogColumn, CatalogTable } from './catalog.ts'
import { nameParts, qualify, schemaOf } from './qualified.ts'
import type { Constraint, ConstraintKind, Step } from './step.ts'

/** What there is at a point of a migration: a catalog that goes on with each step. */
export class State {
  private readonly byId: Map<string, CatalogTable>
  private schemas: Catalog['schemas']
  private enums: Catalog['enums']

  constructor(catalog: Catalog) {
    this.byId = new Map(catalog.tables.map((table) => [table.id, table]))
    this.schemas = catalog.schemas
    this.enums = catalog.enums
  }

  /** The same, to go on from by itself. */
  clone(): State {
    return new State(this.catalog)
  }

  get catalog(): Catalog {
    return { schemas: this.schemas, enums: this.enums, tables: [...this.byId.values()] }
  }

  /** The tables by their ids. */
  get tables(): ReadonlyMap<string, CatalogTable> {
    return this.byId
  }

  get lists(): ReadonlyMap<string, Catalog['enums'][number]> {
    return new Map(this.enums.map((list) => [list.id, list]))
  }

  schema(id: string): Catalog['schemas'][number] {
    return found(this.schemas, id)
  }

  /** @throws Error where there is none. */
  table(id: string): CatalogTable {
    const table = this.byId.get(id)
    if (!table) throw new Error(`There is no table ${id}.`)
    return table
  }

  /** @throws Error where there is none. */
  column(table: string, id: string): CatalogColumn {
    return found(this.table(table).columns, id)
  }

  /** @throws Error where there is none. */
  constraint(table: string, kind: ConstraintKind, id: string): Constraint {
    const { primaryKey, uniques, foreignKeys, checks, indexes, triggers } = this.table(table)
    switch (kind) {
      case 'primaryKey':
        return { kind, key: found(primaryKey ? [primaryKey] : [], id) }
      case 'unique':
        return { kind, key: found(uniques, id) }
      case 'foreignKey':
        return { kind, key: found(foreignKeys, id) }
      case 'check':
        return { kind, key: found(checks, id) }
      case 'index':
        return { kind, key: found(indexes, id) }
      case 'trigger':
        return { kind, key: found(triggers, id) }
    }
  }

  /** Goes on with a step. @throws Error where there is nothing that it could be done to. */
  take(step: Step): void {
    switch (step.kind) {
      case 'makeSchema':
        this.schemas = [...this.schemas, step.schema]
        return
      case 'renameSchema':
        return this.renameSchema(step.schema, step.name)
      case 'dropSchema':
        this.schemas = this.schemas.filter((each) => each.name !== step.name)
        return
      case 'makeList':
        this.enums = [...this.enums, step.list]
        return
      case 'renameList':
        return this.renameList(step)
      case 'addToList':
        this.enums = changed(this.enums, step.list, (list) => ({ ...list, values: step.values }))
        return
      case 'dropList':
        this.enums = without(this.enums, step.list)
        return
      case 'makeTable':
        this.byId.set(step.table.id, step.table)
        return
      case 'dropTable':
        this.table(step.table)
        this.byId.delete(step.table)
        return
      case 'renameTable':
      case 'moveTable':
        return this.change(step.table, (table) => ({ ...table, name: step.name }))
      case 'noteTable':
        return this.change(step.table, (table) => ({ ...table, note: step.note }))
      case 'addColumn':
        return this.change(step.table, (table) => ({ ...table, columns: withColumn(table, step) }))
      case 'dropColumn':
        return this.columns(step.table, (columns) => without(columns, step.column))
      case 'renameColumn':
        return this.columns(step.table, (columns) =>
          changed(columns, step.column, (column) => ({ ...column, name: step.name }))
        )
      case 'changeColumn':
        return this.columns(step.table, (columns) => changed(columns, step.column.id, () => step.column))
      case 'orderColumns':
        return this.columns(step.table, (columns) => step.order.map((id) => found(columns, id)))
      case 'addConstraint':
        return this.change(step.table, (table) => withConstraint(table, step.constraint))
      case 'dropConstraint':
        return this.change(step.table, (table) => onConstraint(table, step, () => undefined))
      case 'renameConstraint':
        return this.change(step.table, (table) =>
          onConstraint(table, step, (key) => ({ ...key, name: step.name }))
        )
      case 'setPolicies':
        return this.change(step.table, (table) => ({
          ...table,
          rowPolicies: step.policies,
          rowSecurity: step.security
        }))
      default:
        // What moves rows changes nothing here.
        return
    }
  }

  private change(id: string, change: (table: CatalogTable) => CatalogTable): void {
    this.byId.set(id, change(this.table(id)))
  }

  private columns(table: string, change: (columns: CatalogColumn[]) => CatalogColumn[]): void {
    this.change(table, (each) => ({ ...each, columns: change(each.columns) }))
  }

  private renameSchema(id: string, name: string): void {
    const old = this.schema(id).name
    this.schemas = changed(this.schemas, id, (schema) => ({ ...schema, name }))
    for (const table of this.byId.values())
      if (schemaOf(table.name) === old)
        this.change(table.id, (each) => ({ ...each, name: qualify(name, nameParts(each.name).at(-1) ?? '') }))
  }

  private renameList({ list, as }: Extract<Step, { kind: 'renameList' }>): void {
    this.enums = changed(this.enums, list, (each) => ({ ...each, id: as.id, name: as.name }))
    const renamed = (column: CatalogColumn): CatalogColumn =>
      column.type.list === list ? { ...column, type: { ...column.type, sql: as.sql, list: as.id } } : column
    for (const { id, columns } of this.byId.values())
      if (columns.some((column) => column.type.list === list)) this.columns(id, (each) => each.map(renamed))
  }
}

function found<T extends { id: string }>(list: readonly T[], id: string): T {
  const member = list.find((each) => each.id === id)
  if (!member) throw new Error(`There is no ${id}.`)
  return member
}

function changed<T extends { id: string }>(list: readonly T[], id: string, change: (each: T) => T): T[] {
  found(list, id)
  return list.map((each) => (each.id === id ? change(each) : each))
}

function without<T extends { id: string }>(list: readonly T[], id: string): T[] {
  found(list, id)
  return list.filter((each) => each.id !== id)
}

function withColumn(
  { columns }: CatalogTable,
  { column, after }: Extract<Step, { kind: 'addColumn' }>
): CatalogColumn[] {
  const at = after === undefined ? columns.length : columns.indexOf(found(columns, after)) + 1
  return [...columns.slice(0, at), column, ...columns.slice(at)]
}

function withConstraint(table: CatalogTable, { kind, key }: Constraint): CatalogTable {
  switch (kind) {
    case 'primaryKey':
      return { ...table, primaryKey: key }
    case 'unique':
      return { ...table, uniques: [...table.uniques, key] }
    case 'foreignKey':
      return { ...table, foreignKeys: [...table.foreignKeys, key] }
    case 'check':
      return { ...table, checks: [...table.checks, key] }
    case 'index':
      return { ...table, indexes: [...table.indexes, key] }
    case 'trigger':
      return { ...table, triggers: [...table.triggers, key] }
  }
}

/** The table with one of its constraints changed, or without it. */
function onConstraint(
  table: CatalogTable,
  { of, id }: { of: ConstraintKind; id: string },
  change: <T extends { name: string }>(key: T) => T | undefined
): CatalogTable {
  const onOne = <T extends { id: string; name: string }>(list: readonly T[]): T[] => {
    found(list, id)
    return list.flatMap((each) => (each.id === id ? (change(each) ?? []) : each))
  }
  switch (of) {
    case 'primaryKey':
      return { ...table, primaryKey: onOne(table.primaryKey ? [table.primaryKey] : [])[0] }
    case 'unique':
      return { ...table, uniques: onOne(table.uniques) }
    case 'foreignKey':
      return { ...table, foreignKeys: onOne(table.foreignKeys) }
    case 'check':
      return { ...table, checks: onOne(table.checks) }
    case 'index':
      return { ...table, indexes: onOne(table.indexes) }
    case 'trigger':
      return { ...table, triggers: onOne(table.triggers) }
  }
}
