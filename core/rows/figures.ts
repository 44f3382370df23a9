import { evaluate } from '../design/evaluate.ts'
import type { StandingFigure } from '../design/figure.ts'
import type { Column, Design, Row, Table } from '../design/model.ts'
import { compareValues } from '../design/order.ts'
import type { Value } from '../design/value.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { NameGiver } from '../naming/fit.ts'
import { exact, plainNumber } from '../sql/number.ts'
import { inSql, type InSql } from './in-sql.ts'
import { referredPlace, referringPlaces } from './sides.ts'

/** A row that a figure is over, with the one beyond it where the figure looks there. */
interface Pair {
  near: Row
  far: Row | undefined
}

/**
 * What a row says by a figure: null where there is nothing to say; undefined where a condition cannot be told without
 * an engine.
 */
export function figureValue(design: Design, standing: StandingFigure, row: Row): Value | undefined {
  const pairs = pairsUnder(design, standing, row)
  if (pairs === undefined) return undefined
  const { figure, of, far, column, order } = standing
  const said = far?.table ?? of
  switch (figure.measure) {
    case 'count':
      return pairs.length
    case 'different':
      return new Set(pairs.map((pair) => pair.far)).size
    case 'sum':
      return column ? sumOf(pairs, said, column, far !== undefined) : null
    case 'first':
    case 'last': {
      if (!column || !order) return null
      const found = firstOf(pairs, of, order, figure.measure === 'last')
      return found ? valueOf(said, column, far ? found.far : found.near) : null
    }
  }
}

/** The rows under a row that meet the figure's conditions; nothing where that cannot be told. */
function pairsUnder(design: Design, standing: StandingFigure, row: Row): Pair[] | undefined {
  const { figure, table, of, by, far } = standing
  const pairs: Pair[] = []
  for (const place of referringPlaces(design, of, by, table, row)) {
    const near = of.rows[place] as Row
    const isNear = figure.where === undefined ? true : evaluate(figure.where, of, near)
    if (isNear === undefined) return undefined
    if (isNear !== true) continue
    const at = far && referredPlace(design, of, far.key, near)
    const beyond = at === undefined ? undefined : far?.table.rows[at]
    if (far && !beyond) continue
    const isFar =
      figure.whereFar === undefined || !far || !beyond ? true : evaluate(figure.whereFar, far.table, beyond)
    if (isFar === undefined) return undefined
    if (isFar === true) pairs.push({ near, far: beyond })
  }
  return pairs
}

function valueOf(table: Table, column: Column, row: Row | undefined): Value {
  if (!row) return null
  return (column.computed === undefined ? row[column.id] : evaluate(column.computed, table, row)) ?? null
}

function sumOf(pairs: readonly Pair[], table: Table, column: Column, isFar: boolean): Value {
  const values = pairs.flatMap(({ near, far }) => valueOf(table, column, isFar ? far : near) ?? [])
  if (column.type.kind === 'float') return values.reduce<number>((sum, value) => sum + Number(value), 0)
  let sum = exact(0)
  for (const value of values) {
    const number = typeof value === 'boolean' ? undefined : exact(value)
    if (number) sum = sum?.plus(number)
  }
  return sum ? plainNumber(sum) : null
}

/** The first by a column, or the last; of several the one with the first key. Those where it is empty are passed over. */
function firstOf(pairs: readonly Pair[], of: Table, order: Column, isLast: boolean): Pair | undefined {
  const key = tieBreakers(of)
  const isBefore = (one: Row, other: Row): boolean => {
    const difference = compareValues(valueOf(of, order, one), valueOf(of, order, other), order.type)
    if (difference !== 0) return isLast ? difference > 0 : difference < 0
    for (const column of key) {
      const tie = compareValues(valueOf(of, column, one), valueOf(of, column, other), column.type)
      if (tie !== 0) return tie < 0
    }
    return false
  }
  let found: Pair | undefined
  for (const pair of pairs) {
    if (valueOf(of, order, pair.near) === null) continue
    if (!found || isBefore(pair.near, found.near)) found = pair
  }
  return found
}

/** By what rows that are the same in what orders them are told apart. */
const tieBreakers = ({ primaryKey, columns }: Table): Column[] =>
  columns.filter(({ id }) => primaryKey?.columns.includes(id))

/** What rows of a table that goes by an alias say by a figure, as SQL that stands where a value does. */
export function figureSql(sql: InSql, standing: StandingFigure, its: string): string {
  const { figure, table, of, by, far, column, order } = standing
  const conditions = [
    sql.joined(['near', of], [its, table], by),
    ...(figure.where === undefined ? [] : [sql.condition(figure.where, 'near', of)]),
    ...(figure.whereFar === undefined || !far ? [] : [sql.condition(figure.whereFar, 'far', far.table)])
  ]
  const near = `${sql.table(of)} near`
  const join = far ? sql.joined(['near', of], ['far', far.table], far.key) : ''
  const from = far ? `${near} JOIN ${sql.table(far.table)} far ON ${join}` : near
  const value = column ? sql.column(far ? 'far' : 'near', far?.table ?? of, column.id) : ''
  switch (figure.measure) {
    case 'count':
      return `(SELECT count(*) FROM ${from} WHERE ${conditions.join(' AND ')})`
    case 'different': {
      // Each far row once, whatever its key is made of.
      const beyond = far ? `${sql.table(far.table)} far` : ''
      const inside = [join, ...conditions].join(' AND ')
      return `(SELECT count(*) FROM ${beyond} WHERE EXISTS (SELECT 1 FROM ${near} WHERE ${inside}))`
    }
    case 'sum':
      return `(SELECT coalesce(sum(${value}), 0) FROM ${from} WHERE ${conditions.join(' AND ')})`
    case 'first':
    case 'last': {
      const ordered = order ? sql.column('near', of, order.id) : value
      const by = [
        `${sql.dialect.inOrder(ordered, (order ?? (column as Column)).type)}${figure.measure === 'last' ? ' DESC' : ''}`,
        ...tieBreakers(of).map(({ id, type }) => sql.dialect.inOrder(sql.column('near', of, id), type))
      ]
      const filled = [...conditions, `${ordered} IS NOT NULL`].join(' AND ')
      return `(SELECT ${value} FROM ${from} WHERE ${filled} ORDER BY ${by.join(', ')} ${sql.dialect.firstOnly})`
    }
  }
}

/** A table's rows with what they say by figures, as a SELECT for a view; no two of its columns have one name. */
export function figuresSelect(
  design: Design,
  anyVersion: Dialect,
  table: Table,
  figures: readonly StandingFigure[]
): string {
  const sql = inSql(design, anyVersion)
  const names = new NameGiver(sql.dialect.facts.nameLimit, sql.dialect.facts.refusedInNames)
  for (const { name } of table.columns) names.give(name)
  const own = table.columns.map(({ id }) => sql.column('its', table, id))
  const said = figures.map(
    (each) => `${figureSql(sql, each, 'its')} AS ${sql.dialect.quote(names.give(each.figure.name))}`
  )
  return `SELECT ${[...own, ...said].join(',\n  ')}\nFROM ${sql.table(table)} its`
}
