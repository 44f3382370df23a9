import type { Rectangle, Spot } from './pack.ts'
import { type Node, type Edge, GAP, SWEEPS, type Placed } from './placed.ts'
import { putInOrder, gapAfter } from './crossings.ts'

/** Room between layers, which grows with the keys whose lines run there, and between what stands in a layer (pixels). */
const CHANNEL = { least: 54, line: 6, most: 150 }
/** How high a line is that passes through a layer between its tables. */
const LINE = 4

/** Shapes that are tried, as shares of the one that is asked for, and how much of a crossing more room is worth. */
const SHAPES = [0.02, 0.15, 0.5]
const CROSSING = 0.15
/** In how many ways at first, of so many tables in all. */
const STARTS = { tables: 160, most: 6 }
/** With more tables than this only one shape is tried. */
const LARGE = 80

/** Tables in layers, the least of their top left corners 0, 0. */
export interface Layered {
  /** Where each stands, by its top left corner. */
  spots: Map<string, Spot>
  /** What tables and the lines between them take, with the room around it: the rest of the sheet is free. */
  solids: Rectangle[]
}

/**
 * Places tables that hang together in layers from left to right, ones left of manys except where they run in a circle:
 * about in the shape that is asked for, so that no layer is much longer than the others, and so that few lines cross.
 * @param aspect width for each unit of height.
 */
export function placeInLayers(nodes: readonly Node[], edges: readonly Edge[], aspect: number): Layered {
  const area = nodes.reduce(
    (sum, { width, height }) => sum + (width + CHANNEL.least) * (height + GAP.tables),
    0
  )
  const tallest = nodes.reduce((most, { height }) => Math.max(most, height), 0)
  let best: { layered: Layered; cost: number } | undefined
  for (const share of nodes.length > 2 && nodes.length <= LARGE ? SHAPES : [0.1]) {
    const height = Math.max(tallest, Math.sqrt(area / (aspect * share)))
    const layers = withLines(inLayers(connect(nodes, edges), height))
    const crossings = putInOrder(layers, Math.ceil(Math.min(STARTS.most, STARTS.tables / nodes.length)))
    const most = Math.max(...layers.map(heightOf))
    for (let sweep = 0; sweep < SWEEPS.place; sweep++)
      for (const layer of sweep % 2 === 0 ? layers : [...layers].reverse()) settle(layer, most)
    const layered = layeredOf(layers)
    const cost = (sizeOf(layers, layered.spots, aspect) / area) * (1 + CROSSING * crossings)
    if (!best || cost < best.cost) best = { layered, cost }
  }
  return best?.layered ?? { spots: new Map(), solids: [] }
}

/** The area of a sheet of the wanted shape that holds the layers. */
function sizeOf(
  layers: readonly (readonly Placed[])[],
  spots: ReadonlyMap<string, Spot>,
  aspect: number
): number {
  const tables = layers.flat().filter(({ isLine }) => !isLine)
  const right = Math.max(...tables.map(({ id, width }) => (spots.get(id)?.x ?? 0) + width))
  const bottom = Math.max(...tables.map(({ id, height }) => (spots.get(id)?.y ?? 0) + height))
  return Math.max(right / aspect, bottom) ** 2 * aspect
}

function connect(nodes: readonly Node[], edges: readonly Edge[]): Placed[] {
  const placed = nodes.map((node, at): Placed => ({
    ...node,
    isLine: false,
    at,
    layer: 0,
    y: 0,
    before: [],
    behind: []
  }))
  const byId = new Map(placed.map((each) => [each.id, each]))
  const out = new Map<Placed, { to: Placed; edge: Edge }[]>()
  for (const edge of edges) {
    const [from, to] = [byId.get(edge.from), byId.get(edge.to)]
    if (from && to && from !== to) out.set(from, [...(out.get(from) ?? []), { to, edge }])
  }
  // What leads back to where one has come from is turned round: it runs in a circle.
  const state = new Map<Placed, 'open' | 'done'>()
  for (const start of placed) {
    const way: { node: Placed; next: number }[] = []
    const enter = (node: Placed): void => {
      state.set(node, 'open')
      way.push({ node, next: 0 })
    }
    if (!state.has(start)) enter(start)
    for (let top = way.at(-1); top; top = way.at(-1)) {
      const found = out.get(top.node)?.[top.next++]
      if (!found) {
        state.set(top.node, 'done')
        way.pop()
        continue
      }
      const { to, edge } = found
      if (state.get(to) === 'open') join(to, edge.toY, top.node, edge.fromY, edge.bundle)
      else join(top.node, edge.fromY, to, edge.toY, edge.bundle)
      if (!state.has(to)) enter(to)
    }
  }
  return placed
}

function join(left: Placed, leftY: number, right: Placed, rightY: number, bundle: string): void {
  left.behind.push({ node: right, bundle, own: leftY, its: rightY })
  right.before.push({ node: left, bundle, own: rightY, its: leftY })
}

/** Layers that hold about so much height: each table right of what it refers to, and otherwise as far left as there is room. */
function inLayers(placed: readonly Placed[], height: number): Placed[][] {
  const filled: number[] = []
  const put = (node: Placed, layer: number): void => {
    node.layer = layer
    filled[layer] = (filled[layer] ?? 0) + node.height + GAP.tables
  }
  const hasRoom = (node: Placed, layer: number): boolean =>
    (filled[layer] ?? 0) === 0 || (filled[layer] ?? 0) + node.height <= height
  const order = topological(placed)
  for (const node of order) {
    let layer = node.before.reduce((most, { node: parent }) => Math.max(most, parent.layer + 1), 0)
    while (!hasRoom(node, layer)) layer++
    put(node, layer)
  }
  // What nothing holds on the left comes near to what refers to it.
  for (const node of [...order].reverse()) {
    if (node.behind.length <= node.before.length) continue
    const last = node.behind.reduce((least, { node: child }) => Math.min(least, child.layer - 1), Infinity)
    for (let layer = last; layer > node.layer; layer--) {
      if (!hasRoom(node, layer)) continue
      filled[node.layer] = (filled[node.layer] ?? 0) - node.height - GAP.tables
      put(node, layer)
      break
    }
  }
  const layers: Placed[][] = filled.map(() => [])
  for (const node of order) layers[node.layer]?.push(node)
  const full = layers.filter((layer) => layer.length > 0)
  for (const [at, layer] of full.entries()) for (const node of layer) node.layer = at
  return full
}

/** Each after all that it refers to; those that most hangs on first. */
function topological(placed: readonly Placed[]): Placed[] {
  const waits = new Map(placed.map((node) => [node, node.before.length]))
  const order: Placed[] = []
  let ready = placed.filter((node) => node.before.length === 0)
  while (ready.length > 0) {
    ready.sort((one, other) => other.behind.length - one.behind.length || one.at - other.at)
    order.push(...ready)
    const next: Placed[] = []
    for (const node of ready)
      for (const { node: child } of node.behind) {
        const left = (waits.get(child) ?? 0) - 1
        waits.set(child, left)
        if (left === 0) next.push(child)
      }
    ready = next
  }
  return order
}

/** The same with a place in each layer for the lines that pass through it: one for all of a key. */
function withLines(layers: Placed[][]): Placed[][] {
  const tables = layers.flat()
  const lines = new Map<string, Placed>()
  const ends = tables.flatMap((left) => left.behind.map((joint) => ({ left, joint })))
  for (const node of tables) {
    node.before = []
    node.behind = []
  }
  for (const { left, joint } of ends) {
    let [from, fromY] = [left, joint.own]
    for (let layer = left.layer + 1; layer < joint.node.layer; layer++) {
      const id = `${left.id} ${joint.bundle} ${layer}`
      let line = lines.get(id)
      if (!line) {
        const at = tables.length + lines.size
        line = { id, width: 0, height: LINE, isLine: true, at, layer, y: 0, before: [], behind: [] }
        lines.set(id, line)
        layers[layer]?.push(line)
        join(from, fromY, line, LINE / 2, joint.bundle)
      }
      ;[from, fromY] = [line, LINE / 2]
    }
    join(from, fromY, joint.node, joint.its, joint.bundle)
  }
  return layers
}

/** Where a node would stand for its lines to be short: at the middle one of what its ends ask for. */
function wantedY({ y, before, behind }: Placed): number {
  const wanted = [...before, ...behind]
    .map(({ node, own, its }) => node.y + its - own)
    .sort((one, other) => one - other)
  const middle = wanted.length >> 1
  if (wanted.length === 0) return y
  return wanted.length % 2 === 1
    ? (wanted[middle] as number)
    : ((wanted[middle - 1] as number) + (wanted[middle] as number)) / 2
}

/** Nodes that stand one below the other without more room than they need. */
interface Run {
  nodes: Placed[]
  height: number
  /** The sum of where each would have the run begin. */
  sum: number
}
const beginOf = ({ sum, nodes }: Run): number => sum / nodes.length

const heightOf = (layer: readonly Placed[]): number =>
  layer.reduce((sum, node, at) => sum + node.height + (layer[at + 1] ? gapAfter(node, layer[at + 1]) : 0), 0)

/**
 * Moves what stands in a layer to where it wants to be, as near as the others let it (pool adjacent violators), and
 * within the height that the longest layer has anyway.
 */
function settle(layer: readonly Placed[], most: number): void {
  const runs: Run[] = []
  for (const [at, node] of layer.entries()) {
    const height = node.height + gapAfter(node, layer[at + 1])
    let run: Run = { nodes: [node], height, sum: wantedY(node) }
    for (
      let above = runs.at(-1);
      above && beginOf(above) + above.height > beginOf(run);
      above = runs.at(-1)
    ) {
      runs.pop()
      run = {
        nodes: [...above.nodes, ...run.nodes],
        height: above.height + run.height,
        sum: above.sum + run.sum - above.height * run.nodes.length
      }
    }
    runs.push(run)
  }
  let next = 0
  for (const run of runs) {
    let y = Math.round(beginOf(run))
    for (const node of run.nodes) {
      node.y = y
      y += node.height + gapAfter(node, layer[++next])
    }
  }
  keepWithin(layer, most)
}

/** Pushes down what begins above the top, and up what ends below the bottom, and what is in the way of that. */
function keepWithin(layer: readonly Placed[], most: number): void {
  let top = 0
  for (const [at, node] of layer.entries()) {
    node.y = Math.max(node.y, top)
    top = node.y + node.height + gapAfter(node, layer[at + 1])
  }
  let bottom = most
  for (let at = layer.length - 1; at >= 0; at--) {
    const node = layer[at] as Placed
    node.y = Math.min(node.y, bottom - node.height)
    const above = layer[at - 1]
    bottom = node.y - (above ? gapAfter(above, node) : 0)
  }
}

function layeredOf(layers: readonly (readonly Placed[])[]): Layered {
  const top = layers.flat().reduce((least, { y, isLine }) => (isLine ? least : Math.min(least, y)), Infinity)
  const spots = new Map<string, Spot>()
  const solids: Rectangle[] = []
  let x = 0
  for (const layer of layers) {
    for (const { id, y, isLine } of layer) if (!isLine) spots.set(id, { x, y: y - top })
    const width = Math.max(...layer.map((each) => each.width))
    const lines = new Set(layer.flatMap(({ behind }) => behind.map(({ bundle }) => bundle))).size
    const channel = Math.min(CHANNEL.most, CHANNEL.least + CHANNEL.line * lines)
    const ends = layer.flatMap(({ y, behind }) =>
      behind.flatMap(({ node, own, its }) => [y + own, node.y + its])
    )
    const stretches: [x: number, width: number, of: [from: number, to: number][], around: number][] = [
      [x, width + GAP.tables, layer.map(({ y, height }) => [y, y + height]), GAP.tables],
      [x + width, channel, ends.map((y) => [y, y]), GAP.lines]
    ]
    for (const [left, wide, of, around] of stretches) {
      if (of.length === 0) continue
      const from = Math.max(0, Math.min(...of.map(([y]) => y)) - top - GAP.lines)
      const to = Math.max(...of.map(([, y]) => y)) - top + around
      solids.push({ x: left, y: from, width: wide, height: to - from })
    }
    x += width + channel
  }
  return { spots, solids }
}
