import { renameColumns } from '../design/expressions.ts'
import {
  newId,
  type Check,
  type Column,
  type ColumnId,
  type Copied,
  type ForeignKey,
  type Index,
  type Key,
  type KeyId,
  type RowPolicy,
  type Table,
  type TableId
} from '../design/model.ts'

/**
 * A table once more with ids of its own, wherever one of its entities names another. Names that a person
 * gave to keys and rules stay with what they were given to: two of one name would be in each other's way.
 */
export class TableCopy {
  private readonly id: TableId = newId('t')
  private readonly columns: ReadonlyMap<ColumnId, ColumnId>
  private readonly keys: ReadonlyMap<KeyId, KeyId>
  private readonly foreignKeys: ReadonlyMap<string, string>

  constructor(private readonly from: Table) {
    const keys = [...(from.primaryKey ? [from.primaryKey] : []), ...from.uniques]
    this.columns = new Map(from.columns.map(({ id }) => [id, newId('c')]))
    this.keys = new Map(keys.map(({ id }) => [id, newId('k')]))
    this.foreignKeys = new Map(from.foreignKeys.map(({ id }) => [id, newId('f')]))
  }

  /** The copy, without rows. */
  table(): Table {
    const { from } = this
    return {
      ...from,
      id: this.id,
      ...(from.label && { label: from.label.map((id) => this.column(id)) }),
      columns: from.columns.map((column) => this.columnCopy(column)),
      primaryKey: from.primaryKey && this.key(from.primaryKey),
      uniques: from.uniques.map((key) => this.key(key)),
      foreignKeys: from.foreignKeys.map((key) => this.foreignKey(key)),
      checks: from.checks.map((check) => this.check(check)),
      indexes: from.indexes.map((index) => this.index(index)),
      rowPolicies: from.rowPolicies.map((policy) => this.rowPolicy(policy)),
      rows: []
    }
  }

  private column(id: ColumnId): ColumnId {
    return this.columns.get(id) ?? id
  }

  private columnCopy(column: Column): Column {
    const { computed, copied } = column
    return {
      ...column,
      id: this.column(column.id),
      computed: computed === undefined ? undefined : this.expression(computed),
      copied: copied && this.copied(copied)
    }
  }

  private copied(copied: Copied): Copied {
    const { foreignKey, column } = copied
    const refersToItself = this.from.foreignKeys.some(
      (each) => each.id === foreignKey && each.table === this.from.id
    )
    return {
      ...copied,
      foreignKey: this.foreignKeys.get(foreignKey) ?? foreignKey,
      column: refersToItself ? this.column(column) : column
    }
  }

  private key(key: Key): Key {
    const columns = key.columns.map((id) => this.column(id))
    return { id: this.keys.get(key.id) ?? key.id, columns }
  }

  private foreignKey(key: ForeignKey): ForeignKey {
    const refersToItself = key.table === this.from.id
    return {
      ...key,
      id: this.foreignKeys.get(key.id) ?? key.id,
      name: undefined,
      table: refersToItself ? this.id : key.table,
      key: refersToItself ? (this.keys.get(key.key) ?? key.key) : key.key,
      pairs: key.pairs.map(({ column, refersTo }) => ({
        column: this.column(column),
        refersTo: refersToItself ? this.column(refersTo) : refersTo
      }))
    }
  }

  private check(check: Check): Check {
    return { id: newId('x'), condition: this.expression(check.condition) }
  }

  private index(index: Index): Index {
    return {
      ...index,
      id: newId('i'),
      name: undefined,
      columns: index.columns.map((each) => ({ ...each, column: this.column(each.column) })),
      where: index.where === undefined ? undefined : this.expression(index.where)
    }
  }

  private rowPolicy(policy: RowPolicy): RowPolicy {
    const { condition, writes } = policy
    return {
      ...policy,
      id: newId('p'),
      condition: this.expression(condition),
      ...(writes !== undefined && { writes: this.expression(writes) })
    }
  }

  private expression(kept: string): string {
    return renameColumns(kept, (id) => this.column(id))
  }
}
