import type { Column, Design, ForeignKey, Table } from '../design/model.ts'
import { needColumn, needForeignKey, needTable, withColumn, withForeignKey, withTable } from './handler.ts'
import type { Handler, Operation, OperationOf, Operations } from './operation.ts'

/** Operations that give one property of something another value, or take it away. */

/** The kinds of operations that have these fields. */
type KindsWith<Fields> = {
  [K in keyof Operations]: Operations[K] extends Fields ? K : never
}[keyof Operations]

interface Setting<K extends keyof Operations, Holder, Place> {
  kind: K
  /** The field of the operation that has the value, and the property that gets it. */
  field: keyof OperationOf<K> & string
  property: keyof Holder & string
  /** What the field holds where there is no value; null unless said. */
  none?: unknown
  /** Whether what the field holds comes to no value besides. */
  isNothing?: (given: OperationOf<K>) => boolean
  /** Refuses what cannot be, or says what is to be done before. */
  check?: (place: Place, operation: OperationOf<K>) => Operation[] | undefined
}

/** The value that an operation gives, and the operation that gives back what was there. */
function read<K extends keyof Operations, Holder>(
  { field, property, none = null, isNothing }: Setting<K, Holder, never>,
  operation: OperationOf<K>,
  holder: Holder
): { value: unknown; inverse: Operation } {
  const given: unknown = operation[field]
  const value = given === none || isNothing?.(operation) ? undefined : given
  return { value, inverse: { ...operation, [field]: holder[property] ?? none } }
}

export interface ColumnPlace {
  design: Design
  table: Table
  column: Column
  /** Where it is, for a refusal or another operation. */
  where: { table: string; column: string }
}

/** Sets a property of a column. */
export function setColumn<K extends KindsWith<{ table: string; column: string }>>(
  setting: Setting<K, Column, ColumnPlace>
): Handler<K> {
  return (design, operation) => {
    const table = needTable(design, operation.table)
    const column = needColumn(table, operation.column)
    const where = { table: table.id, column: column.id }
    const before = setting.check?.({ design, table, column, where }, operation) ?? []
    if (before.length > 0) return { instead: [...before, operation] }
    const { value, inverse } = read(setting, operation, column)
    const set = (each: Column): Column => ({ ...each, [setting.property]: value })
    return {
      design: withTable(design, table.id, (t) => withColumn(t, column.id, set)),
      inverse,
      touched: [table.id]
    }
  }
}

export interface TablePlace {
  design: Design
  table: Table
}

/** Sets a property of a table. */
export function setTable<K extends KindsWith<{ table: string }>>(
  setting: Setting<K, Table, TablePlace>
): Handler<K> {
  return (design, operation) => {
    const table = needTable(design, operation.table)
    const before = setting.check?.({ design, table }, operation) ?? []
    if (before.length > 0) return { instead: [...before, operation] }
    const { value, inverse } = read(setting, operation, table)
    return {
      design: withTable(design, table.id, (t) => ({ ...t, [setting.property]: value })),
      inverse,
      touched: [table.id]
    }
  }
}

export interface ForeignKeyPlace {
  design: Design
  table: Table
  foreignKey: ForeignKey
}

/** Sets a property of a reference. */
export function setForeignKey<K extends KindsWith<{ table: string; foreignKey: string }>>(
  setting: Setting<K, ForeignKey, ForeignKeyPlace>
): Handler<K> {
  return (design, operation) => {
    const table = needTable(design, operation.table)
    const foreignKey = needForeignKey(table, operation.foreignKey)
    const before = setting.check?.({ design, table, foreignKey }, operation) ?? []
    if (before.length > 0) return { instead: [...before, operation] }
    const { value, inverse } = read(setting, operation, foreignKey)
    return {
      design: withForeignKey(design, table.id, { ...foreignKey, [setting.property]: value }),
      inverse,
      touched: [table.id, foreignKey.table]
    }
  }
}
