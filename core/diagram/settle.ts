import { referencesTo, tableOf } from '../design/directory.ts'
import type { Design, Position, Table, TableId } from '../design/model.ts'
import { boxesOf, type Extent } from './box.ts'
import { isBeside } from './layout.ts'
import { Near, type Room } from './near.ts'
import { leadsOut, REGION, regionOf, headOf } from './regions.ts'
import { STUB } from './stub.ts'

/** Room that is kept around each table (pixels). */
const GAP = 40
/** Of what was drawn before so much has to be there still, and no more may be new, for it to be the same picture. */
const SAME = { kept: 0.7, added: 0.2 }
/** How often tables are moved out of each other's way before all are placed anew. */
const ROUNDS = 12
/** How far from where it belongs a free spot is looked for, and in which steps (pixels). */
const SEARCH = { most: 4000, step: 40 }

/**
 * Places after a small change of a design, so that a picture that people know stays as it is: every table stands where
 * it stood, except that it gives way to one that has grown, and a new one stands beside what it is related to.
 * @param before where its tables stood.
 * @returns nothing where it is another picture, or does not come out: then all are to be placed anew.
 */
export function settle(
  design: Design,
  extent: Extent | undefined,
  before: ReadonlyMap<TableId, Position>
): Map<TableId, Position> | undefined {
  const kept = design.tables.filter(({ id }) => before.has(id))
  const added = design.tables.filter(({ id }) => !before.has(id))
  const isSame =
    kept.length >= before.size * SAME.kept && added.length <= Math.max(2, kept.length * SAME.added)
  if (!isSame || kept.length === 0) return undefined
  const sheet = new Sheet(design, extent)
  for (const { id } of kept) sheet.put(id, before.get(id) as Position)
  if (!sheet.giveWay()) return undefined
  for (const table of added) if (!sheet.putBeside(table)) return undefined
  return sheet.areRegionsApart() ? sheet.positions : undefined
}

/** Tables on a sheet, each with the room that it takes. */
class Sheet {
  readonly positions = new Map<TableId, Position>()
  private readonly taken = new Near<{ id: TableId }>(({ id }) => this.roomOf(id))
  private readonly boxes
  private readonly beside = new Map<TableId, number>()

  constructor(
    private readonly design: Design,
    private readonly extent: Extent | undefined
  ) {
    this.boxes = boxesOf(design, extent)
  }

  put(id: TableId, position: Position): void {
    this.positions.set(id, position)
  }

  private roomAt(id: TableId, { x, y }: Position, gap: number): Room {
    const box = this.boxes.get(id) ?? { width: 0, height: 0 }
    const beside = this.besideOf(id)
    return { left: x - beside - gap, top: y - gap, right: x + box.width, bottom: y + box.height }
  }

  /** A table with what is told beside it, and the room above it and to its left: none of another's may be in it. */
  private roomOf(id: TableId): Room {
    return this.roomAt(id, this.positions.get(id) ?? { x: 0, y: 0 }, 0)
  }

  /** Where tables stood says what is told beside them: little moves. */
  private besideOf(id: TableId): number {
    const known = this.beside.get(id)
    if (known !== undefined) return known
    const table = tableOf(this.design, id)
    const beside = table && isBeside(this.design, table, this.positions, this.extent) ? STUB.length : 0
    this.beside.set(id, beside)
    return beside
  }

  /** Moves tables out of each other's way, as little as it takes; says whether none is on another then. */
  giveWay(): boolean {
    const order = [...this.positions.keys()].sort((one, other) => this.sum(one) - this.sum(other))
    const rooms = new Map(order.map((id) => [id, this.roomOf(id)]))
    for (let round = 0; round < ROUNDS; round++) {
      let isSettled = true
      for (const [at, id] of order.entries()) {
        const fixed = rooms.get(id) as Room
        for (const other of order.slice(at + 1)) {
          if (!isOn(fixed, rooms.get(other) as Room)) continue
          this.push(fixed, other)
          rooms.set(other, this.roomOf(other))
          isSettled = false
        }
      }
      if (isSettled) {
        for (const id of order) this.taken.add({ id })
        return true
      }
    }
    return false
  }

  private sum(id: TableId): number {
    const { x, y } = this.positions.get(id) as Position
    return x + y
  }

  /** Moves a table that is on another to the right or down, whichever is less. */
  private push(fixed: Room, id: TableId): void {
    const room = this.roomOf(id)
    const [right, down] = [fixed.right - room.left, fixed.bottom - room.top]
    const { x, y } = this.positions.get(id) as Position
    this.positions.set(id, right < down ? { x: x + right + GAP, y } : { x, y: y + down + GAP })
  }

  /** Puts a new table on the free spot that is nearest to where it belongs; says whether there is one. */
  putBeside(table: Table): boolean {
    const { x, y } = this.wantedFor(table)
    for (let far = 0; far <= SEARCH.most; far += SEARCH.step)
      for (const spot of around({ x, y }, far)) {
        this.positions.set(table.id, spot)
        const { left, top, right, bottom } = this.roomAt(table.id, spot, GAP)
        if (this.taken.within({ left, top, right: right + GAP, bottom: bottom + GAP }).length > 0) continue
        this.taken.add({ id: table.id })
        return true
      }
    return false
  }

  /** To the right of what it refers to, to the left of what refers to it, or below all. */
  private wantedFor(table: Table): Position {
    const isInside = (id: TableId): boolean => this.positions.has(id) && !leadsOut(this.design, table.id, id)
    const ones = table.foreignKeys.map((key) => key.table).filter(isInside)
    const manys = referencesTo(this.design, table.id)
      .map((each) => each.table.id)
      .filter(isInside)
    const mates = [...regionOf(this.design)]
      .filter(([id, region]) => region === regionOf(this.design).get(table.id) && isInside(id))
      .map(([id]) => id)
    const width = this.boxes.get(table.id)?.width ?? 0
    const [one, many, mate] = [ones[0], manys[0], mates.at(-1)].map((id) =>
      id ? this.roomOf(id) : undefined
    )
    if (one) return { x: one.right + 2 * GAP, y: one.top }
    if (many) return { x: many.left - 2 * GAP - width, y: many.top }
    if (mate) return { x: mate.left, y: mate.bottom + GAP }
    const rooms = [...this.positions.keys()].map((id) => this.roomOf(id))
    return {
      x: Math.min(0, ...rooms.map(({ left }) => left)),
      y: Math.max(0, ...rooms.map(({ bottom }) => bottom)) + 2 * GAP
    }
  }

  /** Whether each region has its own tables alone, and is on no other. */
  areRegionsApart(): boolean {
    const rooms = new Map<string, Room>()
    for (const [id, { id: region }] of regionOf(this.design)) {
      const { left, top, right, bottom } = this.roomOf(id)
      const all = rooms.get(region) ?? { left, top, right, bottom }
      rooms.set(region, {
        left: Math.min(all.left, left),
        top: Math.min(all.top, top),
        right: Math.max(all.right, right),
        bottom: Math.max(all.bottom, bottom)
      })
    }
    const head = headOf(this.design)
    const regions = [...rooms].map(([id, { left, top, right, bottom }]) => ({
      id,
      left: left - REGION.around,
      top: top - head,
      right: right + REGION.around,
      bottom: bottom + REGION.around
    }))
    return regions.every(
      (region, at) =>
        regions.slice(at + 1).every((other) => !isOn(region, other)) &&
        [...this.positions.keys()].every(
          (id) => regionOf(this.design).get(id)?.id === region.id || !isOn(region, this.roomOf(id))
        )
    )
  }
}

const isOn = (one: Room, other: Room): boolean =>
  one.left < other.right && one.right > other.left && one.top < other.bottom && one.bottom > other.top

/** Spots so far from one, to the right and below before the others. */
function around({ x, y }: Position, far: number): Position[] {
  if (far === 0) return [{ x, y }]
  const steps = Array.from({ length: (2 * far) / SEARCH.step + 1 }, (_, at) => at * SEARCH.step - far)
  return [
    ...steps.map((by) => ({ x: x + by, y: y + far })),
    ...steps.map((by) => ({ x: x + far, y: y + by })),
    ...steps.map((by) => ({ x: x + by, y: y - far })),
    ...steps.map((by) => ({ x: x - far, y: y + by }))
  ]
}
