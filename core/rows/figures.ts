import { evaluate } from '../design/evaluate.ts'
import type { StandingFigure } from '../design/figure.ts'
import type { Column, Design, Row, Table } from '../design/model.ts'
import { compareKeys, compareValues, orderKey, type OrderKey } from '../design/order.ts'
import type { Value } from '../design/value.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { NameGiver } from '../naming/fit.ts'
import { exact, plainNumber } from '../sql/number.ts'
import { inSql, type InSql } from './in-sql.ts'
import { referredPlaces, referringPlaces } from './sides.ts'

/** A row that a figure is over, with the one beyond it where the figure looks there. */
interface Pair {
  near: Row
  far: Row | undefined
}

/** What a row says by a figure, and on what: it holds as long as that is the same. */
interface Said {
  on: readonly unknown[]
  value: Value | undefined
}

/** What rows said last, by the ids of the figures. */
const known = new WeakMap<Row, Map<string, Said>>()

/**
 * What a row says by a figure: null where there is nothing to say; undefined where a condition cannot be told without
 * an engine.
 */
export function figureValue(design: Design, standing: StandingFigure, row: Row): Value | undefined {
  const last = knownValue(standing, row)
  if (last) return last.value
  const value = workedOut(design, standing, row)
  const figures = known.get(row) ?? new Map<string, Said>()
  known.set(row, figures.set(standing.figure.id, { on: groundOf(standing), value }))
  return value
}

/** Whether it takes no work to tell what a row says by a figure. */
export const isFigureKnown = (standing: StandingFigure, row: Row): boolean =>
  knownValue(standing, row) !== undefined

function knownValue(standing: StandingFigure, row: Row): Said | undefined {
  const [last, ground] = [known.get(row)?.get(standing.figure.id), groundOf(standing)]
  return last?.on.every((each, at) => each === ground[at]) ? last : undefined
}

const groundOf = ({ figure, table, of, far }: StandingFigure): readonly unknown[] => [
  figure,
  table.columns,
  of,
  far?.table
]

function workedOut(design: Design, standing: StandingFigure, row: Row): Value | undefined {
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
  const farPlace = far && referredPlaces(design, of, far.key)
  for (const place of referringPlaces(design, of, by, table, row)) {
    const near = of.rows[place] as Row
    const isNear = figure.where === undefined ? true : evaluate(figure.where, of, near)
    if (isNear === undefined) return undefined
    if (isNear !== true) continue
    const at = farPlace?.(near)
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
  const isBeforeByKey = (one: Row, other: Row): boolean => {
    for (const column of key) {
      const tie = compareValues(valueOf(of, column, one), valueOf(of, column, other), column.type)
      if (tie !== 0) return tie < 0
    }
    return false
  }
  type Placed = { pair: Pair; by: OrderKey }
  const isBefore = (one: Placed, other: Placed): boolean => {
    const difference = compareKeys(one.by, other.by)
    if (difference === 0) return isBeforeByKey(one.pair.near, other.pair.near)
    return isLast ? difference > 0 : difference < 0
  }
  let found: Placed | undefined
  for (const pair of pairs) {
    const value = valueOf(of, order, pair.near)
    if (value === null) continue
    const placed = { pair, by: orderKey(value, order.type) }
    if (!found || isBefore(placed, found)) found = placed
  }
  return found?.pair
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
