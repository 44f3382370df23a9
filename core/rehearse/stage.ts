import { columnsIn } from '../design/directory.ts'
import { rowIndex, wayBy, type Way } from '../design/row-index.ts'
import { textOfKey } from '../design/key-text.ts'
import { tidyRow, type Column, type ColumnId, type Design, type Row, type TableId } from '../design/model.ts'
import type { Table } from '../design/model.ts'

const NONE: readonly number[] = []

/** What has become of one table's rows so far. */
class Changed {
  /** By place: what a row is now, or that it is gone. */
  readonly rows = new Map<number, Row | undefined>()
  /** By way and text: the changed rows that hold it. */
  private readonly ways = new Map<string, { way: Way; places: Map<string, Set<number>> }>()
  /** How many rows there are, those that are gone counted as well. */
  length: number

  constructor(readonly table: Table) {
    this.length = table.rows.length
  }

  row(place: number): Row | undefined {
    return this.rows.has(place) ? this.rows.get(place) : this.table.rows[place]
  }

  put(place: number, row: Row | undefined): void {
    const before = this.rows.get(place)
    for (const { way, places } of this.ways.values()) {
      const was = before && textOfKey(this.table, way.columns, before, way.as)
      if (was !== undefined) places.get(was)?.delete(place)
      hold(places, row && textOfKey(this.table, way.columns, row, way.as), place)
    }
    this.rows.set(place, row)
    this.length = Math.max(this.length, place + 1)
  }

  /** Whether any row is another than in the beginning. */
  isOther(): boolean {
    for (const [place, row] of this.rows) if (row !== this.table.rows[place]) return true
    return false
  }

  /** All rows as they are now, without those that are gone. */
  all(): Row[] {
    const before = this.table.rows
    const all: Row[] = []
    let from = 0
    for (const place of [...this.rows.keys()].sort((a, b) => a - b)) {
      for (; from < Math.min(place, before.length); from++) all.push(before[from] as Row)
      const row = this.rows.get(place)
      if (row) all.push(tidyRow(row))
      from = place + 1
    }
    for (; from < before.length; from++) all.push(before[from] as Row)
    return all
  }

  find(text: string, way: Way): readonly number[] {
    const first = rowIndex(this.table, way).get(text) ?? NONE
    if (this.rows.size === 0) return first
    const { places } = this.changedBy(way)
    const kept = first.filter((place) => !this.rows.has(place))
    const changed = places.get(text)
    return changed && changed.size > 0 ? [...kept, ...changed].sort((a, b) => a - b) : kept
  }

  private changedBy(way: Way): { places: Map<string, Set<number>> } {
    const known = this.ways.get(way.name)
    if (known) return known
    const places = new Map<string, Set<number>>()
    for (const [place, row] of this.rows)
      hold(places, row && textOfKey(this.table, way.columns, row, way.as), place)
    const made = { way, places }
    this.ways.set(way.name, made)
    return made
  }
}

function hold(places: Map<string, Set<number>>, text: string | undefined, place: number): void {
  if (text === undefined) return
  const held = places.get(text)
  if (held) held.add(place)
  else places.set(text, new Set([place]))
}

/** The rows that a trial works on: those of a design, with what has become of them so far. */
export class Stage {
  private readonly tables: ReadonlyMap<TableId, Changed>

  constructor(design: Design) {
    this.tables = new Map(design.tables.map((table) => [table.id, new Changed(table)]))
  }

  row(table: TableId, place: number): Row | undefined {
    return this.tables.get(table)?.row(place)
  }

  /** The places of the rows that hold a text by a way, in order. */
  find(table: TableId, way: Way, text: string): readonly number[] {
    return this.tables.get(table)?.find(text, way) ?? NONE
  }

  /** Makes a row another, or with nothing takes it away. */
  put(table: TableId, place: number, row: Row | undefined): void {
    const changed = this.tables.get(table)
    if (!changed) return
    changed.put(place, row)
  }

  /** Where a new row of the table stands. */
  next(table: TableId): number {
    return this.tables.get(table)?.length ?? 0
  }

  /** The rows of the tables in which any has changed. */
  changedTables(): ReadonlyMap<TableId, readonly Row[]> {
    const result = new Map<TableId, readonly Row[]>()
    for (const [id, changed] of this.tables) {
      if (!changed.isOther()) continue
      result.set(id, changed.all())
    }
    return result
  }
}

/** The columns of a reference in the order of the key that it refers to, and what they are compared as. */
export interface Link {
  child: Table
  parent: Table
  own: readonly ColumnId[]
  its: readonly ColumnId[]
  types: readonly Column[]
  /** How what refers is found, and what it refers to. */
  toOwn: Way
  toIts: Way
}

/** The text of what a row of the child refers to by a link. */
export const textOfReference = ({ child, own, types }: Link, row: Row): string | undefined =>
  textOfKey(child, own, row, types)

/** The text of what a row of the parent is referred to by. */
export const textOfReferred = ({ parent, its }: Link, row: Row): string | undefined =>
  textOfKey(parent, its, row)

/** What is compared for a link. */
export const linkOf = (
  child: Table,
  parent: Table,
  pairs: readonly { column: ColumnId; refersTo: ColumnId }[]
): Link => {
  const its = pairs.map(({ refersTo }) => refersTo)
  const own = pairs.map(({ column }) => column)
  const types = columnsIn(parent, its)
  return { child, parent, own, its, types, toOwn: wayBy(own, types), toIts: wayBy(its) }
}
