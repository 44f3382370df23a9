import { keyOf, referencesTo, type Reference } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import { listed } from '../design/words.ts'
import { expressionUses } from './expression-uses.ts'
import { needColumn, needTable, without, withoutAt, withTable } from './handler.ts'
import type { Handler, Operation } from './operation.ts'
import { Refused } from './refusal.ts'

/** A column goes, with what is of no use without it; what others need it for is asked about. */

export const removeColumn: Handler<'column.remove'> = (design, { table: id, column: columnId }) => {
  const table = needTable(design, id)
  const column = needColumn(table, columnId)
  const uses = usesOf(design, table, columnId)
  const named = expressionUses(table, columnId)
  if (uses.length > 0 || named.says.length > 0) {
    const related = uses.map((use) =>
      use.table.id === id
        ? `refers to ${needTable(design, use.foreignKey.table).name}`
        : `is referred to by ${use.table.name}`
    )
    const said = [
      ...(related.length > 0 ? [`it ${listed(related)}`] : []),
      ...(named.says.length > 0
        ? [`${listed(named.says)} ${named.removals.length === 1 ? 'needs' : 'need'} it`]
        : [])
    ]
    const gone = [
      ...(uses.length === 0
        ? []
        : [uses.length === 1 ? 'the relationship' : `the ${uses.length} relationships`]),
      ...named.says
    ]
    throw new Refused(
      'in-use',
      `${column.name} cannot go by itself: ${listed(said)}.`,
      { table: id, column: columnId },
      [
        {
          label: `Remove ${listed([...gone, 'the column'])}`,
          operation: {
            kind: 'batch',
            label:
              uses.length > 0
                ? `remove ${table.name}.${column.name} and its relationships`
                : `remove ${table.name}.${column.name} and what needs it`,
            operations: [
              ...uses.map((use): Operation => ({
                kind: 'foreignKey.remove',
                table: use.table.id,
                foreignKey: use.foreignKey.id
              })),
              ...named.removals,
              { kind: 'column.remove', table: id, column: columnId }
            ]
          }
        }
      ]
    )
  }
  const keys = [
    ...keysWith(table, columnId),
    ...copiesOf(design, table, columnId),
    ...labelWithout(table, columnId)
  ]
  if (keys.length > 0) return { instead: [...keys, { kind: 'column.remove', table: id, column: columnId }] }
  const at = table.columns.findIndex((each) => each.id === columnId)
  const values = table.rows.length > 0 ? table.rows.map((row) => row[columnId]) : undefined
  return {
    design: withTable(design, id, (t) => ({
      ...t,
      columns: withoutAt(t.columns, at),
      rows: t.rows.map((row) => without(row, columnId))
    })),
    inverse: { kind: 'column.add', table: id, column, at, ...(values && { values }) },
    touched: [id]
  }
}

/** The foreign keys that use the column, on either side. */
function usesOf(design: Design, table: Table, columnId: string): Reference[] {
  const own = table.foreignKeys
    .filter((each) => each.pairs.some((pair) => pair.column === columnId))
    .map((foreignKey) => ({ table, foreignKey }))
  const others = referencesTo(design, table.id)
    .filter((reference) => keyOf(table, reference.foreignKey.key)?.columns.includes(columnId))
    .filter((reference) => !own.some((each) => each.foreignKey.id === reference.foreignKey.id))
  return [...own, ...others]
}

/** What takes the column out of the table's keys: a key that it stood in alone goes with it. */
function keysWith(table: Table, columnId: string): Operation[] {
  const operations: Operation[] = []
  const { primaryKey } = table
  if (primaryKey?.columns.includes(columnId)) {
    const columns = primaryKey.columns.filter((each) => each !== columnId)
    operations.push({
      kind: 'key.setPrimary',
      table: table.id,
      key: columns.length > 0 ? { ...primaryKey, columns } : null
    })
  }
  for (const key of table.uniques.filter((each) => each.columns.includes(columnId))) {
    operations.push({ kind: 'unique.remove', table: table.id, key: key.id })
  }
  for (const index of table.indexes.filter((each) =>
    each.columns.some(({ column }) => column === columnId)
  )) {
    operations.push({ kind: 'index.remove', table: table.id, index: index.id })
  }
  return operations
}

/** What leaves the columns that are copied from this one with the values that they have. */
function copiesOf(design: Design, table: Table, columnId: string): Operation[] {
  return referencesTo(design, table.id).flatMap(({ table: from, foreignKey }) =>
    from.columns
      .filter((column) => column.copied?.foreignKey === foreignKey.id && column.copied.column === columnId)
      .map((column): Operation => ({ kind: 'column.copy', table: from.id, column: column.id, copied: null }))
  )
}

/** What rows are called by, without the column. */
function labelWithout({ id, label }: Table, columnId: string): Operation[] {
  if (!label?.includes(columnId)) return []
  const rest = label.filter((each) => each !== columnId)
  return [{ kind: 'table.setLabel', table: id, label: rest.length > 0 ? rest : null }]
}
