import { tableOf } from '../design/directory.ts'
import { evaluate } from '../design/evaluate.ts'
import { filledRow } from '../design/filled.ts'
import { textOfKey } from '../design/key-text.ts'
import type { Design, ForeignKey, Row, Table } from '../design/model.ts'
import { rowIndex, wayBy } from '../design/row-index.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { junctionSides } from '../relate/junction.ts'
import { inSql, type InSql } from './in-sql.ts'

/** One side of the pairs: which of its rows, by a condition on them and, where it is asked for, what they must have. */
export interface PairSide {
  foreignKey: string
  /** A condition on the rows of the side, as it is kept; every row where there is none. */
  where?: string
  /** Only these rows, by their places. */
  places?: readonly number[]
  /** Only rows that another junction pairs with a row: the volunteers that have this skill. */
  has?: { junction: string; by: string; far: string; place: number }
}

export interface PairQuestion {
  junction: string
  sides: readonly [PairSide, PairSide]
}

/** What would be put into a junction. */
export interface Pairs {
  rows: Row[]
  /** How many pairs there are in all, and how many of them are there already. */
  wanted: number
  there: number
}

/** How many pairs are worked out at the most. */
export const MOST_PAIRS = 100_000

/**
 * The pairs that a junction lacks: each row of one side that meets its condition, with each such row of the other. To
 * be asked again gives none that are there by then.
 */
export function missingPairs(design: Design, { junction, sides }: PairQuestion, now?: string): Pairs {
  const table = tableOf(design, junction)
  const links = sides.map((side) => table && linkOf(design, table, side))
  const [one, other] = links
  if (!table || !one || !other) return { rows: [], wanted: 0, there: 0 }
  const [lefts, rights] = [rowsOf(design, one), rowsOf(design, other)]
  const own = [...one.own, ...other.own]
  const there = new Set(table.rows.map((row) => textOfKey(table, own, row)))
  const rows: Row[] = []
  const counters = new Map<string, bigint>()
  const added = new Set<string | undefined>()
  for (const left of lefts)
    for (const right of rights) {
      if (rows.length >= MOST_PAIRS) break
      const pair = { ...valuesOf(one, left), ...valuesOf(other, right) }
      const text = textOfKey(table, own, pair)
      if (there.has(text) || added.has(text)) continue
      added.add(text)
      rows.push(filledRow(design, table, pair, counters, now))
    }
  const wanted = lefts.length * rights.length
  return { rows, wanted, there: wanted - rows.length }
}

interface SideLink {
  side: PairSide
  foreignKey: ForeignKey
  table: Table
  own: string[]
}

function linkOf(design: Design, junction: Table, side: PairSide): SideLink | undefined {
  const foreignKey = junction.foreignKeys.find(({ id }) => id === side.foreignKey)
  const table = foreignKey && tableOf(design, foreignKey.table)
  if (!foreignKey || !table) return undefined
  return { side, foreignKey, table, own: foreignKey.pairs.map(({ column }) => column) }
}

const valuesOf = ({ foreignKey }: SideLink, row: Row): Row =>
  Object.fromEntries(foreignKey.pairs.map(({ column, refersTo }) => [column, row[refersTo] ?? null]))

function rowsOf(design: Design, { side, table }: SideLink): Row[] {
  const having = side.has && placesHaving(design, table, side.has)
  return table.rows.filter((row, place) => {
    const isChosen = side.places === undefined || side.places.includes(place)
    const meets = side.where === undefined || evaluate(side.where, table, row) === true
    return isChosen && meets && (having === undefined || having.has(place))
  })
}

/** The rows of a table that a junction pairs with one row of its far side. */
function placesHaving(
  design: Design,
  table: Table,
  { junction: id, by, far, place }: NonNullable<PairSide['has']>
): ReadonlySet<number> {
  const junction = tableOf(design, id)
  const [own, its] = [by, far].map((key) => junction?.foreignKeys.find((each) => each.id === key))
  const there = its && tableOf(design, its.table)
  const row = there?.rows[place]
  const found = new Set<number>()
  if (!junction || !own || !its || !row) return found
  const refers = (key: ForeignKey): string[] => key.pairs.map(({ refersTo }) => refersTo)
  const wanted = textOfKey(there, refers(its), row)
  const index = rowIndex(table, wayBy(refers(own)))
  const columnsOf = (key: ForeignKey): string[] => key.pairs.map(({ column }) => column)
  for (const pair of junction.rows)
    if (textOfKey(junction, columnsOf(its), pair) === wanted)
      for (const each of index.get(textOfKey(junction, columnsOf(own), pair) ?? '') ?? []) found.add(each)
  return found
}

/** Junctions that a table stands on a side of, with what is on their far side. */
export function junctionsOf(
  design: Design,
  table: Table
): { junction: Table; by: ForeignKey; far: ForeignKey; to: Table }[] {
  return design.tables.flatMap((junction) => {
    const sides = junctionSides(junction)
    return sides
      .filter((side) => side.table === table.id)
      .flatMap((by) =>
        sides.flatMap((far) => {
          const to = tableOf(design, far.table)
          return far.id === by.id || !to ? [] : [{ junction, by, far, to }]
        })
      )
  })
}

/** The same as SQL, for a database with other rows; safe to run again. Columns beside the pair take their defaults. */
export function pairsSql(design: Design, { junction, sides }: PairQuestion, dialect: Dialect): string {
  const sql = inSql(design, dialect)
  const table = tableOf(design, junction)
  const [one, other] = sides.map((side) => table && linkOf(design, table, side))
  if (!table || !one || !other) return ''
  const links: [string, SideLink][] = [
    ['one', one],
    ['other', other]
  ]
  const into = links.flatMap(([, link]) => link.own.map((id) => sql.named(table, id)))
  const taken = links.flatMap(([alias, link]) =>
    link.foreignKey.pairs.map(({ refersTo }) => sql.column(alias, link.table, refersTo))
  )
  const same = links.map(([alias, link]) =>
    sql.joined(['there', table], [alias, link.table], link.foreignKey)
  )
  const from = links.map(([alias, link]) => `${sql.table(link.table)} ${alias}`)
  const isThere = `NOT EXISTS (SELECT 1 FROM ${sql.table(table)} there WHERE ${same.join(' AND ')})`
  const conditions = links.flatMap(([alias, link]) => conditionsOf(design, sql, link, alias))
  return [
    `INSERT INTO ${sql.table(table)} (${into.join(', ')})`,
    `SELECT ${taken.join(', ')}`,
    `FROM ${from.join(' CROSS JOIN ')}`,
    `WHERE ${[...conditions, isThere].join('\n  AND ')}`
  ].join('\n')
}

function conditionsOf(design: Design, sql: InSql, { side, table }: SideLink, alias: string): string[] {
  const conditions: string[] = []
  if (side.places !== undefined) {
    const rows = side.places.flatMap((place): Row[] => (table.rows[place] ? [table.rows[place]] : []))
    const those = rows.map((row) => sql.isRow(alias, table, row))
    conditions.push(rows.length === 0 ? '1 = 0' : `(${those.join(' OR ')})`)
  }
  if (side.where !== undefined) conditions.push(sql.condition(side.where, alias, table))
  const { has } = side
  const junction = has && tableOf(design, has.junction)
  const [by, far] = [has?.by, has?.far].map((id) => junction?.foreignKeys.find((each) => each.id === id))
  const to = far && tableOf(design, far.table)
  const row = has && to?.rows[has.place]
  if (junction && by && far && to && row) {
    const joined = sql.joined(['had', junction], [alias, table], by)
    const meant = sql.refersTo('had', junction, far, to, row)
    conditions.push(`EXISTS (SELECT 1 FROM ${sql.table(junction)} had WHERE ${joined} AND ${meant})`)
  }
  return conditions
}
