import { columnsIn, fold, keysOf, nameOfTable, namesIn, tableOf } from '../../design/directory.ts'
import { newId, type Design, type ForeignKey, type Row, type Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import { wordsOf } from '../../naming/names.ts'
import { plural, singular } from '../../naming/words.ts'
import { once } from '../../once.ts'
import type { Found, Rule } from '../finding.ts'

/** More columns of its own than this, and a table is about more than a pair. */
const MOST_OWN = 4
/** Without a name that says so: more than these, and fewer rows than these, and nothing is suspected. */
const [MOST_UNNAMED, FEWEST_ROWS] = [1, 6]

/**
 * A table that is called after two that it refers to, and has little of its own, is meant to hold pairs of them; so is
 * one whose rows show it: several of each beside each of the other, and no two the same. Then its key must be the pair,
 * or the same pair can be stored twice.
 */
export const faultyJunction: Rule = {
  name: 'faulty junction',
  find: (table, { ask }) => {
    const named = ask(calledAfter, table)
    const sides = named ?? pairsByRows(table)
    if (!sides) return []
    const names = sides.map((side) => ask(nameOfTable, side.table))
    return judged(table, sides as [ForeignKey, ForeignKey], names as [string, string], named !== undefined)
  }
}

const valuesIn = ({ pairs }: ForeignKey, row: Row): string =>
  JSON.stringify(pairs.map(({ column }) => row[column] ?? null))

/** The two references of a table that goes by a number, where its rows pair the one with the other. */
const pairsByRows = once((table: Table): ForeignKey[] | undefined => {
  const [first, second, ...more] = table.foreignKeys
  const [key, ...others] = columnsIn(table, table.primaryKey?.columns ?? [])
  const isNumbered = others.length === 0 && key?.default?.kind === 'generated'
  if (!first || !second || more.length > 0 || !isNumbered) return undefined
  if (first.table === second.table || [first, second].some((side) => side.table === table.id))
    return undefined
  const pair = [first, second].flatMap(({ pairs }) => pairs.map(({ column }) => column))
  const own = table.columns.length - 1 - new Set(pair).size
  const isRequired = columnsIn(table, pair).every(({ required }) => required)
  if (own > MOST_UNNAMED || !isRequired || table.rows.length < FEWEST_ROWS) return undefined
  const partners = (one: ForeignKey, other: ForeignKey): number[] => {
    const sets = new Map<string, Set<string>>()
    for (const row of table.rows) {
      const met = sets.get(valuesIn(one, row)) ?? new Set<string>()
      sets.set(valuesIn(one, row), met.add(valuesIn(other, row)))
    }
    return [...sets.values()].map(({ size }) => size)
  }
  const isMany = (sizes: number[]): boolean => sizes.filter((size) => size > 1).length > 1
  const isPaired = isMany(partners(first, second)) && isMany(partners(second, first))
  return isPaired && doubledRows(table, [first, second]) === 0 ? [first, second] : undefined
})

/** How many rows hold a pair that one before them holds. */
const doubledRows = ({ rows }: Table, sides: readonly ForeignKey[]): number =>
  rows.length - new Set(rows.map((row) => sides.map((side) => valuesIn(side, row)).join(' '))).size

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

/**
 * @param sidesNames what the two are called
 * @param isNamed whether the table is called after the two; else its rows say so
 */
function judged(
  table: Table,
  sides: [ForeignKey, ForeignKey],
  sidesNames: [string, string],
  isNamed: boolean
): Found[] {
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
  const [first, second] = sidesNames
  const count = table.rows.length
  const doubled = doubledRows(table, sides)
  const evidence = isNamed
    ? `it is called after ${first} and ${second}, and ${own.length === 0 ? 'has nothing' : 'has little'} of its own`
    : `its ${count} rows stand several ${plural(second)} beside each ${first} and the other way round, and no two are the same`
  const told =
    doubled > 0
      ? ` ${doubled} of its ${count} rows ${doubled === 1 ? 'holds' : 'hold'} a pair that is there already.`
      : isNamed && count > 1
        ? ` In its ${count} rows no pair is there twice.`
        : ''
  const halves = sides.filter(({ pairs }) => pairs.every(({ column }) => key.includes(column)))
  const extra = columnsIn(table, key).filter(({ id }) => !pair.includes(id))
  const counted = extra.find((column) => column.default?.kind === 'generated')
  const isWholeAndMore = halves.length === 2
  const isLone = halves.length === 1 && key.every((id) => isOf(halves[0] as ForeignKey, id))
  const lone = halves[0] === sides[1] ? second : first
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
      message: `${table.name} seems to hold pairs (${evidence}), but ${why}.${told}`,
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
