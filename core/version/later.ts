import { tableOf } from '../design/directory.ts'
import type { Column, Design, ForeignKey, Row, Table } from '../design/model.ts'
import { sameValue } from '../design/same.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { apply } from '../edit/apply.ts'
import { offersFor } from '../restructure/index.ts'
import { junctionSides } from '../relate/junction.ts'
import { priceOf, type Price } from './foresight.ts'

/** What a choice would cost to change later, seen while it is made. */

/** The changes of mind that a choice stands against, by what it would be then. */
const INSTEAD: Readonly<Record<string, string>> = {
  'to junction': 'many-to-many',
  'from junction': 'one-to-many',
  'at most one': 'one-to-one',
  'any number': 'one-to-many',
  optional: 'optional',
  required: 'required',
  'generated key': 'a number of its own as key',
  'pair as key': 'the pair as key'
}

export interface Later {
  to: string
  price: Price
}

/**
 * To what a relationship, or a junction, could be changed once it is as it is in the design, each with its price once;
 * worked out from the carries, on tables without rows.
 */
export function pricesLater(
  design: Design,
  table: Table,
  foreignKey: ForeignKey | undefined,
  dialect: Dialect
): Later[] {
  const part = partAround(design, table, foreignKey)
  const own = tableOf(part, table.id)
  if (!own) return []
  const key = foreignKey && own.foreignKeys.find(({ id }) => id === foreignKey.id)
  const found = new Map<string, Later>()
  for (const offer of offersFor(part, { table: own, foreignKey: key })) {
    const to = INSTEAD[offer.kind]
    const operation = to === undefined || found.has(to) ? undefined : offer.operation()
    const result = operation?.ok ? apply(part, operation.value) : undefined
    if (to !== undefined && result?.ok) found.set(to, { to, price: priceOf(result.design, part, dialect) })
  }
  return [...found.values()]
}

/** The tables concerned, without rows and without what else they refer to: the price is the same. */
function partAround(design: Design, table: Table, foreignKey: ForeignKey | undefined): Design {
  const near = foreignKey ? [foreignKey] : junctionSides(table)
  const ids = new Set([table.id, ...near.map((key) => key.table)])
  const tables = design.tables.filter(({ id }) => ids.has(id))
  return {
    ...design,
    carries: [],
    positions: {},
    tables: tables.map((each) => ({
      ...each,
      rows: [],
      foreignKeys: each.foreignKeys.filter((key) => ids.has(key.table))
    }))
  }
}

/** A price as it stands beside a choice. */
export function sayLater({ to, price }: Later): string {
  switch (price.kind) {
    case 'free':
      return `to ${to}: free, where the rows allow it`
    case 'rows moved':
      return `to ${to}: rows are moved, nothing is lost`
    case 'knowledge lost':
      return `to ${to}: of ${price.loses.join(', ')} not all has a place then`
  }
}

/** How many rows hold a copied value, and how many of them another one than the row referred to holds now. */
export interface CopiedApart {
  held: number
  apart: number
}

/** What would be known no more if a copied value were looked up instead: what rows hold that is not there any more. */
export function copiedApart(design: Design, table: Table, column: Column): CopiedApart {
  const { copied, type } = column
  const key = table.foreignKeys.find(({ id }) => id === copied?.foreignKey)
  const source = key && tableOf(design, key.table)
  if (!copied || !source) return { held: 0, apart: 0 }
  const placeOf = (row: Row, ids: readonly string[]): string =>
    JSON.stringify(ids.map((id) => row[id] ?? null))
  const there = key.pairs.map(({ refersTo }) => refersTo)
  const now = new Map(source.rows.map((row) => [placeOf(row, there), row[copied.column] ?? null]))
  const own = key.pairs.map((pair) => pair.column)
  const holding = table.rows.filter((row) => (row[column.id] ?? null) !== null)
  const apart = holding.filter((row) => !sameValue(row[column.id], now.get(placeOf(row, own)) ?? null, type))
  return { held: holding.length, apart: apart.length }
}

/** The price of a copied value, in a sentence. */
export function sayCopiedApart({ held, apart }: CopiedApart, table: string): string {
  if (held === 0) return 'Taken back later, what rows hold by then is lost where it is not there any more.'
  if (apart === 0)
    return `Every ${table} still holds what is there now: it could be looked up instead, and nothing lost.`
  const some = apart === 1 ? `1 of ${held} holds` : `${apart} of ${held} hold`
  return `${some} something else than is there now: looking it up instead would lose that.`
}
