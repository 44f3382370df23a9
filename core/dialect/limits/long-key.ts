import { columnsIn } from '../../design/directory.ts'
import type { Column, Table } from '../../design/model.ts'
import { bytesInKey } from '../facts.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'

/** Keys and indexes that are longer than an engine takes, or have more columns. */
export const longKey: Limit = (asked) => keysOf(asked).flatMap((key) => tooLong(asked, key))

interface Place {
  kind: string
  columns: readonly string[]
  unique: boolean
}

/** What the engine makes an index for. */
function keysOf({ made }: LimitContext): Place[] {
  const { primaryKey, uniques, indexes, foreignKeys } = made
  const all: Place[] = [
    ...(primaryKey ? [{ kind: 'primary key', columns: primaryKey.columns, unique: true }] : []),
    ...uniques.map(({ columns }) => ({ kind: 'unique key', columns, unique: true })),
    ...foreignKeys.map(({ columns }) => ({ kind: 'reference', columns, unique: false })),
    ...indexes.map(({ columns, unique }) => ({ kind: 'index', columns, unique }))
  ]
  const told = new Set<string>()
  return all.filter(({ columns, unique }) => {
    const key = JSON.stringify([columns, unique])
    return !told.has(key) && told.add(key)
  })
}

function tooLong(asked: LimitContext, { kind, columns: ids, unique }: Place): LimitRemark[] {
  const { table, facts, words } = asked
  const limit = facts.key
  if (!limit) return []
  const most = kind === 'primary key' ? (limit.primaryBytes ?? limit.bytes) : limit.bytes
  const columns = columnsIn(table, ids)
  const bytes = (column: Column): number =>
    bytesInKey({ type: column.type, sql: words(table, column).sql }, facts, asked.design.enums)
  const total = columns.reduce((sum, column) => sum + bytes(column), 0)
  const isPlain = kind !== 'primary key' && kind !== 'reference'
  const isHashed = limit.longUnique && isPlain && (unique || columns.length === 1)
  const isLong = total > most && !isHashed
  if (!isLong && columns.length <= limit.columns) return []
  const names = columns.map((column) => column.name).join(', ')
  const becomes = limit.refuses === 'made' ? 'refuses it' : 'refuses rows that are longer than it takes'
  const size = isLong
    ? `can be ${total.toLocaleString('en')} bytes long; ${facts.title} ${becomes} (${most.toLocaleString('en')})`
    : `has ${columns.length} columns; ${facts.title} refuses it (${limit.columns})`
  return [
    {
      rule: 'key too long',
      weight: limit.refuses === 'made' || !isLong ? 'refused' : 'doubtful',
      column: columns[0]?.id,
      message: `The ${kind} on ${names} of ${table.name} ${size}.`,
      ...(isLong && kind !== 'reference' && { fix: shorter(table, columns, bytes, most - total) })
    }
  ]
}

/** The longest text, so short that the key fits; nothing where that is not enough. */
function shorter(
  table: Table,
  columns: readonly Column[],
  bytes: (column: Column) => number,
  room: number
): LimitRemark['fix'] {
  const [longest] = [...columns].sort((a, b) => bytes(b) - bytes(a))
  if (longest?.type.kind !== 'text' || longest.type.length === undefined) return undefined
  const perCharacter = bytes(longest) / longest.type.length
  const length = Math.floor((bytes(longest) + room) / perCharacter)
  if (length < 1) return undefined
  return {
    label: `Make ${longest.name} text(${length})`,
    operation: {
      kind: 'column.retype',
      table: table.id,
      column: longest.id,
      type: { kind: 'text', length }
    }
  }
}
