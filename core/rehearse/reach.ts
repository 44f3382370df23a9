import { textOfKey } from '../design/key-text.ts'
import type { Action, TableId } from '../design/model.ts'
import { rowIndex } from '../design/row-index.ts'
import type { ReferenceRule, Rulebook } from './rules.ts'
import type { Design } from '../design/model.ts'
import { tableOf } from '../design/directory.ts'

/** What a delete would do to rows through a reference. */
export type ReachEffect = 'deleted' | 'emptied' | 'defaulted' | 'refused'

const DOES: Record<Action, ReachEffect> = {
  CASCADE: 'deleted',
  'SET NULL': 'emptied',
  'SET DEFAULT': 'defaulted',
  RESTRICT: 'refused',
  'NO ACTION': 'refused'
}

/** One reference that a delete comes to. */
export interface ReachEdge {
  rule: ReferenceRule
  does: ReachEffect
  /** How many references from the start the table that it stands on is, by the shortest way. */
  step: number
  /** Whether it leads back to a table on the way to it. */
  isCircle: boolean
  /** How many of the design's own rows it would touch. */
  rows: number
}

/** Everything that deleting rows of a table can touch. */
export interface Reach {
  start: TableId
  /** How many rows it begins with. */
  rows: number
  edges: readonly ReachEdge[]
  /** The tables by how far they are, the start at 0; each once. */
  steps: readonly (readonly TableId[])[]
  /** How many rows of each table would be deleted, the first ones as well. */
  deleted: ReadonlyMap<TableId, number>
  /** The tables that it comes to by more than one reference. */
  meeting: readonly TableId[]
}

/**
 * What deleting rows of a table can touch, on an engine: along references that delete what refers, to those that empty
 * it or refuse. Rows are counted as if nothing refused.
 * @param places the rows that it begins with; every row of the table where none are named.
 */
export function reachOf(
  design: Design,
  rules: Rulebook,
  start: TableId,
  places: readonly number[] = (tableOf(design, start)?.rows ?? []).map((_, place) => place)
): Reach {
  const edges = edgesFrom(rules, start)
  const { deleted, touched } = rowsFrom(rules, start, places)
  const counted = edges.map((edge) => ({ ...edge, rows: touched.get(edge.rule.id) ?? 0 }))
  const stepOf = new Map<TableId, number>([[start, 0]])
  for (const { rule, step } of edges) if (!stepOf.has(rule.child.id)) stepOf.set(rule.child.id, step)
  const steps: TableId[][] = []
  for (const [table, step] of stepOf) (steps[step] ??= []).push(table)
  const times = new Map<TableId, number>()
  for (const { rule } of edges) times.set(rule.child.id, (times.get(rule.child.id) ?? 0) + 1)
  return {
    start,
    rows: places.length,
    edges: counted,
    steps,
    deleted,
    meeting: [...times].filter(([, count]) => count > 1).map(([table]) => table)
  }
}

/** The references that a delete comes to, those nearest first. */
function edgesFrom(rules: Rulebook, start: TableId): Omit<ReachEdge, 'rows'>[] {
  const edges: Omit<ReachEdge, 'rows'>[] = []
  const circles = circlesFrom(rules, start)
  const stepOf = new Map<TableId, number>([[start, 0]])
  for (const [table, at] of stepOf)
    for (const rule of rules.to(table)) {
      const does = DOES[rule.onDelete]
      edges.push({ rule, does, step: at + 1, isCircle: circles.has(rule.id) })
      if (does === 'deleted' && !stepOf.has(rule.child.id)) stepOf.set(rule.child.id, at + 1)
    }
  return edges
}

/** The references that lead back to a table on the way to them, by going as deep as there is a way. */
function circlesFrom(rules: Rulebook, start: TableId): ReadonlySet<string> {
  const circles = new Set<string>()
  const seen = new Set<TableId>()
  const isOnWay = new Set<TableId>()
  const way: { table: TableId; next: number }[] = []
  const enter = (table: TableId): void => {
    seen.add(table)
    isOnWay.add(table)
    way.push({ table, next: 0 })
  }
  enter(start)
  for (let top = way.at(-1); top; top = way.at(-1)) {
    const rule = rules.to(top.table)[top.next++]
    if (!rule) {
      isOnWay.delete(top.table)
      way.pop()
    } else if (rule.onDelete === 'CASCADE') {
      if (isOnWay.has(rule.child.id)) circles.add(rule.id)
      if (!seen.has(rule.child.id)) enter(rule.child.id)
    }
  }
  return circles
}

/** The rows that are touched: how many of each table are deleted, and how many each reference leads to. */
function rowsFrom(
  rules: Rulebook,
  start: TableId,
  places: readonly number[]
): { deleted: Map<TableId, number>; touched: Map<string, number> } {
  const gone = new Map<TableId, Set<number>>([[start, new Set(places)]])
  const touched = new Map<string, Set<number>>()
  const waiting: { table: TableId; place: number }[] = places.map((place) => ({ table: start, place }))
  for (let next = waiting.pop(); next; next = waiting.pop())
    for (const rule of rules.to(next.table)) {
      const { child, parent, link } = rule
      const row = parent.rows[next.place]
      const text = row && textOfKey(parent, link.its, row)
      if (text === undefined) continue
      const found = rowIndex(child, link.toOwn).get(text) ?? []
      const seen = touched.get(rule.id) ?? new Set<number>()
      touched.set(rule.id, seen)
      const lost = gone.get(child.id) ?? new Set<number>()
      if (rule.onDelete === 'CASCADE') gone.set(child.id, lost)
      for (const place of found) {
        seen.add(place)
        if (rule.onDelete !== 'CASCADE' || lost.has(place)) continue
        lost.add(place)
        waiting.push({ table: child.id, place })
      }
    }
  const sizes = <K>(sets: ReadonlyMap<K, ReadonlySet<number>>): Map<K, number> =>
    new Map([...sets].map(([key, set]) => [key, set.size]))
  return { deleted: sizes(gone), touched: sizes(touched) }
}

/** The most ways that are told one by one. */
const MOST_WAYS = 200

/** The ways from the start, each as its references in order, up to where it ends: what goes no further, or a circle. */
export function waysOf({ start, edges }: Reach): readonly (readonly ReachEdge[])[] {
  const from = new Map<TableId, ReachEdge[]>()
  for (const edge of edges) from.set(edge.rule.parent.id, [...(from.get(edge.rule.parent.id) ?? []), edge])
  const ways: ReachEdge[][] = []
  const walk = (table: TableId, way: ReachEdge[], seen: ReadonlySet<TableId>): void => {
    for (const edge of from.get(table) ?? []) {
      if (ways.length >= MOST_WAYS) return
      const child = edge.rule.child.id
      const longer = [...way, edge]
      const goesOn = edge.does === 'deleted' && !seen.has(child) && (from.get(child)?.length ?? 0) > 0
      if (goesOn) walk(child, longer, new Set([...seen, child]))
      else ways.push(longer)
    }
  }
  walk(start, [], new Set([start]))
  return ways
}
