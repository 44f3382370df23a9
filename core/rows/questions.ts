import { columnOf, columnsIn, referencesTo, tableOf } from '../design/directory.ts'
import { filledRow } from '../design/filled.ts'
import type { Design, ForeignKey, Row, Table } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { NameGiver } from '../naming/fit.ts'
import { junctionSides } from '../relate/junction.ts'
import { plural } from '../naming/words.ts'
import { rowLabel } from '../relate/label.ts'
import { RowNames } from './called.ts'
import { inSql, type InSql } from './in-sql.ts'
import { referredPlace, referringPlaces } from './sides.ts'

/**
 * How one gets from rows of a table to rows of another: to those that refer to it, to the one that it refers to, or
 * through a junction to what is on its far side.
 */
export type Path = { from: Table; to: Table } & (
  | { kind: 'down'; key: ForeignKey }
  | { kind: 'up'; key: ForeignKey }
  | { kind: 'through'; junction: Table; near: ForeignKey; far: ForeignKey }
)

/** Every path from a table: along its references, along those to it, and through junctions. Other systems' have no rows here. */
export function pathsFrom(design: Design, from: Table): Path[] {
  const up = from.foreignKeys.flatMap((key): Path[] => {
    const to = tableOf(design, key.table)
    return to && !to.external ? [{ kind: 'up', from, to, key }] : []
  })
  const down = referencesTo(design, from.id).flatMap(({ table, foreignKey }): Path[] => {
    const sides = junctionSides(table)
    const isSide = sides.some(({ id }) => id === foreignKey.id)
    const through = (isSide ? sides : []).flatMap((far): Path[] => {
      const to = tableOf(design, far.table)
      return far.id === foreignKey.id || !to || to.external
        ? []
        : [{ kind: 'through', from, to, junction: table, near: foreignKey, far }]
    })
    return [...through, { kind: 'down', from, to: table, key: foreignKey }]
  })
  return [...down, ...up]
}

/** The same path from its other end. */
export function turned(path: Path): Path {
  const { from: to, to: from } = path
  if (path.kind === 'through')
    return { kind: 'through', from, to, junction: path.junction, near: path.far, far: path.near }
  return { kind: path.kind === 'up' ? 'down' : 'up', from, to, key: path.key }
}

/** What is asked: what this one has; which have none; how many each has; whether this pair is there; all, and whether. */
export const QUESTIONS = ['has', 'none', 'how many', 'is there', 'all and whether'] as const
export type Question = (typeof QUESTIONS)[number]

/** The row that is asked about, and the other of a pair, by their places. */
export interface AskedRows {
  row: number
  other: number
}

/** An answer from the design's own rows: rows by their places, with a count or whether they belong to it. */
export interface Answer {
  of: Table
  rows: readonly { place: number; says?: number | boolean }[]
}

/** The places of the rows that a row leads to; through a junction once for each of its rows. */
function placesAlong(design: Design, path: Path, row: Row): readonly number[] {
  switch (path.kind) {
    case 'down':
      return referringPlaces(design, path.to, path.key, path.from, row)
    case 'up':
      return [referredPlace(design, path.from, path.key, row)].filter((place) => place !== undefined)
    case 'through':
      return referringPlaces(design, path.junction, path.near, path.from, row).flatMap(
        (place) => referredPlace(design, path.junction, path.far, path.junction.rows[place] as Row) ?? []
      )
  }
}

/** How many rows a row has by a path: of a junction its own. */
function countAlong(design: Design, path: Path, row: Row): number {
  return path.kind === 'through'
    ? referringPlaces(design, path.junction, path.near, path.from, row).length
    : placesAlong(design, path, row).length
}

/** What the design's own rows answer. */
export function answer(design: Design, path: Path, question: Question, { row, other }: AskedRows): Answer {
  const { from, to } = path
  const its = from.rows[row] ?? {}
  switch (question) {
    case 'has':
      return { of: to, rows: placesAlong(design, path, its).map((place) => ({ place })) }
    case 'none':
      return {
        of: from,
        rows: from.rows.flatMap((each, place) => (countAlong(design, path, each) === 0 ? [{ place }] : []))
      }
    case 'how many':
      return {
        of: from,
        rows: from.rows.map((each, place) => ({ place, says: countAlong(design, path, each) }))
      }
    case 'is there': {
      const count = placesAlong(design, path, its).filter((place) => place === other).length
      return { of: to, rows: [{ place: other, says: count }] }
    }
    case 'all and whether': {
      const there = new Set(placesAlong(design, path, its))
      const all = to.rows.map((_, place) => ({ place, says: there.has(place) }))
      return { of: to, rows: from.id === to.id ? all.filter(({ place }) => place !== row) : all }
    }
  }
}

/** A question in words, for a row of the design. */
export function sayQuestion(
  design: Design,
  path: Path,
  question: Question,
  { row, other }: AskedRows
): string {
  const { from, to } = path
  const label = (table: Table, place: number): string =>
    table.rows[place] ? `“${rowLabel(design, table, table.rows[place])}”` : `a ${table.name}`
  switch (question) {
    case 'has':
      return path.kind === 'up'
        ? `The ${to.name} of ${from.name} ${label(from, row)}`
        : `The ${plural(to.name)} of ${from.name} ${label(from, row)}`
    case 'none':
      return `Every ${from.name} that has no ${to.name}`
    case 'how many':
      return `How many ${plural(to.name)} each ${from.name} has`
    case 'is there':
      return `Whether ${from.name} ${label(from, row)} has ${to.name} ${label(to, other)}`
    case 'all and whether':
      return `Every ${from.id === to.id ? 'other ' : ''}${to.name}, and whether ${label(from, row)} has it`
  }
}

/** What belongs to rows that go by `its`, with what it is joined to. */
function underneath(sql: InSql, path: Path): { from: string; joined: string } {
  switch (path.kind) {
    case 'down':
      return {
        from: `${sql.table(path.to)} other`,
        joined: sql.joined(['other', path.to], ['its', path.from], path.key)
      }
    case 'up':
      return {
        from: `${sql.table(path.to)} other`,
        joined: sql.joined(['its', path.from], ['other', path.to], path.key)
      }
    case 'through':
      return {
        from: `${sql.table(path.junction)} pair`,
        joined: sql.joined(['pair', path.junction], ['its', path.from], path.near)
      }
  }
}

/** That rows that go by `other` belong to one row. */
function belongs(sql: InSql, path: Path, row: Row): string {
  switch (path.kind) {
    case 'down':
      return sql.refersTo('other', path.to, path.key, path.from, row)
    case 'up': {
      const joined = sql.joined(['its', path.from], ['other', path.to], path.key)
      return `EXISTS (SELECT 1 FROM ${sql.table(path.from)} its WHERE ${sql.isRow('its', path.from, row)} AND ${joined})`
    }
    case 'through': {
      const joined = sql.joined(['pair', path.junction], ['other', path.to], path.far)
      const near = sql.refersTo('pair', path.junction, path.near, path.from, row)
      return `EXISTS (SELECT 1 FROM ${sql.table(path.junction)} pair WHERE ${near} AND ${joined})`
    }
  }
}

/** A question as SQL, for a row of the design; the first columns that it gives are the key of the rows that answer. */
export function questionSql(
  design: Design,
  anyVersion: Dialect,
  path: Path,
  question: Question,
  asked: AskedRows
): string {
  const sql = inSql(design, anyVersion)
  const { from, to } = path
  const [row, other] = [from.rows[asked.row] ?? {}, to.rows[asked.other] ?? {}]
  const called = new RowNames(design, sql, new NameGiver(sql.dialect.facts.nameLimit))
  const select = (more: readonly string[], rest: readonly string[]): string =>
    [`SELECT ${[...called.columns, ...more].join(', ')}`, ...rest].join('\n')
  const { from: under, joined } = underneath(sql, path)
  switch (question) {
    case 'has': {
      called.add(to, 'other')
      if (path.kind !== 'through')
        return select(
          [],
          [`FROM ${sql.table(to)} other`, ...called.joins, `WHERE ${belongs(sql, path, row)}`]
        )
      called.addFacts(path.junction, 'pair')
      const on = sql.joined(['pair', path.junction], ['other', to], path.far)
      const near = sql.refersTo('pair', path.junction, path.near, from, row)
      const start = [`FROM ${sql.table(path.junction)} pair`, `JOIN ${sql.table(to)} other ON ${on}`]
      return select([], [...start, ...called.joins, `WHERE ${near}`])
    }
    case 'none':
      called.add(from, 'its')
      return select(
        [],
        [
          `FROM ${sql.table(from)} its`,
          ...called.joins,
          `WHERE NOT EXISTS (SELECT 1 FROM ${under} WHERE ${joined})`
        ]
      )
    case 'how many':
      called.add(from, 'its')
      return select(
        [`(SELECT count(*) FROM ${under} WHERE ${joined}) AS how_many`],
        [`FROM ${sql.table(from)} its`, ...called.joins]
      )
    case 'is there':
      return pairSql(sql, path, row, other)
    case 'all and whether': {
      called.add(to, 'other')
      const there = `CASE WHEN ${belongs(sql, path, row)} THEN 1 ELSE 0 END AS is_there`
      const others = from.id === to.id ? [`WHERE NOT (${sql.isRow('other', to, row)})`] : []
      return select([there], [`FROM ${sql.table(to)} other`, ...called.joins, ...others])
    }
  }
}

/** How often a pair is there. */
function pairSql(sql: InSql, path: Path, row: Row, other: Row): string {
  const { from, to } = path
  switch (path.kind) {
    case 'down':
      return `SELECT count(*) AS is_there\nFROM ${sql.table(to)} other\nWHERE ${sql.isRow('other', to, other)} AND ${sql.refersTo('other', to, path.key, from, row)}`
    case 'up':
      return `SELECT count(*) AS is_there\nFROM ${sql.table(from)} its\nWHERE ${sql.isRow('its', from, row)} AND ${sql.refersTo('its', from, path.key, to, other)}`
    case 'through': {
      const near = sql.refersTo('pair', path.junction, path.near, from, row)
      const far = sql.refersTo('pair', path.junction, path.far, to, other)
      return `SELECT count(*) AS is_there\nFROM ${sql.table(path.junction)} pair\nWHERE ${near} AND ${far}`
    }
  }
}

/** What is done to what a row has: another comes to it, one is taken from it, or it has just these. */
export const CHANGES = ['attach', 'detach', 'set'] as const
export type PairChange = (typeof CHANGES)[number]

/** Statements for a change, and what has to be known about them. */
export interface ChangeSql {
  statements: string[]
  remarks: string[]
}

/**
 * A change as SQL, for rows of the design.
 * @param others the places of the rows that are attached, taken away, or to be all that it has.
 */
export function changeSql(
  design: Design,
  anyVersion: Dialect,
  path: Path,
  change: PairChange,
  place: number,
  others: readonly number[]
): ChangeSql {
  const sql = inSql(design, anyVersion)
  const row = path.from.rows[place] ?? {}
  const those = others.flatMap((at): Row[] => (path.to.rows[at] ? [path.to.rows[at]] : []))
  if (path.kind === 'through') return pairChange(design, sql, path, change, row, those)
  const isDown = path.kind === 'down'
  const [child, parent] = isDown ? [path.to, path.from] : [path.from, path.to]
  // The one that is referred to, and those that refer: of a reference the other way there is one of each.
  const [referred, referring] = isDown ? [row, those] : [those[0] ?? {}, [row]]
  return referenceChange(sql, child, parent, path.key, change, referred, referring)
}

const either = (conditions: readonly string[]): string =>
  conditions.length === 0 ? '1 = 0' : conditions.map((each) => `(${each})`).join(' OR ')

type Through = Extract<Path, { kind: 'through' }>

function pairChange(
  design: Design,
  sql: InSql,
  path: Through,
  change: PairChange,
  row: Row,
  those: readonly Row[]
): ChangeSql {
  const { junction, near, far, from, to } = path
  const own = sql.refersTo('', junction, near, from, row)
  const isOneOf = either(those.map((each) => sql.refersTo('', junction, far, to, each)))
  const remove = (which: string): string => `DELETE FROM ${sql.table(junction)}\nWHERE ${own} AND ${which}`
  if (change === 'detach') return { statements: [remove(`(${isOneOf})`)], remarks: [] }
  const attach = attachSql(sql, path, row, those)
  const remarks = missingIn(design, path)
  return change === 'attach'
    ? { statements: [attach], remarks }
    : { statements: [remove(`NOT (${isOneOf})`), ...(those.length > 0 ? [attach] : [])], remarks }
}

/** The pairs that are not there yet, with what is copied from either side. */
function attachSql(
  sql: InSql,
  { junction, near, far, from, to }: Through,
  row: Row,
  those: readonly Row[]
): string {
  const sides: [string, Table, ForeignKey][] = [
    ['its', from, near],
    ['other', to, far]
  ]
  const values = new Map<string, string>()
  for (const [alias, table, key] of sides) {
    for (const { column, refersTo } of key.pairs) values.set(column, sql.column(alias, table, refersTo))
    for (const { id, copied } of junction.columns)
      if (copied?.foreignKey === key.id) values.set(id, sql.column(alias, table, copied.column))
  }
  const names = [...values.keys()].map((id) => sql.named(junction, id))
  const there = sides.map(([alias, table, key]) => sql.joined(['there', junction], [alias, table], key))
  return [
    `INSERT INTO ${sql.table(junction)} (${names.join(', ')})`,
    `SELECT ${[...values.values()].join(', ')}`,
    `FROM ${sql.table(from)} its CROSS JOIN ${sql.table(to)} other`,
    `WHERE ${sql.isRow('its', from, row)}`,
    `  AND (${either(those.map((each) => sql.isRow('other', to, each)))})`,
    `  AND NOT EXISTS (SELECT 1 FROM ${sql.table(junction)} there WHERE ${there.join(' AND ')})`
  ].join('\n')
}

/** What a new pair must be told besides. */
function missingIn(design: Design, { junction, near, far }: Through): string[] {
  const given = new Set([...near.pairs, ...far.pairs].map(({ column }) => column))
  const filled = filledRow(design, junction, {}, new Map())
  const missing = junction.columns.filter(
    ({ id, required, computed, copied }) =>
      required && computed === undefined && !copied && !given.has(id) && (filled[id] ?? null) === null
  )
  return missing.map(
    ({ name }) => `${name} of ${junction.name} is required and has no default: add it to what is put in.`
  )
}

function referenceChange(
  sql: InSql,
  child: Table,
  parent: Table,
  key: ForeignKey,
  change: PairChange,
  referred: Row,
  referring: readonly Row[]
): ChangeSql {
  const own = columnsIn(
    child,
    key.pairs.map(({ column }) => column)
  )
  const set = (values: readonly string[]): string =>
    `UPDATE ${sql.table(child)}\nSET ${own.map(({ id }, at) => `${sql.named(child, id)} = ${values[at] ?? 'NULL'}`).join(', ')}`
  const theirs = key.pairs.map(({ refersTo }) => {
    const column = columnOf(parent, refersTo)
    return column ? sql.dialect.literal(referred[refersTo] ?? null, column.type) : 'NULL'
  })
  const those = either(referring.map((row) => sql.isRow('', child, row)))
  const isHeld = own.find(({ required }) => required)
  const refuses = isHeld
    ? [
        `${isHeld.name} of ${child.name} is required: a row that is taken away must refer to another ${parent.name}, or go.`
      ]
    : []
  const empty = own.map(() => 'NULL')
  const belonging = sql.refersTo('', child, key, parent, referred)
  switch (change) {
    case 'attach':
      return { statements: [`${set(theirs)}\nWHERE ${those}`], remarks: [] }
    case 'detach':
      return isHeld
        ? { statements: [], remarks: refuses }
        : { statements: [`${set(empty)}\nWHERE (${those}) AND ${belonging}`], remarks: [] }
    case 'set':
      return {
        statements: [
          ...(isHeld ? [] : [`${set(empty)}\nWHERE ${belonging} AND NOT (${those})`]),
          `${set(theirs)}\nWHERE ${those}`
        ],
        remarks: refuses
      }
  }
}
