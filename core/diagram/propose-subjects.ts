import { fold, referencesTo, tableOf } from '../design/directory.ts'
import type { Design, Subject, TableId } from '../design/model.ts'
import { freeName, wordsOf } from '../naming/names.ts'
import { plural } from '../naming/words.ts'
import { hubsOf } from './hubs.ts'

/** Of fewer tables than this no subject is made. */
const FEWEST = 3
/** How much it counts that tables share the first word of their names, against a reference, which counts 1. */
const NAMED_ALIKE = 0.5
/** A word that more tables begin with says nothing. */
const MOST_NAMED = 24

/**
 * The parts that a design falls into, by how its tables hang together and what they are called: tables are joined, the
 * two parts first whose joining gains most, as long as more hangs together within parts than chance would have it
 * (modularity, after Newman 2004). Hubs, which hang on everything, join nothing and belong to those that they hang on most.
 * @returns names and tables, the largest first; none that would be nearly the whole or only a few tables.
 */
export function proposeSubjects(design: Design): Omit<Subject, 'id'>[] {
  const hubs = hubsOf(design)
  const parts = joined(design, edgesOf(design, hubs))
  for (const hub of hubs) {
    const weights = new Map<TableId[], number>()
    for (const { table } of referencesTo(design, hub)) {
      const part = parts.find((each) => each.includes(table.id))
      if (part) weights.set(part, (weights.get(part) ?? 0) + 1)
    }
    const [most] = [...weights].sort((one, other) => other[1] - one[1])[0] ?? []
    const alone = parts.findIndex((each) => each.length === 1 && each[0] === hub)
    if (!most || alone < 0 || most === parts[alone]) continue
    most.push(hub)
    parts.splice(alone, 1)
  }
  const taken: string[] = []
  return parts
    .filter((part) => part.length >= FEWEST && part.length < design.tables.length * 0.9)
    .sort((one, other) => other.length - one.length)
    .map((part) => {
      const name = freeName(nameOf(design, part, hubs), taken)
      taken.push(name)
      return { name, tables: design.tables.flatMap(({ id }) => (part.includes(id) ? [id] : [])) }
    })
}

type Edge = readonly [one: TableId, other: TableId, weight: number]

function edgesOf(design: Design, hubs: ReadonlySet<TableId>): Edge[] {
  const edges: Edge[] = design.tables.flatMap(({ id, foreignKeys }) =>
    foreignKeys.flatMap(({ table }): Edge[] =>
      table === id || hubs.has(table) || !tableOf(design, table) ? [] : [[id, table, 1]]
    )
  )
  const byWord = new Map<string, TableId[]>()
  for (const { id, name } of design.tables) {
    const word = firstWord(name)
    byWord.set(word, [...(byWord.get(word) ?? []), id])
  }
  for (const ids of byWord.values()) {
    if (ids.length > MOST_NAMED) continue
    for (const [at, one] of ids.entries())
      for (const other of ids.slice(at + 1)) edges.push([one, other, NAMED_ALIKE / (ids.length - 1)])
  }
  return edges
}

const firstWord = (name: string): string => fold(wordsOf(name)[0] ?? name)

/** Tables put together as long as that gains. */
function joined(design: Design, edges: readonly Edge[]): TableId[][] {
  const total = edges.reduce((sum, [, , weight]) => sum + weight, 0)
  const parts = new Map(design.tables.map(({ id }, at) => [at, [id]]))
  if (total === 0) return [...parts.values()]
  const at = new Map(design.tables.map(({ id }, place) => [id, place]))
  const between = new Map<number, Map<number, number>>([...parts.keys()].map((place) => [place, new Map()]))
  const hanging = new Map<number, number>()
  const add = (one: number, other: number, weight: number): void => {
    between.get(one)?.set(other, (between.get(one)?.get(other) ?? 0) + weight)
    between.get(other)?.set(one, (between.get(other)?.get(one) ?? 0) + weight)
  }
  for (const [from, to, weight] of edges) {
    const [one, other] = [at.get(from) ?? 0, at.get(to) ?? 0]
    add(one, other, weight)
    for (const place of [one, other]) hanging.set(place, (hanging.get(place) ?? 0) + weight)
  }
  const gain = (one: number, other: number, weight: number): number =>
    weight / total - ((hanging.get(one) ?? 0) * (hanging.get(other) ?? 0)) / (2 * total * total)
  for (;;) {
    let best: { one: number; other: number; gain: number } | undefined
    for (const [one, beside] of between)
      for (const [other, weight] of beside) {
        const gained = one < other ? gain(one, other, weight) : 0
        if (gained > (best?.gain ?? 1e-9)) best = { one, other, gain: gained }
      }
    if (!best) return [...parts.values()]
    const { one, other } = best
    parts.get(one)?.push(...(parts.get(other) ?? []))
    hanging.set(one, (hanging.get(one) ?? 0) + (hanging.get(other) ?? 0))
    for (const [third, weight] of between.get(other) ?? []) {
      between.get(third)?.delete(other)
      if (third !== one) add(one, third, weight)
    }
    for (const left of [parts, between, hanging]) left.delete(other)
  }
}

/** What a part is called: the word that most of its tables begin with, or those of the one that most hangs on. */
function nameOf(design: Design, part: readonly TableId[], hubs: ReadonlySet<TableId>): string {
  const tables = part.flatMap((id) => tableOf(design, id) ?? [])
  const counts = new Map<string, number>()
  for (const { name } of tables) counts.set(firstWord(name), (counts.get(firstWord(name)) ?? 0) + 1)
  const [word, count] = [...counts].sort((one, other) => other[1] - one[1])[0] ?? ['', 0]
  if (count * 2 > tables.length) return word
  const within = (id: TableId): number =>
    referencesTo(design, id).filter(({ table }) => part.includes(table.id)).length
  const [first] = [...tables].sort(
    (one, other) => Number(hubs.has(one.id)) - Number(hubs.has(other.id)) || within(other.id) - within(one.id)
  )
  return first ? plural(first.name) : 'part'
}
