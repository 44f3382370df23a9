import { tableOf } from '../design/directory.ts'
import type { Design, Position, Subject, Table, TableId } from '../design/model.ts'
import { boxesOf, rowMiddle, type Box, type Extent } from './box.ts'
import { hubsOf, leadsAway } from './hubs.ts'
import { placeInLayers } from './layers.ts'
import { pack, type Parcel, type Spot } from './pack.ts'
import { headOf, isLarge, leadsOut, REGION, regionOf } from './regions.ts'
import { STUB } from './stub.ts'
import type { Edge, Node } from './placed.ts'

/** Width for each unit of height: of the whole, which is seen on a screen or a page, and of its parts. */
const ASPECT = { whole: 1.5, part: 1.5 }
/** Room between parts, and beside and below each table that stands alone; more where regions are drawn (pixels). */
const GAP = { parts: 28, regions: 52 }

/** A line longer than this nobody follows (pixels); in a large design one that leaves its region crosses much else. */
const FAR = { inside: 2600, outside: 1300 }

/**
 * Whether a reference is told of beside its table instead of being drawn as a line: to a hub, to what is far away, or to
 * what is not in the drawing.
 */
export function isStub(
  design: Design,
  table: Table,
  to: TableId,
  positions: ReadonlyMap<TableId, Position>
): boolean {
  if (to === table.id) return false
  if (leadsAway(design, table, to)) return true
  const [here, there] = [positions.get(table.id), positions.get(to)]
  const most = isLarge(design) && leadsOut(design, table.id, to) ? FAR.outside : FAR.inside
  return here !== undefined && there !== undefined && far(here, there) > most
}

/** Whether something is told of beside a table; nothing is beside those at the edge of a drawing. */
export const isBeside = (
  design: Design,
  table: Table,
  positions: ReadonlyMap<TableId, Position>,
  extent: Pick<Extent, 'slim'> = {}
): boolean =>
  !extent.slim?.has(table.id) && table.foreignKeys.some((key) => isStub(design, table, key.table, positions))

const far = (one: Position, other: Position): number => Math.abs(one.x - other.x) + Math.abs(one.y - other.y)

/**
 * A place for every table, as its top left corner in whole pixels: what hangs together stands in layers, ones left of
 * manys, and such parts and tables that stand alone are packed to the shape of a screen. A table that was put
 * somewhere by hand is there.
 */
export function layout(design: Design, extent?: Extent): Map<TableId, Position> {
  const boxes = boxesOf(design, extent)
  const known = new Map<string, PlacedPart>()
  const roomIn = (positions: ReadonlyMap<TableId, Position>): Map<TableId, number> =>
    new Map(
      design.tables.map((table) => [table.id, isBeside(design, table, positions, extent) ? STUB.length : 0])
    )
  // What is far away, and told beside its table, is known when all have a place; then there is room for that.
  const first = roomIn(new Map())
  let positions = arrange(design, boxes, first, known)
  const second = roomIn(positions)
  const isSame = [...second].every(([id, room]) => first.get(id) === room)
  if (!isSame) positions = arrange(design, boxes, second, known)
  for (const [id, position] of Object.entries(design.positions))
    if (positions.has(id)) positions.set(id, position)
  return positions
}

/**
 * @param room how much is kept free to the left of each table, for what is told beside it.
 * @param known parts that were placed already, by their tables and how much room these have beside them.
 */
function arrange(
  design: Design,
  boxes: ReadonlyMap<TableId, Box>,
  room: ReadonlyMap<TableId, number>,
  known: Map<string, PlacedPart>
): Map<TableId, Position> {
  const parts = partsOf(design).map((part): PlacedPart => {
    const name = part.map(({ id }) => `${id} ${room.get(id) ?? 0}`).join()
    const placed = known.get(name) ?? place(design, part, boxes, room)
    known.set(name, placed)
    return placed
  })
  const all = inRegions(design, parts)
  const { spots } = packed(all, all.length < parts.length ? GAP.regions : GAP.parts)
  return new Map([...spots].map(([id, { x, y }]) => [id, { x: Math.round(x), y: Math.round(y) }]))
}

/** The parts of each region as one, with room around it; the others as they are. */
function inRegions(design: Design, parts: readonly PlacedPart[]): PlacedPart[] {
  const above = headOf(design)
  const subjectOf = ({ ids }: PlacedPart): Subject | undefined => regionOf(design).get(ids[0] ?? '')
  return [...new Set(parts.map(subjectOf))].flatMap((subject) => {
    const own = parts.filter((part) => subjectOf(part) === subject)
    if (!subject) return own
    const { ids, spots, width, height } = packed(own, GAP.parts)
    return {
      ids,
      spots: new Map([...spots].map(([id, { x, y }]) => [id, { x: x + REGION.around, y: y + above }])),
      width: width + 2 * REGION.around,
      height: height + above + REGION.around
    }
  })
}

/** Parts packed to the shape of a screen: what is small fills what large ones leave free. */
function packed(parts: readonly PlacedPart[], gap: number): PlacedPart {
  const places = pack(parts, gap, ASPECT.whole)
  const spots = new Map<TableId, Spot>()
  for (const [at, { spots: own }] of parts.entries()) {
    const place = places[at] as Spot
    for (const [id, { x, y }] of own) spots.set(id, { x: place.x + x, y: place.y + y })
  }
  return {
    ids: parts.flatMap(({ ids }) => ids),
    spots,
    width: Math.max(0, ...parts.map(({ width }, at) => (places[at] as Spot).x + width)),
    height: Math.max(0, ...parts.map(({ height }, at) => (places[at] as Spot).y + height))
  }
}

interface PlacedPart extends Parcel {
  ids: TableId[]
  /** Where each table stands in the part. */
  spots: Map<TableId, Spot>
}

/** Tables of a region, or of none, that are joined by lines, however far. */
function partsOf(design: Design): Table[][] {
  const hubs = hubsOf(design)
  const beside = new Map<TableId, TableId[]>(design.tables.map(({ id }) => [id, []]))
  for (const table of design.tables)
    for (const { table: to } of table.foreignKeys) {
      if (hubs.has(to) || leadsOut(design, table.id, to)) continue
      beside.get(table.id)?.push(to)
      beside.get(to)?.push(table.id)
    }
  const seen = new Set<TableId>()
  return design.tables.flatMap((start) => {
    if (seen.has(start.id)) return []
    const part = [start.id]
    seen.add(start.id)
    for (const id of part)
      for (const other of beside.get(id) ?? [])
        if (!seen.has(other)) {
          seen.add(other)
          part.push(other)
        }
    return [part.flatMap((id) => tableOf(design, id) ?? [])]
  })
}

function place(
  design: Design,
  part: readonly Table[],
  boxes: ReadonlyMap<TableId, Box>,
  room: ReadonlyMap<TableId, number>
): PlacedPart {
  const ids = part.map(({ id }) => id)
  const hubs = hubsOf(design)
  const nodes = part.map(({ id }): Node => {
    const { width, height } = boxes.get(id) as Box
    return { id, width: width + (room.get(id) ?? 0), height }
  })
  const edges = part.flatMap((table) =>
    table.foreignKeys.flatMap(({ table: to, key, pairs: [pair] }): Edge[] => {
      const [child, parent] = [boxes.get(table.id), boxes.get(to)]
      if (!child || !parent || !pair || to === table.id || hubs.has(to)) return []
      if (leadsOut(design, table.id, to)) return []
      const [fromY, toY] = [rowMiddle(parent, pair.refersTo), rowMiddle(child, pair.column)]
      return [{ from: to, to: table.id, bundle: key, fromY, toY }]
    })
  )
  const spots = new Map<TableId, Spot>()
  const layered = placeInLayers(nodes, edges, ASPECT.part)
  for (const [id, { x, y }] of layered.spots) spots.set(id, { x: x + (room.get(id) ?? 0), y })
  const boxed = ids.map((id) => ({ ...(boxes.get(id) as Box), ...(spots.get(id) as Spot) }))
  return {
    ids,
    spots,
    ...(ids.length > 1 && { solids: layered.solids }),
    width: Math.max(...boxed.map(({ x, width }) => x + width)),
    height: Math.max(...boxed.map(({ y, height }) => y + height))
  }
}
