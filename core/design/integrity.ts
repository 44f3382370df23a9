import { BOUNDS } from '../bounds.ts'
import { fits } from './value.ts'
import { defaultFits } from './default.ts'
import { columnOf, fold, fullName, keyOf, directory, referencesTo, sameSet, tableOf } from './directory.ts'
import { byId } from './by-id.ts'
import { type Design, type ForeignKey, type Table } from './model.ts'
import type { Carry, Flow } from './carry.ts'
import { IN_DESIGN, IN_TABLE, kindOf, type PartName } from './parts/all.ts'
import { ownIds } from './parts/held.ts'
import { eachInTurn, finish, type Paused } from './paused.ts'
import { sizeOf } from './size.ts'
import { type Flaw, flawsOfNote, flawOfLine } from './flaw.ts'
import { flawsOfColumns, flawsOfExtras } from './integrity-columns.ts'
import { flawsOfRows } from './integrity-rows.ts'

/**
 * What a schema of shapes cannot say: that ids are used once, that names are not doubled, that every key
 * and reference names something that is there, and that every default, value, text and expression is
 * one. It is judged here and nowhere else: a file whole ({@link flawsOf}), an operation by what it
 * changed ({@link newFlaw}). Nothing that has a flaw reaches a writer.
 */

/** Every flaw of a design. */
export const flawsOf = (design: Design): Flaw[] => finish(flawsInTurns(design))

/** The same, table by table. */
export function* flawsInTurns(design: Design): Paused<Flaw[]> {
  const shared = flawsOfShared(design)
  const ids = yield* flawsOfIds(design)
  const names = flawsOfNames(design)
  yield
  const tables = yield* eachInTurn(design.tables, (table, at) => flawsOfTable(design, table, ['tables', at]))
  const carries = yield* eachInTurn(design.carries, (carry, at) =>
    flawsOfCarry(design, carry, ['carries', at])
  )
  return [...shared, ...ids, ...names, ...tables.flat(), ...carries.flat(), ...flawsOfPositions(design)]
}

/**
 * The first flaw that a design has and the one before it had not, judged by what changed between the two:
 * tables, those that refer to them, and what all share. Nothing where there is none.
 */
export function newFlaw(before: Design, after: Design): Flaw | undefined {
  const had = before.tables
  const sharedChanged =
    before.schemas !== after.schemas ||
    before.enums !== after.enums ||
    before.policy !== after.policy ||
    before.standing !== after.standing
  const changed = after.tables.filter((table, at) => table !== had[at] && table !== tableOf(before, table.id))
  const near = new Set<Table>(changed)
  for (const table of changed)
    for (const reference of referencesTo(after, table.id)) near.add(reference.table)
  if (before.enums !== after.enums || before.schemas !== after.schemas)
    for (const table of after.tables) if (leansOnShared(table)) near.add(table)
  const found: Flaw[] = [
    ...(sharedChanged ? flawsOfShared(after) : []),
    ...(had === after.tables && !sharedChanged ? [] : flawsOfNames(after)),
    ...[...near].flatMap((table) =>
      flawsOfTable(after, table, ['tables', after.tables.indexOf(table)], before)
    ),
    ...after.carries
      .filter((carry) => !before.carries.includes(carry))
      .flatMap((carry) => flawsOfNewCarry(after, carry, ['carries', after.carries.indexOf(carry)])),
    ...(before.positions === after.positions ? [] : flawsOfPositions(after)),
    ...flawsOfSize(after)
  ]
  if (found.length === 0) return undefined
  // What was amiss before stays as it was; only what is new is refused.
  const old = new Set(flawsOf(before).map((flaw) => identityOfFlaw(before, flaw)))
  return found.find((flaw) => !old.has(identityOfFlaw(after, flaw)))
}

/** What is amiss and where, by ids: the same though other parts come before it. */
export function identityOfFlaw(design: Design, { path, message }: Flaw): string {
  let at: unknown = design
  const place = path.map((step) => {
    const part: unknown = typeof at === 'object' && at !== null ? Reflect.get(at, step) : undefined
    at = part
    const isPart = typeof step === 'number' && typeof part === 'object' && part !== null
    return isPart && 'id' in part ? part.id : step
  })
  return JSON.stringify([place, message])
}

/** A design that could not be written into a file that is read again. */
function flawsOfSize(design: Design): Flaw[] {
  const tooLong = sizeOf(design) > BOUNDS.file
  return tooLong
    ? [
        {
          path: [],
          message: `the design would be longer than ${BOUNDS.file.toLocaleString('en-GB')} characters as a file, which is more than is read`
        }
      ]
    : []
}

/** Whether a table may have a flaw through the schemas or the lists of values. */
function leansOnShared(table: Table): boolean {
  return table.schema !== undefined || table.columns.some((column) => column.type.kind === 'enum')
}

/** The flaws of what all tables share: the naming policy, what they begin with, schemas and lists of values. */
function flawsOfShared(design: Design): Flaw[] {
  const flaws: Flaw[] = []
  for (const [key, pattern] of Object.entries(design.policy)) {
    const unfit = typeof pattern === 'string' ? flawOfLine(pattern) : undefined
    if (unfit) flaws.push({ path: ['policy', key], message: `the naming policy has ${unfit} in ${key}` })
  }
  for (const [kind, list] of [
    ['schemas', design.schemas],
    ['enums', design.enums]
  ] as const) {
    const own = new Set<string>()
    list.forEach((each, at) => {
      if (own.has(fold(each.name)))
        flaws.push({ path: [kind, at, 'name'], message: `${each.name} is there twice` })
      own.add(fold(each.name))
    })
  }
  design.enums.forEach((each, at) => {
    const before = new Set<string>()
    const twice = each.values.findIndex((value) => before.size === before.add(value).size)
    if (twice >= 0)
      flaws.push({ path: ['enums', at, 'values', twice], message: `${each.name} has a value twice` })
  })
  return [...flaws, ...flawsOfStanding(design)]
}

function flawsOfStanding({ standing }: Design): Flaw[] {
  return (['tables', 'junctions'] as const).flatMap((kind) => {
    const names = new Set<string>()
    return (standing?.[kind] ?? []).flatMap((column): Flaw[] => {
      const isTwice = names.size === names.add(fold(column.name)).size
      const begins = column.default
      const isFit = begins?.kind !== 'generated' && defaultFits(begins, column.type)
      const is = column.type.kind === 'enum' ? 'is of a list of values, which may go' : undefined
      const what = isTwice ? 'is there twice' : isFit ? is : 'has a default that is none'
      const path = ['standing', kind]
      return what === undefined
        ? []
        : [{ path, message: `${column.name}, with which ${kind} begin, ${what}` }]
    })
  })
}

/** Ids that stand for two things. */
function* flawsOfIds(design: Design): Paused<Flaw[]> {
  const flaws: Flaw[] = []
  const ids = new Set<string>()
  const take = (name: PartName, holder: object, path: Flaw['path']): void => {
    const { in: where, as } = kindOf(name)
    ownIds(name, holder).forEach((id, at) => {
      const place = as === 'single' ? [...path, where] : [...path, where, at]
      if (ids.has(id)) flaws.push({ path: place, message: `the id ${id} is used twice` })
      ids.add(id)
    })
  }
  for (const name of IN_DESIGN) take(name, design, [])
  yield* eachInTurn(design.tables, (table, index) => {
    for (const name of IN_TABLE) take(name, table, ['tables', index])
  })
  return flaws
}

/** Tables that have one full name. */
function flawsOfNames(design: Design): Flaw[] {
  if (directory(design).byName.size === design.tables.length) return []
  const names = new Set<string>()
  return design.tables.flatMap((table, at): Flaw[] => {
    const name = fullName(design, table)
    const twice = names.has(fold(name))
    names.add(fold(name))
    return twice ? [{ path: ['tables', at, 'name'], message: `two tables are called ${name}` }] : []
  })
}

function flawsOfPositions(design: Design): Flaw[] {
  return Object.keys(design.positions)
    .filter((id) => !tableOf(design, id))
    .map((id) => ({ path: ['positions', id], message: 'there is no such table' }))
}

/**
 * Everything that is amiss with one table, as far as it and what it leans on tell.
 * @param before the design before, where only rows that are others than there are to be judged.
 */
function flawsOfTable(design: Design, table: Table, path: Flaw['path'], before?: Design): Flaw[] {
  const flaws: Flaw[] = []
  if (table.schema !== undefined && !byId(design.schemas).has(table.schema))
    flaws.push({ path: [...path, 'schema'], message: `${table.name} stands in a schema that is not there` })
  const unknown = table.label?.findIndex((id) => !columnOf(table, id)) ?? -1
  if (unknown >= 0)
    flaws.push({
      path: [...path, 'label', unknown],
      message: `rows of ${table.name} are called by a column that it does not have`
    })
  flaws.push(
    ...flawsOfNote(table.note, table.name, path),
    ...flawsOfColumns(design, table, path),
    ...flawsOfKeys(table, path),
    ...flawsOfExtras(design, table, path)
  )
  table.foreignKeys.forEach((foreignKey, at) => {
    const place = [...path, 'foreignKeys', at]
    const message = flawOfForeignKey(design, table, foreignKey)
    if (message) flaws.push({ path: place, message })
    const unfit =
      foreignKey.verbs && (flawOfLine(foreignKey.verbs.child) ?? flawOfLine(foreignKey.verbs.parent))
    if (unfit)
      flaws.push({
        path: [...place, 'verbs'],
        message: `how a relationship of ${table.name} is said has ${unfit} in it`
      })
  })
  return [...flaws, ...flawsOfRows(design, table, path, before)]
}

function flawsOfKeys(table: Table, path: Flaw['path']): Flaw[] {
  const flaws: Flaw[] = []
  const places: [Table['uniques'][number], Flaw['path']][] = table.uniques.map((key, at) => [
    key,
    [...path, 'uniques', at]
  ])
  if (table.primaryKey) places.unshift([table.primaryKey, [...path, 'primaryKey']])
  for (const [key, place] of places) {
    if (new Set(key.columns).size < key.columns.length)
      flaws.push({ path: place, message: 'a key names a column twice' })
    for (const id of key.columns) {
      const column = columnOf(table, id)
      if (!column) flaws.push({ path: place, message: `${table.name} has no column ${id}` })
      else if (key === table.primaryKey && !column.required)
        flaws.push({ path: place, message: `${column.name} is in the primary key and must be required` })
    }
  }
  return flaws
}

/** Why a foreign key cannot stand, or nothing where it can. */
export function flawOfForeignKey(design: Design, table: Table, foreignKey: ForeignKey): string | undefined {
  const referred = tableOf(design, foreignKey.table)
  if (!referred) return `${table.name} refers to a table that is not there`
  const key = keyOf(referred, foreignKey.key)
  if (!key) return `${table.name} refers to a key that ${referred.name} does not have`
  const own = foreignKey.pairs.map((pair) => pair.column)
  if (own.some((id) => !columnOf(table, id)))
    return `the reference to ${referred.name} uses a column that ${table.name} does not have`
  if (new Set(own).size < own.length) return `the reference to ${referred.name} uses a column twice`
  if (
    !sameSet(
      foreignKey.pairs.map((pair) => pair.refersTo),
      key.columns
    )
  )
    return `the reference to ${referred.name} must pair every column of its key once`
  return undefined
}

/**
 * What is amiss with a carry wherever it stands. What it is about may be gone by then: such a one carries
 * nothing.
 */
function flawsOfCarry(design: Design, carry: Carry, path: Flaw['path']): Flaw[] {
  if (!('source' in carry)) return []
  const target = tableOf(design, carry.target)
  return carry.columns.flatMap((each, at): Flaw[] => {
    const column = target && columnOf(target, each.to)
    const unfit = column && 'value' in each && !fits(each.value, column.type, design.enums)
    return unfit
      ? [
          {
            path: [...path, 'columns', at],
            message: `what a carry puts into ${target.name}.${column.name} does not fit it`
          }
        ]
      : []
  })
}

/** A carry that is new must go somewhere. */
function flawsOfNewCarry(design: Design, carry: Carry, path: Flaw['path']): Flaw[] {
  return isCarryToNowhere(design, carry)
    ? [{ path, message: 'rows are to be carried to a table that is not there' }]
    : flawsOfCarry(design, carry, path)
}

/**
 * A carry whose tables are not in the design does nothing there; but one that only gives back rows is about a table
 * that is gone, and waits for the way back.
 */
export function isCarryToNowhere(design: Design, carry: Carry): boolean {
  const waits = 'there' in carry && tablesIn(carry.there).length === 0 && carry.back.adds.length > 0
  return !waits && tablesGiven(carry).every((table) => !tableOf(design, table))
}

/** The tables whose rows a carry changes, one way or the other. */
function tablesGiven(carry: Carry): string[] {
  if ('source' in carry) return [carry.target]
  if ('referred' in carry) return [carry.table]
  return [carry.there, carry.back].flatMap(tablesIn)
}

const tablesIn = ({ adds, fills }: Flow): string[] => [...adds, ...fills].map(({ table }) => table)
