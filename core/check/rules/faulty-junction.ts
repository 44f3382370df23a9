import { columnsIn, fold, keysOf, namesIn, tableOf } from '../../design/directory.ts'
import { newId, type Design, type ForeignKey, type Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import { wordsOf } from '../../naming/names.ts'
import { singular } from '../../naming/words.ts'
import { once } from '../../once.ts'
import type { Found, Rule } from '../finding.ts'

/** More columns of its own than this, and a table is about more than a pair. */
const MOST_OWN = 4

/**
 * A table that is called after two that it refers to, and has little of its own, is meant to hold pairs of them. Then
 * its key must be the pair, or the same pair can be stored twice.
 */
export const faultyJunction: Rule = {
  name: 'faulty junction',
  others: (design, table) =>
    calledAfter(design, table)
      ?.map(({ id }) => id)
      .join(' '),
  find: (table, { design }) => {
    const sides = calledAfter(design, table)
    return sides ? judged(design, table, sides as [ForeignKey, ForeignKey]) : []
  }
}

/** The two references to tables whose names are all of a table's own. */
function calledAfter(design: Design, table: Table): ForeignKey[] | undefined {
  if (table.foreignKeys.length < 2) return undefined
  const name = new Set(wordsIn(table))
  const named = table.foreignKeys.filter((key) => {
    const referred = tableOf(design, key.table)
    return (
      referred !== undefined && referred.id !== table.id && wordsIn(referred).every((word) => name.has(word))
    )
  })
  const words = named.flatMap((key) => wordsIn(tableOf(design, key.table) as Table))
  const isAll = [...name].every((word) => words.includes(word))
  return named.length === 2 && isAll ? named : undefined
}

const wordsIn = once(({ name }: Table): readonly string[] =>
  wordsOf(name).map((word) => singular(fold(word)))
)

function judged(design: Design, table: Table, sides: [ForeignKey, ForeignKey]): Found[] {
  const pair = [...new Set(sides.flatMap(({ pairs }) => pairs.map(({ column }) => column)))]
  const key = table.primaryKey?.columns ?? []
  const own = table.columns.filter(({ id }) => !pair.includes(id) && !key.includes(id))
  if (own.length > MOST_OWN || key.length === 0) return []
  const isOf = ({ pairs }: ForeignKey, id: string): boolean => pairs.some(({ column }) => column === id)
  const isHeld = keysOf(table).some(
    ({ columns }) =>
      columns.every((id) => pair.includes(id)) && sides.every((side) => columns.some((id) => isOf(side, id)))
  )
  if (isHeld) return []
  const names = namesIn(table, pair)
  const [first, second] = sides.map((side) => tableOf(design, side.table)?.name ?? '')
  const evidence = `it is called after ${first} and ${second}, and ${own.length === 0 ? 'has nothing' : 'has little'} of its own`
  const halves = sides.filter(({ pairs }) => pairs.every(({ column }) => key.includes(column)))
  const extra = columnsIn(table, key).filter(({ id }) => !pair.includes(id))
  const counted = extra.find((column) => column.default?.kind === 'generated')
  const isWholeAndMore = halves.length === 2
  const isLone = halves.length === 1 && key.every((id) => isOf(halves[0] as ForeignKey, id))
  const lone = tableOf(design, halves[0]?.table ?? '')?.name ?? ''
  // A moment beside the pair says that the same two may meet again.
  if (isWholeAndMore && !counted) return []
  const why = isWholeAndMore
    ? `${counted?.name} in its key makes every row another, so that the same pair can be stored any number of times`
    : halves.length === 1
      ? `only one of the two references is in its key (${namesIn(table, key)})${isLone ? `, so that each ${lone} has one at most` : ''}`
      : `nothing keeps the same pair from being stored twice`
  return [
    {
      severity: 'doubtful',
      column: pair[0] as string,
      message: `${table.name} seems to hold pairs (${evidence}), but ${why}.`,
      fix: { label: `Keep each pair ${names} once`, operation: mended(table, pair, isLone) }
    }
  ]
}

/** The pair is the key where half of it was; elsewhere it is unique beside what the table goes by. */
function mended(table: Table, pair: readonly string[], isKey: boolean): Operation {
  const open = columnsIn(table, pair).filter(({ required }) => !required)
  return {
    kind: 'batch',
    label: `keep each pair of ${table.name} once`,
    operations: [
      ...open.map(({ id }): Operation => ({
        kind: 'column.require',
        table: table.id,
        column: id,
        required: true
      })),
      isKey
        ? { kind: 'key.setPrimary', table: table.id, key: { id: newId('k'), columns: [...pair] } }
        : { kind: 'unique.add', table: table.id, key: { id: newId('k'), columns: [...pair] } }
    ]
  }
}
