import { columnsIn, keysOf, tableOf } from '../design/directory.ts'
import { computedFits, meetsChecks } from '../design/evaluate.ts'
import { filledRow, type Counters } from '../design/filled.ts'
import { placesBy } from '../design/row-index.ts'
import { textOfKey } from '../design/key-text.ts'
import type { Column, ColumnId, Design, ForeignKey, Row, Table, TableId } from '../design/model.ts'
import { tidyRow } from '../design/model.ts'
import type { Value } from '../design/value.ts'
import { valueLike } from './likely.ts'
import { randomFrom, type Random } from './random.ts'

/** What rows are to be made. */
export interface Wanted {
  seed: number
  /** How many rows each table is to get, beside those that it has. */
  rows: ReadonlyMap<TableId, number>
  /** How many in a hundred of what may be empty are, by the column or the reference; ten where nothing is said. */
  empty?: ReadonlyMap<string, number>
  /** How unevenly a reference chooses: 1 as evenly as chance does, 3 a few have most; by the reference. */
  uneven?: ReadonlyMap<string, number>
}

/** How far it has come, after each thousand rows. */
export interface Progress {
  table: TableId
  made: number
  of: number
}

export interface GeneratedRows {
  design: Design
  /** Tables that got fewer rows than were wanted, and why. */
  short: { table: TableId; made: number; why: string }[]
}

const EMPTY = 10
/** How often a row that does not fit is drawn again, before the table is left with those that it has. */
const TRIES = 40
const STEP = 1000

/**
 * Makes rows that could be real: of their types and names, apart in every key, with references to rows that are there
 * and every check met; from the same seed the same ones. A pause is offered after each thousand.
 */
export function* generateRows(design: Design, wanted: Wanted): Generator<Progress, GeneratedRows> {
  const random = randomFrom(wanted.seed)
  const short: GeneratedRows['short'] = []
  const counters: Counters = new Map()
  let filled = design
  for (const table of inFillingOrder(design)) {
    const count = wanted.rows.get(table.id) ?? 0
    if (count === 0) continue
    const maker = new TableMaker(filled, table, wanted, random, counters)
    const rows: Row[] = []
    while (rows.length < count) {
      const row = maker.next(rows.length)
      if (!row) break
      rows.push(row)
      if (rows.length % STEP === 0) yield { table: table.id, made: rows.length, of: count }
    }
    if (rows.length < count) short.push({ table: table.id, made: rows.length, why: maker.why })
    const tables = filled.tables.map((each) =>
      each.id === table.id ? { ...each, rows: [...each.rows, ...rows] } : each
    )
    filled = { ...filled, tables }
    yield { table: table.id, made: rows.length, of: count }
  }
  return { design: filled, short }
}

/** Tables after those that they refer to, as far as they do not need each other. */
function inFillingOrder({ tables }: Design): Table[] {
  const left = new Map(tables.filter(({ external }) => !external).map((table) => [table.id, table]))
  const ordered: Table[] = []
  const isReady = ({ id, foreignKeys }: Table): boolean =>
    foreignKeys.every((key) => key.table === id || !left.has(key.table))
  while (left.size > 0) {
    const ready = [...left.values()].filter(isReady)
    // Of those that wait for each other, the first.
    for (const table of ready.length > 0 ? ready : [...left.values()].slice(0, 1)) {
      ordered.push(table)
      left.delete(table.id)
    }
  }
  return ordered
}

/** Makes the rows of one table, each apart from those that there are. */
class TableMaker {
  why = ''
  private readonly taken = new Map<string, Set<string>>()
  private readonly keys: readonly (readonly ColumnId[])[]
  /** The rows that there are, those made before as well. */
  private readonly own: Row[]

  constructor(
    private readonly design: Design,
    private readonly table: Table,
    private readonly wanted: Wanted,
    private readonly random: Random,
    private readonly counters: Counters
  ) {
    const indexes = table.indexes.filter(({ unique }) => unique)
    this.keys = [
      ...keysOf(table).map(({ columns }) => columns),
      ...indexes.map(({ columns }) => columns.map(({ column }) => column))
    ]
    this.own = [...table.rows]
    for (const key of this.keys) {
      const texts = table.rows.flatMap((row) => textOfKey(table, key, row) ?? [])
      this.taken.set(key.join(), new Set(texts))
    }
  }

  /** The next row; nothing where none that fits was found. */
  next(n: number): Row | undefined {
    for (let tries = 0; tries < TRIES; tries++) {
      const row = this.draw(this.table.rows.length + n)
      if (!row) return undefined
      if (!this.isWhole(row)) {
        this.why = `a column of ${this.table.name} is required, and what it would hold is not known`
        continue
      }
      if (!this.isApart(row)) {
        this.why = `there are no more that are apart in a key of ${this.table.name}`
        continue
      }
      if (!meetsChecks(this.table, row) || !computedFits(this.table, row)) {
        this.why = `none was found that meets the checks of ${this.table.name}`
        continue
      }
      if (!this.isLed(row)) {
        this.why = `references of ${this.table.name} share columns, and agree in no row that was tried`
        continue
      }
      for (const key of this.keys) {
        const text = textOfKey(this.table, key, row)
        if (text !== undefined) this.taken.get(key.join())?.add(text)
      }
      this.own.push(row)
      return row
    }
    return undefined
  }

  /** Whether nothing that is required is empty, such as where a row referred to has no such key. */
  private isWhole(row: Row): boolean {
    return this.table.columns.every(({ id, required, computed }) => {
      const isHeld = required || this.table.primaryKey?.columns.includes(id)
      return computed !== undefined || !isHeld || (row[id] ?? null) !== null
    })
  }

  private isApart(row: Row): boolean {
    return this.keys.every((key) => {
      const text = textOfKey(this.table, key, row)
      return text === undefined || !this.taken.get(key.join())?.has(text)
    })
  }

  /** Whether each reference still leads somewhere when all have had their columns. */
  private isLed(row: Row): boolean {
    return this.table.foreignKeys.every((key) => {
      const parent = tableOf(this.design, key.table)
      if (!parent || parent.external) return true
      const its = key.pairs.map(({ refersTo }) => refersTo)
      const own = key.pairs.map(({ column }) => column)
      const text = textOfKey(this.table, own, row, columnsIn(parent, its))
      if (text === undefined || parent.id !== this.table.id)
        return text === undefined || placesBy(parent, its, text).length > 0
      return this.taken.get(its.join())?.has(text) ?? true
    })
  }

  private draw(n: number): Row | undefined {
    const said: Row = {}
    for (const column of this.table.columns) {
      if (column.computed !== undefined || column.default?.kind === 'generated') continue
      said[column.id] = this.valueOf(column, n)
    }
    for (const key of this.table.foreignKeys) {
      const values = this.referring(key)
      if (!values) return undefined
      Object.assign(said, values)
    }
    return tidyRow(filledRow(this.design, this.table, said, this.counters))
  }

  private valueOf(column: Column, n: number): Value {
    const isEmpty = !column.required && this.random.chance(this.wanted.empty?.get(column.id) ?? EMPTY)
    return isEmpty ? null : valueLike(this.design, column, this.random, n)
  }

  /** The values by which a row refers to one that is there; nothing where it must, and there is none. */
  private referring(key: ForeignKey): Row | undefined {
    const columns = columnsIn(
      this.table,
      key.pairs.map(({ column }) => column)
    )
    const parent = tableOf(this.design, key.table)
    const rows = parent?.id === this.table.id ? this.own : (parent?.rows ?? [])
    const free = columns.filter(({ required }) => !required)
    const isEmpty = free.length > 0 && this.random.chance(this.wanted.empty?.get(key.id) ?? EMPTY)
    const row = rows[Math.floor(this.random.next() ** (this.wanted.uneven?.get(key.id) ?? 1) * rows.length)]
    if (parent?.external) return Object.fromEntries(free.map(({ id }) => [id, null]))
    if (isEmpty || (!row && free.length > 0)) return Object.fromEntries(free.map(({ id }) => [id, null]))
    if (row)
      return Object.fromEntries(key.pairs.map(({ column, refersTo }) => [column, row[refersTo] ?? null]))
    this.why = `${this.table.name} refers to ${parent?.name ?? 'a table'}, which has no row`
    return undefined
  }
}
