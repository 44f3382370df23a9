import type { Design, TableId } from '../design/model.ts'
import { tableOf } from '../design/directory.ts'
import { finish, type Paused } from '../design/paused.ts'
import { laterOnes, violationsPaused, type Violation } from '../design/violations.ts'

/** A design without the rows that break a rule, on which a trial can be worked out. */
export interface Sound {
  design: Design
  /** Where the rows that are left stood, by their places now; of tables in which none is left out nothing. */
  places: ReadonlyMap<TableId, readonly number[]>
  /** What was wrong. */
  violations: readonly Violation[]
}

/**
 * Leaves out rows that an engine would not have taken, and those that then refer to nothing. Of rows that are not apart
 * the first stays.
 */
export const soundRows = (design: Design): Sound => finish(soundRowsPaused(design))

const known = new WeakMap<Design, Sound>()

/** The same, with stops. */
export function* soundRowsPaused(design: Design): Paused<Sound> {
  const sound = known.get(design) ?? (yield* leftWithout(design, new Map()))
  known.set(design, sound)
  return sound
}

/** The same without rows of tables, by their places. */
export const soundWithout = (design: Design, unfit: ReadonlyMap<TableId, ReadonlySet<number>>): Sound =>
  finish(leftWithout(design, unfit))

function* leftWithout(design: Design, unfit: ReadonlyMap<TableId, ReadonlySet<number>>): Paused<Sound> {
  const found = yield* violationsPaused(design)
  const places = new Map<TableId, readonly number[]>()
  let left = leaveOut(design, unfit, places)
  for (let wrong = yield* violationsPaused(left); wrong.length > 0; wrong = yield* violationsPaused(left))
    left = leaveOut(left, brokenBy(left, wrong), places)
  return { design: left, places, violations: found }
}

/** The rows that break a rule, by their tables: of rows that are not apart all but the first. */
function brokenBy(design: Design, wrong: readonly Violation[]): Map<TableId, Set<number>> {
  const broken = new Map<TableId, Set<number>>()
  for (const violation of wrong) {
    const table = tableOf(design, violation.table)
    const rows = broken.get(violation.table) ?? new Set<number>()
    const those = table && violation.kind === 'key' ? laterOnes(table, violation) : violation.rows
    for (const place of those) rows.add(place)
    broken.set(violation.table, rows)
  }
  return broken
}

/** The design without rows; `places` then says where those that are left stood at first. */
function leaveOut(
  design: Design,
  out: ReadonlyMap<TableId, ReadonlySet<number>>,
  places: Map<TableId, readonly number[]>
): Design {
  if (out.size === 0) return design
  const tables = design.tables.map((table) => {
    const gone = out.get(table.id)
    if (!gone) return table
    const before = places.get(table.id) ?? table.rows.map((_, place) => place)
    places.set(
      table.id,
      before.filter((_, place) => !gone.has(place))
    )
    return { ...table, rows: table.rows.filter((_, place) => !gone.has(place)) }
  })
  return { ...design, tables }
}

/** Where a row of the sound design stands in the whole one, and the other way round. */
export const placeInWhole = ({ places }: Sound, table: TableId, place: number): number =>
  places.get(table)?.[place] ?? place
export function placeInSound({ places }: Sound, table: TableId, place: number): number | undefined {
  const kept = places.get(table)
  if (!kept) return place
  const at = kept.indexOf(place)
  return at < 0 ? undefined : at
}
