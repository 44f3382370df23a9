/** Something with a width and a height that is to get a place, in pixels. */
export interface Parcel {
  width: number
  height: number
}

/** Where a parcel's top left corner comes to stand. */
export interface Spot {
  x: number
  y: number
}

/** How much wider than a square's side the sheet may be made to see what fits best. */
const TRIED = [0.84, 0.9, 0.96, 1.02, 1.08, 1.14, 1.2, 1.28, 1.36, 1.46]

/**
 * Places for parcels on a sheet of about the wanted shape, none on another: in the order given, each as high up as it
 * goes and then as far left. Of several widths the one is taken whose sheet, filled up to the wanted shape, is smallest.
 * @param gap room to the right of each parcel and below it.
 * @param aspect width of the sheet for each unit of its height.
 */
export function pack(parcels: readonly Parcel[], gap: number, aspect: number): Spot[] {
  const widest = parcels.reduce((most, { width }) => Math.max(most, width + gap), 0)
  const area = parcels.reduce((sum, { width, height }) => sum + (width + gap) * (height + gap), 0)
  let best: { spots: Spot[]; size: number } | undefined
  for (const share of TRIED) {
    const width = Math.max(widest, Math.sqrt(area * aspect) * share)
    const spots = packInto(parcels, gap, width)
    const right = Math.max(0, ...spots.map(({ x }, at) => x + (parcels[at] as Parcel).width))
    const bottom = Math.max(0, ...spots.map(({ y }, at) => y + (parcels[at] as Parcel).height))
    const size = Math.max(right / aspect, bottom)
    if (!best || size < best.size) best = { spots, size }
  }
  return best?.spots ?? []
}

/** A stretch of the lower edge of what is placed: from a place to the next stretch's. */
interface Stretch {
  x: number
  y: number
}

function packInto(parcels: readonly Parcel[], gap: number, width: number): Spot[] {
  const edge: Stretch[] = [{ x: 0, y: 0 }]
  return parcels.map((parcel) => {
    const wide = parcel.width + gap
    const spot = highest(edge, wide, width)
    lower(edge, spot, wide, spot.y + parcel.height + gap)
    return spot
  })
}

/** The highest place where something so wide fits under the edge; the leftmost of several. */
function highest(edge: readonly Stretch[], wide: number, width: number): Spot {
  let best: Spot = { x: 0, y: Infinity }
  for (const [at, { x }] of edge.entries()) {
    if (x + wide > width && x > 0) break
    let y = 0
    for (let next = at; next < edge.length && (edge[next] as Stretch).x < x + wide; next++)
      y = Math.max(y, (edge[next] as Stretch).y)
    if (y < best.y) best = { x, y }
  }
  return best
}

/** Lets the edge run along the foot of what was placed. */
function lower(edge: Stretch[], { x }: Spot, wide: number, foot: number): void {
  const first = edge.findIndex((each) => each.x >= x)
  let [end, behind] = [first, 0]
  while (end < edge.length && (edge[end] as Stretch).x < x + wide) behind = (edge[end++] as Stretch).y
  const rest = end < edge.length && (edge[end] as Stretch).x === x + wide ? [] : [{ x: x + wide, y: behind }]
  edge.splice(first, end - first, { x, y: foot }, ...rest)
}
