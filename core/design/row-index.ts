import { keyTexts, textOfKey } from './key-text.ts'
import type { Column, ColumnId, Row, Table } from './model.ts'
import { finish, STRETCH, type Paused } from './paused.ts'
import { Successive, type RowsDelta } from './successive.ts'

/** Columns by which rows are looked for, and the columns of another table that they are compared as. */
export interface LookupColumns {
  columns: readonly ColumnId[]
  as: readonly Column[]
  /** The same for ways that find the same rows. */
  name: string
}

export const wayBy = (columns: readonly ColumnId[], as: readonly Column[] = []): LookupColumns => ({
  columns,
  as,
  name: columns.join() + (as.length > 0 ? ` as ${as.map(({ id, type }) => `${id} ${type.kind}`).join()}` : '')
})

const NONE: readonly number[] = []

/** After so many changed texts an index is made whole again. */
const MOST_OVER = 2000

/** The places of a table's rows by what they hold in columns; of rows that hold nothing, none. */
export class RowIndex {
  private constructor(
    private readonly base: ReadonlyMap<string, readonly number[]>,
    /** What has changed since. */
    private readonly over: Map<string, readonly number[]>,
    /** The texts that several rows hold. */
    readonly shared: Set<string>
  ) {}

  get(text: string): readonly number[] {
    return this.over.get(text) ?? this.base.get(text) ?? NONE
  }

  has(text: string): boolean {
    return this.get(text).length > 0
  }

  static *made({ rows }: Table, textOf: (row: Row) => string | undefined): Paused<RowIndex> {
    const base = new Map<string, number[]>()
    const shared = new Set<string>()
    for (let place = 0; place < rows.length; place++) {
      if (place % STRETCH === STRETCH - 1) yield
      const text = textOf(rows[place] as Row)
      const places = text === undefined ? undefined : base.get(text)
      if (text === undefined) continue
      if (places) shared.add(text)
      if (places) places.push(place)
      else base.set(text, [place])
    }
    return new RowIndex(base, new Map(), shared)
  }

  /** The same after a change of rows. */
  after(
    { head, before, after }: RowsDelta,
    was: readonly Row[],
    rows: readonly Row[],
    textOf: (row: Row) => string | undefined
  ): RowIndex {
    let now = new RowIndex(this.base, new Map(this.over), new Set(this.shared))
    for (let at = head; at < head + before; at++) now.change(textOf(was[at] as Row), at, false)
    const isMoved = before !== after && head + before < was.length
    if (isMoved) now = now.whole(head + before, after - before)
    for (let at = head; at < head + after; at++) now.change(textOf(rows[at] as Row), at, true)
    return now.over.size <= MOST_OVER ? now : now.whole(0, 0)
  }

  private change(text: string | undefined, place: number, isThere: boolean): void {
    if (text === undefined) return
    const others = this.get(text).filter((each) => each !== place)
    const places = isThere ? inPlace(others, place) : others
    this.over.set(text, places)
    if (places.length > 1) this.shared.add(text)
    else this.shared.delete(text)
  }

  /** All of it in one, where rows from a place on stand elsewhere. */
  private whole(from: number, by: number): RowIndex {
    const moved = (places: readonly number[]): readonly number[] =>
      by !== 0 && places.some((at) => at >= from) ? places.map((at) => (at >= from ? at + by : at)) : places
    const all = new Map<string, readonly number[]>()
    for (const [text, places] of this.base) if (!this.over.has(text)) all.set(text, moved(places))
    for (const [text, places] of this.over) if (places.length > 0) all.set(text, moved(places))
    return new RowIndex(all, new Map(), this.shared)
  }
}

/** Places in order, with one more among them. */
function inPlace(places: readonly number[], place: number): readonly number[] {
  const next = places.findIndex((each) => each > place)
  return next < 0 ? [...places, place] : places.toSpliced(next, 0, place)
}

/** What a row holds by a way. */
export const textBy = (table: Table, way: LookupColumns, row: Row): string | undefined =>
  textOfKey(table, way.columns, row, way.as)

const textIn = (table: Table, way: LookupColumns): ((row: Row) => string | undefined) =>
  keyTexts(table, way.columns, way.as)

/** By ways that find the same rows; a way that nobody has asked for lately is forgotten. */
const byWay = new Map<string, Successive<RowIndex>>()
const MOST_WAYS = 80

function successive(way: LookupColumns): Successive<RowIndex> {
  const known = byWay.get(way.name)
  if (known) return known
  if (byWay.size >= MOST_WAYS) byWay.clear()
  const made = new Successive<RowIndex>(
    (before, after) => before.columns === after.columns,
    (table) => finish(RowIndex.made(table, textIn(table, way))),
    (index, delta, before, after) => index.after(delta, before.rows, after.rows, textIn(after, way))
  )
  byWay.set(way.name, made)
  return made
}

/** The places of a table's rows by what they hold in columns; worked out once for each table and way. */
export const rowIndex = (table: Table, way: LookupColumns): RowIndex => successive(way).of(table)

/** The same, with stops on the way where it is not known yet. */
export function* rowIndexPaused(table: Table, way: LookupColumns): Paused<RowIndex> {
  const all = successive(way)
  return all.found(table) ?? all.keep(table, yield* RowIndex.made(table, textIn(table, way)))
}

/** The places of the rows that hold a text in columns, in order. */
export const placesBy = (table: Table, columns: readonly ColumnId[], text: string): readonly number[] =>
  rowIndex(table, wayBy(columns)).get(text)
