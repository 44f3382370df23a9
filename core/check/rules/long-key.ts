import { columnsIn } from '../../design/directory.ts'
import type { Column, Table } from '../../design/model.ts'
import { keyBytes } from '../../dialect/facts.ts'
import type { Dialect } from '../../dialect/dialect.ts'
import { titles, type Finding, type Rule, type RuleContext } from '../finding.ts'

/** Keys and indexes that are longer than an engine takes, or have more columns. */
export const longKey: Rule = {
  name: 'key too long',
  find: (table, context) =>
    keysOf(table).flatMap(({ words, columns }) => tooLong(table, words, columns, context))
}

function keysOf(table: Table): { words: string; columns: Column[] }[] {
  return [
    ...(table.primaryKey
      ? [{ words: 'primary key', columns: columnsIn(table, table.primaryKey.columns) }]
      : []),
    ...table.uniques.map((key) => ({ words: 'unique key', columns: columnsIn(table, key.columns) })),
    ...table.indexes.map((index) => ({
      words: index.unique ? 'unique index' : 'index',
      columns: columnsIn(
        table,
        index.columns.map(({ column }) => column)
      )
    })),
    ...table.foreignKeys.map((key) => ({
      words: 'reference',
      columns: columnsIn(
        table,
        key.pairs.map((pair) => pair.column)
      )
    }))
  ]
}

function tooLong(
  table: Table,
  words: string,
  columns: readonly Column[],
  { dialects, named, design }: RuleContext
): Omit<Finding, 'rule' | 'table'>[] {
  const bytes = (column: Column): number =>
    keyBytes(
      column.type,
      design.enums.find((each) => column.type.kind === 'enum' && each.id === column.type.enum)?.values
    ) ?? 0
  const total = columns.reduce((sum, column) => sum + bytes(column), 0)
  const against = (refuses: 'made' | 'row'): Dialect[] =>
    dialects.filter(
      ({ facts: { key } }) =>
        key?.refuses === refuses &&
        ((total > key.bytes &&
          !(key.longUnique && (words.startsWith('unique') || (words === 'index' && columns.length === 1)))) ||
          columns.length > key.columns)
    )
  const [refused, doubtful] = [against('made'), named ? against('row') : []]
  const all = [...refused, ...doubtful]
  if (all.length === 0) return []
  const names = columns.map((column) => column.name).join(', ')
  const least = Math.min(...all.map(({ facts }) => facts.key?.bytes ?? Infinity))
  const longest = [...columns].sort((a, b) => bytes(b) - bytes(a))[0]
  const length = longest && Math.floor((least - (total - bytes(longest))) / 4)
  const shorter =
    longest?.type.kind === 'text' && length !== undefined && length > 0 && words !== 'reference'
      ? longest
      : undefined
  return [
    {
      severity: refused.length > 0 ? 'refused' : 'doubtful',
      column: columns[0]?.id as string,
      dialects: all.map((dialect) => dialect.name),
      message: `The ${words} on ${names} of ${table.name} can be ${total.toLocaleString('en')} bytes long; ${refused.length > 0 ? `${titles(refused)} refuses it` : `${titles(doubtful)} refuses rows that are longer than it takes`} (${least.toLocaleString('en')}).`,
      ...(shorter && {
        fix: {
          label: `Make ${shorter.name} text(${length})`,
          operation: {
            kind: 'column.retype',
            table: table.id,
            column: shorter.id,
            type: { kind: 'text', length: length as number }
          }
        }
      })
    }
  ]
}
