import { columnsIn } from '../design/directory.ts'
import { rowIndex, textBy, wayBy, type LookupColumns } from '../design/row-index.ts'
import { textOfKey } from '../design/key-text.ts'
import { isSameRow, tidyRow, type Column, type ColumnId, type Design, type Row } from '../design/model.ts'
import type { Table, TableId } from '../design/model.ts'
import type { ChangedRows, Rehearsed } from './trial.ts'

const NONE: readonly never[] = []

/** What has become of one table's rows so far. */
class Changed {
  /** By place: what a row is now, nothing where it is gone; made when the first is put. */
  private now: (Row | undefined)[] | undefined
  /** How many places hold another row than in the beginning, or none. */
  private others = 0
  /** Where another row was put, once or several times. */
  private readonly touched: number[] = []
  /** By the name of a way: where other rows than in the beginning hold a text. */
  private readonly ways = new Map<string, { way: LookupColumns; places: Map<string, Set<number>> }>()

  constructor(readonly table: Table) {}

  /** How many rows there are, those that are gone counted as well. */
  get length(): number {
    return (this.now ?? this.table.rows).length
  }

  row(place: number): Row | undefined {
    return (this.now ?? this.table.rows)[place]
  }

  put(place: number, row: Row | undefined): void {
    const [before, wasOther] = [this.row(place), this.isOther(place)]
    this.now ??= [...this.table.rows]
    this.now[place] = row
    if (!wasOther) this.touched.push(place)
    const isOther = this.isOther(place)
    this.others += Number(isOther) - Number(wasOther)
    for (const { way, places } of this.ways.values()) {
      if (wasOther && before) drop(places, textBy(this.table, way, before), place)
      if (isOther && row) hold(places, textBy(this.table, way, row), place)
    }
  }

  /** Whether any row is another than in the beginning. */
  isAnyOther(): boolean {
    return this.others > 0
  }

  private isOther(place: number): boolean {
    return this.row(place) !== this.table.rows[place]
  }

  /** Those that say another than in the beginning, by their places in order. */
  changed(): ChangedRows {
    const changed = new Map<number, Row | undefined>()
    for (const place of this.touched.toSorted((one, other) => one - other)) {
      const [row, before] = [this.row(place), this.table.rows[place]]
      if (!isSameRow(row, before)) changed.set(place, row && tidyRow(row))
    }
    return changed
  }

  /** All rows as they are now, without those that are gone. */
  all(): Row[] {
    const before = this.table.rows
    const now = this.now ?? before
    const all: Row[] = []
    for (let place = 0; place < now.length; place++) {
      const row = now[place]
      if (row) all.push(row === before[place] ? row : tidyRow(row))
    }
    return all
  }

  find(text: string, way: LookupColumns): readonly number[] {
    const first = rowIndex(this.table, way).get(text)
    if (this.others === 0) return first
    const kept = first.some((place) => this.isOther(place))
      ? first.filter((place) => !this.isOther(place))
      : first
    const changed = this.placesBy(way).get(text)
    return changed && changed.size > 0 ? [...kept, ...changed].sort((a, b) => a - b) : kept
  }

  private placesBy(way: LookupColumns): ReadonlyMap<string, ReadonlySet<number>> {
    const known = this.ways.get(way.name)
    if (known) return known.places
    const places = new Map<string, Set<number>>()
    for (const place of this.touched) {
      const row = this.row(place)
      if (row && this.isOther(place)) hold(places, textBy(this.table, way, row), place)
    }
    this.ways.set(way.name, { way, places })
    return places
  }
}

function hold(places: Map<string, Set<number>>, text: string | undefined, place: number): void {
  if (text === undefined) return
  const held = places.get(text)
  if (held) held.add(place)
  else places.set(text, new Set([place]))
}

function drop(places: Map<string, Set<number>>, text: string | undefined, place: number): void {
  if (text !== undefined) places.get(text)?.delete(place)
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
  find(table: TableId, way: LookupColumns, text: string): readonly number[] {
    return this.tables.get(table)?.find(text, way) ?? NONE
  }

  /** Makes a row another, or with nothing takes it away. */
  put(table: TableId, place: number, row: Row | undefined): void {
    this.tables.get(table)?.put(place, row)
  }

  /** Where a new row of the table stands. */
  next(table: TableId): number {
    return this.tables.get(table)?.length ?? 0
  }

  /** What has become of the rows of the tables in which any says another. */
  changed(): Rehearsed['changed'] {
    const result = new Map<TableId, ChangedRows>()
    for (const [id, table] of this.tables) {
      const changed = table.isAnyOther() ? table.changed() : undefined
      if (changed && changed.size > 0) result.set(id, changed)
    }
    return result
  }

  /** The rows of the tables in which any was put. */
  changedTables(): ReadonlyMap<TableId, readonly Row[]> {
    const result = new Map<TableId, readonly Row[]>()
    for (const [id, changed] of this.tables) {
      if (changed.isAnyOther()) result.set(id, changed.all())
    }
    return result
  }
}

/** The columns of a reference in the order of the key that it refers to, and what they are compared as. */
export interface RowLink {
  child: Table
  parent: Table
  own: readonly ColumnId[]
  its: readonly ColumnId[]
  types: readonly Column[]
  /** How what refers is found, and what it refers to. */
  toOwn: LookupColumns
  toIts: LookupColumns
}

/** The text of what a row of the child refers to by a link. */
export const textOfReference = ({ child, own, types }: RowLink, row: Row): string | undefined =>
  textOfKey(child, own, row, types)

/** The text of what a row of the parent is referred to by. */
export const textOfReferred = ({ parent, its }: RowLink, row: Row): string | undefined =>
  textOfKey(parent, its, row)

/** What is compared for a link. */
export const linkOf = (
  child: Table,
  parent: Table,
  pairs: readonly { column: ColumnId; refersTo: ColumnId }[]
): RowLink => {
  const its = pairs.map(({ refersTo }) => refersTo)
  const own = pairs.map(({ column }) => column)
  const types = columnsIn(parent, its)
  return { child, parent, own, its, types, toOwn: wayBy(own, types), toIts: wayBy(its) }
}
