import { newId, type Design } from './model.ts'

/**
 * The notches and the hue of one key, both derived from the key's id: how deep each of five cuts is (0 to
 * 3), and degrees of hue.
 */
export interface KeyShape {
  cuts: readonly number[]
  hue: number
}

const shapes = new Map<string, KeyShape>()

/** The shape of the key with the id. Two keys differ in their cuts, and nearly always in their hue. */
export function keyShape(id: string): KeyShape {
  let shape = shapes.get(id)
  if (!shape) shapes.set(id, (shape = makeShape(id)))
  return shape
}

function makeShape(id: string): KeyShape {
  let h = 2166136261
  for (const char of id) h = Math.imul(h ^ (char.codePointAt(0) ?? 0), 16777619) >>> 0
  const [shape, colour] = [mix(h), mix(h + 0x9e3779b9)]
  const cuts = [0, 1, 2, 3, 4].map((at) => (shape >>> (at * 4)) % 4)
  // A strip with hardly a step in it would not read as a key.
  if (new Set(cuts).size < 3) {
    cuts[1] = ((cuts[0] as number) + 2) % 4
    cuts[3] = ((cuts[0] as number) + 3) % 4
  }
  return { cuts, hue: (colour % 24) * 15 }
}

/** Spreads every bit of a number over all of it (the finaliser of MurmurHash3, 32 bits). */
function mix(value: number): number {
  let h = value >>> 0
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return (h ^ (h >>> 16)) >>> 0
}

/** How many ids are tried for a new key. */
const TRIED = 16
/** How many hues there are between those of two keys, round the circle: 0 to 12. */
const apart = (one: string, other: string): number => {
  const steps = Math.abs(keyShape(one).hue - keyShape(other).hue) / 15
  return Math.min(steps, 24 - steps)
}

/** An id for a new key that is told apart by its colour: of several, the one that is least like the design's keys. */
export function newKeyId({ tables }: Pick<Design, 'tables'>): string {
  const others = tables.flatMap(({ primaryKey }) => primaryKey?.id ?? [])
  const likeness = (id: string): number =>
    others.reduce((sum, other) => sum + 1 / (1 + apart(id, other)) ** 2, 0)
  const tried = Array.from({ length: TRIED }, () => newId('k')).map((id) => ({ id, like: likeness(id) }))
  return tried.reduce((best, each) => (each.like < best.like ? each : best)).id
}
