import { columnOf, tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import type { CarriedRows, LookedUp } from '../design/carry.ts'
import type { Catalog } from '../dialect/catalog.ts'
import type { CarryStep, LookUpStep, Place } from '../dialect/migration.ts'

/** What a migration moves, in the order in which it was done to the design. */
export interface Carries {
  rows: CarryStep[]
  lookUps: LookUpStep[]
  /** New columns that must be there before anything is looked up in them. */
  early: Place[]
}

/** The look-ups recorded since the state before: forwards for the way there, backwards for the way back. */
export interface LookUps {
  there: LookedUp[]
  back: LookedUp[]
}

export function lookUpsSince(from: Design, to: Design): LookUps {
  const there = to.carries.filter(
    (carry): carry is LookedUp => 'referred' in carry && !from.carries.some((each) => each.id === carry.id)
  )
  return {
    there,
    back: [...there].reverse().map((each) => ({ ...each, was: each.becomes, becomes: each.was }))
  }
}

/**
 * What is carried from one state to the other, as far as both ends are there. A look-up that needs
 * another's columns comes after it; one that nothing needs is left out. `after` is the catalog of `to`;
 * `kept` are columns that are put back from where they were kept.
 */
export function carriesBetween(
  from: Design,
  to: Design,
  lookUps: readonly LookedUp[],
  after: Catalog,
  kept: ReadonlySet<string> = new Set()
): Carries {
  const early = new Map<string, Place>()
  const there = new Map(
    from.tables
      .filter((table) => !table.external)
      .map((table) => [table.id, new Set(table.columns.map((column) => column.id))])
  )
  const steps: LookUpStep[] = []
  const comes = ({ table, column }: Place): boolean => kept.has(column) || counts(table, column)
  const counts = (table: string, column: string): boolean =>
    after.tables
      .find((each) => each.id === table)
      ?.columns.some((each) => each.id === column && each.generated) ?? false
  const rows = rowsSince(from, to)
  for (const lookUp of lookUps.flatMap((each) => atTheSource(each, rows, there))) {
    const [own, referred] = [there.get(lookUp.table), there.get(lookUp.referred)]
    if (!own || !referred || !lookUp.was.every((pair) => own.has(pair.column) && referred.has(pair.refersTo)))
      continue
    const missing = lookUp.becomes
      .filter((pair) => !referred.has(pair.refersTo))
      .map((pair): Place => ({ table: lookUp.referred, column: pair.refersTo }))
    const made = lookUp.becomes.filter((pair) => !own.has(pair.column))
    if (made.length === 0 || !missing.every(comes)) continue
    for (const place of missing) {
      referred.add(place.column)
      early.set(place.column, place)
    }
    for (const pair of made) own.add(pair.column)
    steps.push({ table: lookUp.table, referred: lookUp.referred, was: lookUp.was, becomes: made })
  }
  const used = needed(steps, to, rows)
  return {
    rows: rows.flatMap((carry) => rowStep(carry, from, to, used)),
    lookUps: used,
    early: [...early.values()].filter((place) =>
      used.some((step) => step.becomes.some((pair) => pair.refersTo === place.column))
    )
  }
}

/** The rows that go into tables that are new: those recorded since, where the source was there before. */
function rowsSince(from: Design, to: Design): CarriedRows[] {
  return to.carries.filter(
    (carry): carry is CarriedRows =>
      'source' in carry &&
      tableOf(from, carry.source) !== undefined &&
      tableOf(from, carry.target) === undefined &&
      !from.carries.some((each) => each.id === carry.id)
  )
}

/**
 * A new table has no rows to look anything up for; where it gets them from has, so that it is looked up
 * there, and carried.
 */
function atTheSource(
  lookUp: LookedUp,
  rows: CarriedRows[],
  there: ReadonlyMap<string, ReadonlySet<string>>
): LookedUp[] {
  if (there.has(lookUp.table)) return [lookUp]
  return rows.flatMap((carry, at): LookedUp[] => {
    if (carry.target !== lookUp.table) return []
    const sources = lookUp.was.map((pair) => carry.columns.find((each) => each.to === pair.column))
    const was = sources.flatMap((each, n) =>
      each && 'from' in each
        ? [{ column: each.from, refersTo: (lookUp.was[n] as { refersTo: string }).refersTo }]
        : []
    )
    if (was.length < lookUp.was.length) return []
    const becomes = lookUp.becomes.map((pair) => ({ ...pair, column: `${pair.column}_${carry.id}` }))
    rows[at] = {
      ...carry,
      columns: [
        ...carry.columns,
        ...lookUp.becomes.map((pair, n) => ({
          to: pair.column,
          from: (becomes[n] as { column: string }).column
        }))
      ]
    }
    return [{ ...lookUp, table: carry.source, was, becomes }]
  })
}

/**
 * The look-ups whose columns are wanted: in the state after, by rows that are carried, or by a later
 * look-up.
 */
function needed(steps: readonly LookUpStep[], to: Design, rows: readonly CarriedRows[]): LookUpStep[] {
  const wanted = new Set([
    ...to.tables.flatMap((table) => table.columns.map((column) => column.id)),
    ...rows.flatMap((carry) => carry.columns.flatMap((each) => ('from' in each ? [each.from] : [])))
  ])
  const used: LookUpStep[] = []
  for (const step of [...steps].reverse()) {
    if (!step.becomes.some((pair) => wanted.has(pair.column))) continue
    for (const pair of [...step.was, ...step.becomes]) wanted.add(pair.column).add(pair.refersTo)
    used.unshift(step)
  }
  return used
}

function rowStep(carry: CarriedRows, from: Design, to: Design, lookUps: readonly LookUpStep[]): CarryStep[] {
  const source = tableOf(from, carry.source)
  const target = tableOf(to, carry.target)
  if (!source || !target || !carry.where.every((id) => columnOf(source, id))) return []
  const has = (id: string): boolean =>
    columnOf(source, id) !== undefined ||
    lookUps.some((step) => step.table === source.id && step.becomes.some((pair) => pair.column === id))
  const columns = carry.columns.flatMap((each): CarryStep['columns'] => {
    const column = columnOf(target, each.to)
    if (!column) return []
    if ('value' in each) return [{ to: each.to, value: each.value, type: column.type }]
    return has(each.from) ? [{ to: each.to, from: each.from }] : []
  })
  return [{ source: source.id, target: target.id, where: carry.where, columns }]
}

/** Whether a column that the state before has not, or no longer, gets its values by looking them up. */
export function isLookedUp(lookUps: readonly LookUpStep[], table: Table, column: string): boolean {
  return lookUps.some(
    (step) => step.table === table.id && step.becomes.some((pair) => pair.column === column)
  )
}

/**
 * The columns with those that are looked up replaced by the ones that they are looked up by, as far back
 * as that goes.
 */
export function lookedUpBy(
  lookUps: readonly LookUpStep[],
  table: Table,
  columns: readonly string[]
): string[] {
  return [...lookUps].reverse().reduce<string[]>(
    (ids, step) => {
      if (step.table !== table.id || !step.becomes.every((pair) => ids.includes(pair.column))) return ids
      return [
        ...ids.filter((id) => !step.becomes.some((pair) => pair.column === id)),
        ...step.was.map((pair) => pair.column)
      ]
    },
    [...columns]
  )
}

/** Whether the column has a value in every row: it had one before, or is looked up by columns that had. */
export function comesFilled(lookUps: readonly LookUpStep[], before: Table, column: string): boolean {
  const own = columnOf(before, column)
  if (own) return own.required
  const step = lookUps.find(
    (each) => each.table === before.id && each.becomes.some((pair) => pair.column === column)
  )
  return step !== undefined && step.was.every((pair) => comesFilled(lookUps, before, pair.column))
}

/** Whether every row of the table has what the look-up goes by, so that none is left without. */
export function reachesEveryRow(step: LookUpStep, table: Table): boolean {
  return step.was.length === 1 || step.was.every((pair) => columnOf(table, pair.column)?.required)
}
