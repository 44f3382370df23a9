import { randomFrom } from '../rows/random.ts'

interface Size {
  width: number
  height: number
}

/** Something with a width and a height that is to get a place, in pixels. */
export interface Parcel extends Size {
  /** Where in it something stands, each with the room around it; all of it where nothing is said. */
  solids?: readonly Rectangle[]
}

/** Where a parcel's top left corner comes to stand. */
export interface Spot {
  x: number
  y: number
}

export interface Rectangle extends Spot, Size {}

/** How much wider than a square's side the sheet may be made to see what fits best; of many parcels fewer are tried. */
const TRIED = [0.84, 0.9, 0.96, 1.02, 1.08, 1.14, 1.2, 1.28, 1.36, 1.46]
const TRIED_OF_MANY = [1, 1.2, 1.45, 1.75]
const MANY = 40
/**
 * How much more a sheet counts that is not of the wanted shape; 1 is for what it is once it is filled up to that. Of few
 * parcels one sees enough in any shape that is not far off.
 */
const SHAPE = { few: 0.25, many: 0.6, farOff: 1.7 }
/** Of so many parcels, times orders, as are tried in all; and how far chance makes one larger than it is. */
const ORDERS = { parcels: 120, most: 8, chance: 0.3 }

/** Parcels on a sheet. */
interface Sheet {
  spots: Spot[]
  width: number
  height: number
}

/**
 * Places for parcels on a sheet of about the wanted shape, none on another: each as high up as it goes and then as far
 * left, also in what a larger one leaves free; large ones before small ones. Of several widths and orders the one is
 * taken whose sheet is smallest. The same for the same parcels.
 * @param gap room to the right of each parcel and below it.
 * @param aspect width of the sheet for each unit of its height.
 */
export function pack(parcels: readonly Parcel[], gap: number, aspect: number): Spot[] {
  const widest = parcels.reduce((most, { width }) => Math.max(most, width + gap), 0)
  const area = parcels.reduce((sum, parcel) => sum + areaOf(parcel, gap), 0)
  let spots: Spot[] = []
  let least = Infinity
  for (const order of ordersOf(parcels))
    for (const share of parcels.length > MANY ? TRIED_OF_MANY : TRIED) {
      const width = Math.max(widest, Math.sqrt(area * aspect) * share)
      const sheet = packInto(parcels, order, gap, width, (so) => so.width * so.height >= least)
      const size = sheet ? sizeOf(sheet, aspect) : Infinity
      if (sheet && size < least) [spots, least] = [sheet.spots, size]
    }
  return spots
}

/** The area of a sheet, and more where it is not of the wanted shape. */
function sizeOf({ spots, width, height }: Sheet, aspect: number): number {
  const off = Math.max(width / (height * aspect), (height * aspect) / width)
  const counts = spots.length > MANY ? SHAPE.many : SHAPE.few
  return width * height * off ** counts * Math.max(1, off / SHAPE.farOff)
}

/** Orders in which parcels are put down, as their places: the tallest first, and others by chance near to that. */
function ordersOf(parcels: readonly Parcel[]): number[][] {
  const random = randomFrom(1)
  const count = Math.max(1, Math.min(ORDERS.most, Math.floor(ORDERS.parcels / parcels.length)))
  return Array.from({ length: count }, (_, run) => {
    const factor = (): number => (run === 0 ? 1 : 1 + random.next() * ORDERS.chance)
    const sizes = parcels.map(
      ({ width, height }) => (run % 2 === 0 ? height : Math.sqrt(width * height)) * factor()
    )
    const places = parcels.map((_, at) => at)
    return places.sort((one, other) => (sizes[other] as number) - (sizes[one] as number))
  })
}

const solidsOf = ({ solids, width, height }: Parcel, gap: number): readonly Rectangle[] =>
  solids ?? [{ x: 0, y: 0, width: width + gap, height: height + gap }]

const areaOf = (parcel: Parcel, gap: number): number =>
  solidsOf(parcel, gap).reduce((sum, { width, height }) => sum + width * height, 0)

/**
 * What is free is known as the largest rectangles that fit in it, which lie over each other.
 * @param isTooLarge of a sheet on which not all is yet: then it is given up.
 */
function packInto(
  parcels: readonly Parcel[],
  order: readonly number[],
  gap: number,
  width: number,
  isTooLarge: (sheet: Sheet) => boolean
): Sheet | undefined {
  // What holds not even the smallest need not be known.
  const least = {
    width: Math.min(...parcels.map((each) => each.width)),
    height: Math.min(...parcels.map((each) => each.height))
  }
  let free: Rectangle[] = [{ x: 0, y: 0, width, height: Infinity }]
  const sheet: Sheet = { spots: [], width: 0, height: 0 }
  for (const at of order) {
    const parcel = parcels[at] as Parcel
    const solids = solidsOf(parcel, gap)
    const spot = highest(free, solids, width - parcel.width)
    sheet.spots[at] = spot
    sheet.width = Math.max(sheet.width, spot.x + parcel.width)
    sheet.height = Math.max(sheet.height, spot.y + parcel.height)
    if (isTooLarge(sheet)) return undefined
    for (const { x, y, ...size } of solids)
      free = without(free, { x: spot.x + x, y: spot.y + y, ...size }, least)
  }
  return sheet
}

/** Where a parcel itself begins. */
const WHOLE: Spot = { x: 0, y: 0 }

/** The highest place where something fits; the leftmost of several. */
function highest(free: readonly Rectangle[], solids: readonly Rectangle[], right: number): Spot {
  let best: Spot = { x: 0, y: Infinity }
  const begins = [WHOLE, ...solids]
  for (const corner of free)
    for (const begin of begins) {
      const [x, y] = [corner.x - begin.x, corner.y - begin.y]
      const isBetter = y < best.y || (y === best.y && x < best.x)
      if (!isBetter || x < 0 || y < 0 || x > right) continue
      if (fits(solids, { x, y }, free)) best = { x, y }
    }
  return best
}

/** Whether all that is solid is free there: what is free is within one of the largest free rectangles. */
function fits(solids: readonly Rectangle[], { x, y }: Spot, free: readonly Rectangle[]): boolean {
  return solids.every((solid) => {
    const [left, top] = [x + solid.x, y + solid.y]
    const [right, bottom] = [left + solid.width, top + solid.height]
    return free.some(
      (each) =>
        left >= each.x && top >= each.y && right <= each.x + each.width && bottom <= each.y + each.height
    )
  })
}

/** The largest free rectangles after something was put down, as far as they hold the least. */
function without(free: readonly Rectangle[], taken: Rectangle, least: Size): Rectangle[] {
  const kept: Rectangle[] = []
  const cut: Rectangle[] = []
  for (const each of free) {
    if (isApart(each, taken)) kept.push(each)
    else for (const rest of besides(each, taken)) if (holds(rest, least)) cut.push(rest)
  }
  const left = kept.length
  for (const [at, each] of cut.entries()) {
    const isPart = (other: Rectangle, place: number): boolean =>
      place !== at && isWithin(each, other) && (place < at || !isWithin(other, each))
    if (!cut.some(isPart) && !isWithinAny(each, kept, left)) kept.push(each)
  }
  return kept
}

const holds = ({ width, height }: Size, least: Size): boolean =>
  width >= least.width && height >= least.height

function isWithinAny(one: Rectangle, others: readonly Rectangle[], count: number): boolean {
  for (let at = 0; at < count; at++) if (isWithin(one, others[at] as Rectangle)) return true
  return false
}

/** What of a free rectangle is left of something, right of it, above it and below it. */
function besides({ x, y, width, height }: Rectangle, taken: Rectangle): Rectangle[] {
  const [right, bottom] = [taken.x + taken.width, taken.y + taken.height]
  return [
    { x, y, width: taken.x - x, height },
    { x: right, y, width: x + width - right, height },
    { x, y, width, height: taken.y - y },
    { x, y: bottom, width, height: y + height - bottom }
  ]
}

const isApart = (one: Rectangle, other: Rectangle): boolean =>
  one.x + one.width <= other.x ||
  other.x + other.width <= one.x ||
  one.y + one.height <= other.y ||
  other.y + other.height <= one.y

const isWithin = (one: Rectangle, other: Rectangle): boolean =>
  one.x >= other.x &&
  one.y >= other.y &&
  one.x + one.width <= other.x + other.width &&
  one.y + one.height <= other.y + other.height
