import { z } from 'zod'
import { flawsInTurns } from './integrity.ts'
import { designSchema, FIRST_POLICY, type Design } from './model.ts'
import { finish, type Paused } from './paused.ts'
import { shapedDesign } from './shaped.ts'
import { shorten } from './type.ts'
import type { Flaw } from './flaw.ts'

/** A design that holds together, with what was left out and why. */
export interface SoundPart {
  design: Design
  left: Flaw[]
}

/** The path to something in a design file. */
type Path = readonly PropertyKey[]

/**
 * Each round takes something out; a design of ten thousand tables in which each leans on the one before is
 * not worth more.
 */
const MOST_ROUNDS = 50

/**
 * What holds together of a design that does not: everything that fits no schema or has a flaw is left
 * out, and what then names nothing as well, until nothing is amiss.
 * @returns the sound design with what was left out and why; nothing where not even its frame can be read.
 */
export const soundPart = (json: unknown): SoundPart | undefined => finish(soundPartInTurns(json))

/** The same, table by table. */
export function* soundPartInTurns(json: unknown): Paused<SoundPart | undefined> {
  const left: Flaw[] = []
  let rest = framed(json)
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const parsed = yield* shapedDesign(rest)
    const wrong = parsed.success
      ? (yield* flawsInTurns(parsed.data)).map(cutOfFlaw)
      : parsed.error.issues.flatMap(cutsOfIssue)
    if (parsed.success && wrong.length === 0) return { design: parsed.data, left }
    if (wrong.every((each) => each.cut.length === 0)) return undefined
    left.push(...wrong.map((each) => each.flaw))
    rest = without(
      parsed.success ? parsed.data : rest,
      wrong.map((each) => each.cut)
    )
  }
  return undefined
}

/** A design with every part that its schema asks for, as far as it is one at all. */
function framed(json: unknown): unknown {
  if (typeof json !== 'object' || json === null || Array.isArray(json)) return json
  const list = (value: unknown): unknown => (Array.isArray(value) ? value : [])
  const record = (value: unknown): unknown =>
    typeof value === 'object' && value !== null && !Array.isArray(value) ? value : {}
  const { tables, carries, positions } = json as Partial<Design>
  const framedTable = (table: unknown): unknown =>
    typeof table === 'object' && table !== null
      ? { columns: [], uniques: [], foreignKeys: [], rows: [], ...table }
      : table
  return {
    name: 'A damaged design',
    ...json,
    tables: (list(tables) as unknown[]).map(framedTable),
    carries: list(carries),
    positions: record(positions)
  }
}

/** What is amiss, and the path to what is left out for it; an empty one where nothing can be. */
interface Cut {
  flaw: Flaw
  cut: Path
}

const cutOfFlaw = (flaw: Flaw): Cut => ({ flaw, cut: smallestAround(flaw.path) })

function cutsOfIssue(issue: z.core.$ZodIssue): Cut[] {
  const path = issue.path.map((part) => (typeof part === 'symbol' ? '' : part))
  const message = shorten(issue.message, 160)
  if (issue.code !== 'unrecognized_keys') return [cutOfFlaw({ path, message })]
  return issue.keys.map((key) => ({ flaw: { path: [...path, key], message }, cut: [...path, key] }))
}

/** The path to the smallest part around a place that can be left out by itself. */
function smallestAround(path: Path): Path {
  for (let length = path.length; length > 0; length--) {
    const way = path.slice(0, length)
    // A pattern of the naming policy is put right by the first policy's, in `prune`.
    if (typeof way.at(-1) === 'number' || way.at(-2) === 'policy' || mayBeMissing(way)) return way
  }
  return []
}

/** Whether the schema lets what stands at a place be missing: a property that need not be, a member of a record. */
function mayBeMissing(path: Path): boolean {
  let at: z.core.$ZodType | undefined = designSchema
  let isOptional = false
  for (const step of path) {
    const inside: z.core.$ZodType | undefined = at && bare(at)
    isOptional = false
    if (inside instanceof z.ZodArray) at = inside.element
    else if (inside instanceof z.ZodRecord) {
      at = inside.valueType
      isOptional = true
    } else if (inside instanceof z.ZodObject) {
      at = (inside.shape as Readonly<Record<PropertyKey, z.core.$ZodType>>)[step]
      isOptional = at instanceof z.ZodOptional || at instanceof z.ZodDefault
    } else return false
  }
  return isOptional
}

/** A schema without what lets it be missing. */
const bare = (schema: z.core.$ZodType): z.core.$ZodType =>
  schema instanceof z.ZodOptional || schema instanceof z.ZodDefault ? bare(schema.unwrap()) : schema

interface Cuts {
  whole: boolean
  inside: Map<PropertyKey, Cuts>
}

/** The value without the parts at the paths. */
function without(value: unknown, paths: readonly Path[]): unknown {
  const all: Cuts = { whole: false, inside: new Map() }
  for (const path of paths) {
    if (path.length === 0) continue
    let at = all
    for (const part of path) {
      const next: Cuts = at.inside.get(part) ?? { whole: false, inside: new Map() }
      at.inside.set(part, next)
      at = next
    }
    at.whole = true
  }
  return prune(value, all)
}

function prune(value: unknown, cuts: Cuts, holder?: PropertyKey): unknown {
  if (cuts.inside.size === 0 || typeof value !== 'object' || value === null) return value
  const entries: [PropertyKey, unknown][] = Array.isArray(value)
    ? [...value.entries()]
    : Object.entries(value)
  const kept = entries.flatMap(([key, item]): [PropertyKey, unknown][] => {
    const inside = cuts.inside.get(key)
    if (!inside) return [[key, item]]
    if (inside.whole && holder === 'policy' && Object.hasOwn(FIRST_POLICY, key))
      return [[key, FIRST_POLICY[key as keyof typeof FIRST_POLICY]]]
    return inside.whole ? [] : [[key, prune(item, inside, key)]]
  })
  return Array.isArray(value) ? kept.map(([, item]) => item) : Object.fromEntries(kept)
}
