import { randomFrom, type Random } from '../rows/random.ts'
import { GAP, SWEEPS, type Placed, type Joint } from './placed.ts'

/** Tables in layers, in an order in which few lines cross. */

/**
 * Puts each layer in the order in which fewest lines cross, as far as going to and fro finds it from so many beginnings;
 * says how many do.
 */
export function putInOrder(layers: Placed[][], starts: number): number {
  const random = randomFrom(1)
  let best = { crossings: Infinity, order: layers.map((layer) => [...layer]) }
  for (let start = 0; start < starts && best.crossings > 0; start++) {
    for (const layer of layers) {
      if (start > 0) shuffle(layer, random)
      stack(layer)
    }
    for (let sweep = 0; sweep < SWEEPS.order; sweep++) {
      const isOn = sweep % 2 === 0
      for (const layer of isOn ? layers : [...layers].reverse()) {
        const wanted = new Map(layer.map((node) => [node, meanY(node, isOn ? node.before : node.behind)]))
        layer.sort((one, other) => (wanted.get(one) as number) - (wanted.get(other) as number))
        stack(layer)
      }
      const crossings = allCrossings(layers)
      // Moving single nodes takes long, and does not make up for so many more.
      const isFarOff = crossings > best.crossings * 1.3 && crossings > best.crossings + 4
      if (isFarOff) continue
      for (let isBetter = true, round = 0; isBetter && round < 4; round++)
        isBetter = layers.map(sift).some(Boolean)
      const sifted = allCrossings(layers)
      if (sifted < best.crossings) best = { crossings: sifted, order: layers.map((layer) => [...layer]) }
      if (sifted === 0) break
    }
  }
  for (const [at, layer] of layers.entries()) {
    layer.splice(0, layer.length, ...(best.order[at] as Placed[]))
    stack(layer)
  }
  return best.crossings
}

function shuffle(layer: Placed[], random: Random): void {
  for (let at = layer.length - 1; at > 0; at--) {
    const other = random.below(at + 1)
    ;[layer[at], layer[other]] = [layer[other] as Placed, layer[at] as Placed]
  }
}

/** One below the other, from the top. */
function stack(layer: readonly Placed[]): void {
  let y = 0
  for (const [at, node] of layer.entries()) {
    node.y = y
    y += node.height + gapAfter(node, layer[at + 1])
  }
}

export const gapAfter = (upper: Placed, lower: Placed | undefined): number =>
  upper.isLine || lower?.isLine ? GAP.lines : GAP.tables

/** Where the middle of a node would be for its lines on one side to be level, on the whole. */
function meanY(node: Placed, joints: readonly Joint[]): number {
  if (joints.length === 0) return node.y + node.height / 2
  const sum = joints.reduce((total, { node: other, own, its }) => total + other.y + its - own, 0)
  return sum / joints.length + node.height / 2
}

/** How far a node is moved at most within its layer. */
const FARTHEST = 12

/** Moves each node of a layer to where in it fewest lines cross; says whether that made any fewer. */
function sift(layer: Placed[]): boolean {
  let isBetter = false
  for (const node of [...layer]) {
    const from = layer.indexOf(node)
    let best = { at: from, gain: 0 }
    for (const step of [1, -1]) {
      let gain = 0
      const last = from + step * FARTHEST
      for (let at = from + step; at >= 0 && at < layer.length && at !== last; at += step) {
        const other = layer[at] as Placed
        const [now, then] = [crossingsOf(node, other), crossingsOf(other, node)]
        gain += step > 0 ? now - then : then - now
        if (gain > best.gain) best = { at, gain }
      }
    }
    if (best.gain === 0) continue
    layer.splice(from, 1)
    layer.splice(best.at, 0, node)
    isBetter = true
  }
  if (isBetter) stack(layer)
  return isBetter
}

/** How many lines of two nodes of a layer cross, where one stands above the other. */
function crossingsOf(upper: Placed, lower: Placed): number {
  return across(upper.before, lower.before) + across(upper.behind, lower.behind)
}

function across(upper: readonly Joint[], lower: readonly Joint[]): number {
  let count = 0
  for (const one of upper)
    for (const other of lower)
      if (one.bundle !== other.bundle && one.node.y + one.its > other.node.y + other.its) count++
  return count
}

/** How many lines cross between layers. */
function allCrossings(layers: readonly (readonly Placed[])[]): number {
  let count = 0
  for (const layer of layers) {
    const ends = layer.flatMap(({ y, before }) =>
      before.map(({ node, bundle, own, its }) => ({ bundle, left: node.y + its, right: y + own }))
    )
    ends.sort((one, other) => one.left - other.left)
    for (const [at, one] of ends.entries())
      for (let next = at + 1; next < ends.length; next++) {
        const other = ends[next] as (typeof ends)[number]
        if (other.left > one.left && other.right < one.right && other.bundle !== one.bundle) count++
      }
  }
  return count
}
