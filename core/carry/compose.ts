import { columnOf, keysOf, tableOf } from '../design/directory.ts'
import type { Fill, Flow, ReadColumn, Requirement, Result } from '../design/carry.ts'
import type { Column, ColumnId, Design, Table, TableId } from '../design/model.ts'
import {
  idsNamed,
  mapLeaves,
  resultsRead,
  type Projected,
  type RowQuery,
  type TypedColumn
} from '../design/row-query.ts'
import { filledRows, united, type Parts } from './after.ts'
import { BrokenQuery, columnsOf, isComparable } from './columns.ts'
import { groundOf } from './ground.ts'
import { has, completed, typed, typeIn, beginsWith } from './compose-parts.ts'

/** A flow of several, and what of them could not be said over the tables that there are. */
export interface Composed extends Flow {
  left: { id: string; why: string }[]
  /** The rows of each table that it speaks of, in parts, over all of the results. */
  tables: ReadonlyMap<TableId, Parts>
  everyResult: readonly Result[]
}

/** A flow and whose it is. */
export interface OwnedFlow {
  id: string
  flow: Flow
  /** What it may read of columns that are in neither of the states. */
  reads?: readonly ReadColumn[] | undefined
}

/**
 * Several flows, one after the other, as one over the tables of `from`: each table that a later one reads
 * is put for by what the earlier ones make of it. A column that came plainly between two of them has in
 * every row what it begins with. What leads into nothing that `to` has is left out.
 */
export function composeFlows(from: Design, to: Design, steps: readonly OwnedFlow[]): Composed {
  const composition = new Composition(from, to, steps)
  for (const step of steps) composition.add(step)
  return composition.flow()
}

/** What has become of a table so far. */
interface Becoming {
  columns: readonly TypedColumn[]
  /** Its rows of before, as they are now; nothing where it was not there. */
  own: RowQuery | undefined
  added: RowQuery[]
  /** By which of its columns of before each column that was filled is known. */
  leans: ReadonlyMap<string, readonly string[]>
}

/** Reads something of which there are no rows yet, and so gives none. */
class Nothing extends Error {}

class Composition {
  private tables = new Map<TableId, Becoming>()
  private readonly types = new Map<string, readonly TypedColumn[]>()
  private readonly ground
  private readonly results: Result[] = []
  private requires: Requirement[] = []
  private fills: Fill[] = []
  /** Fills that number rows; left to the engine where nothing reads the numbers. */
  private counting: Fill[] = []
  /** Columns that a flow fills. */
  private readonly given: ReadonlySet<ColumnId>
  private readonly left: Composed['left'] = []

  constructor(
    private readonly from: Design,
    private readonly to: Design,
    steps: readonly OwnedFlow[]
  ) {
    this.ground = groundOf(from, this.types)
    const fills = steps.flatMap(({ flow }) => flow.fills)
    this.given = new Set(fills.flatMap(({ columns }) => columns.map(({ id }) => id)))
  }

  /** Takes another flow behind those that there are: all of it, or nothing. */
  add({ id, flow, reads = [] }: OwnedFlow): void {
    const { fills, requires, counting } = this
    const before = { tables: new Map(this.tables), fills, requires, counting }
    try {
      for (const column of reads) this.begin(column, flow)
      this.take(flow)
    } catch (error) {
      Object.assign(this, before)
      if (!(error instanceof BrokenQuery)) throw error
      this.left.push({ id, why: error.message })
    }
  }

  /** A column that a flow reads, and that came plainly meanwhile, has in every row what it began with. */
  private begin({ table, id, type, begins = null, counted }: ReadColumn, flow: Flow): void {
    const isGiven = flow.fills.some((fill) => fill.table === table && has(fill.columns, id))
    if (isGiven || !idsNamed(flow).has(id)) return
    const becoming = this.table(table)
    if (has(becoming.columns, id)) return
    if (counted && this.count(table, id, type, becoming)) return
    const extended = (rows: RowQuery): RowQuery => ({
      kind: 'project',
      of: rows,
      columns: [
        ...becoming.columns.map((column): Projected => ({ id: column.id, from: column.id })),
        { id, type, value: begins }
      ]
    })
    this.tables.set(table, {
      ...becoming,
      columns: [...becoming.columns, { id, type }],
      own: becoming.own && extended(becoming.own),
      added: becoming.added.map(extended)
    })
  }

  /** Numbers the rows of a table in a column that is counted only meanwhile. False where they have no order. */
  private count(table: TableId, id: ColumnId, type: TypedColumn['type'], becoming: Becoming): boolean {
    const { own, added, columns } = becoming
    const [rows] = own ? [own] : added
    const known = tableOf(this.from, table) ?? tableOf(this.to, table)
    const key = (known ? keysOf(known) : []).find((each) => each.columns.every((one) => has(columns, one)))
    const ordered = key?.columns ?? columns.filter((each) => isComparable(each.type)).map((each) => each.id)
    const isWhole = own ? added.length === 0 : added.length === 1
    if (!rows || !isWhole || ordered.length === 0) return false
    const name = this.keep({ kind: 'number', of: rows, as: id, by: ordered.map((column) => ({ column })) })
    const numbered: RowQuery = { kind: 'result', name }
    const leans = new Map(becoming.leans)
    if (own) leans.set(id, [...new Set(ordered.flatMap((each) => this.leansOn(table, each, becoming)))])
    this.tables.set(table, {
      columns: [...columns, { id, type }],
      own: own && numbered,
      added: own ? [] : [numbered],
      leans
    })
    return true
  }

  private take(flow: Flow): void {
    const names = new Map<string, string | undefined>()
    /** With what is done over rows of which there are none yet left out. */
    const here = <T>(
      all: readonly T[],
      query: (each: T) => RowQuery,
      put: (each: T, by: RowQuery) => T
    ): T[] =>
      all.flatMap((each) => {
        const found = this.over(query(each), names)
        return found ? [put(each, found)] : []
      })
    for (const { name, query } of flow.results) {
      const found = this.over(query, names)
      names.set(name, found && this.keep(found))
    }
    const requires = here(
      flow.requires,
      ({ query }) => query,
      (each, query) => ({ ...each, query })
    )
    const fills = here(
      flow.fills,
      ({ from }) => from,
      (each, from) => ({ ...each, from })
    )
    const adds = here(
      flow.adds,
      ({ rows }) => rows,
      (each, rows) => ({ ...each, rows })
    )
    this.requires = [...this.requires, ...requires]
    for (const fill of fills) this.fill(fill)
    for (const { table, rows } of adds) this.addRows(table, rows)
  }

  /** A query over the tables of before; nothing where there are no rows yet that it reads. */
  private over(query: RowQuery, names: ReadonlyMap<string, string | undefined>): RowQuery | undefined {
    try {
      const found = mapLeaves(this.withoutNothing(query, names), (leaf) => this.leaf(leaf, names))
      const wanted = this.isCounted(found) ? found.of : found
      columnsOf(wanted, this.ground)
      return wanted
    } catch (error) {
      if (error instanceof Nothing) return undefined
      throw error
    }
  }

  /** Whether rows are to be numbered in a column that is counted by now. */
  private isCounted(query: RowQuery): query is Extract<RowQuery, { kind: 'number' }> {
    return query.kind === 'number' && has(columnsOf(query.of, this.ground), query.as)
  }

  /** A union without those parts of which there are no rows yet. */
  private withoutNothing(query: RowQuery, names: ReadonlyMap<string, string | undefined>): RowQuery {
    if (
      query.kind === 'join' ||
      query.kind === 'table' ||
      query.kind === 'result' ||
      query.kind === 'constant'
    )
      return query
    if (query.kind !== 'union') return { ...query, of: this.withoutNothing(query.of, names) }
    const parts = query.of.filter((part) => this.over(part, names))
    if (parts.length === 0) throw new Nothing()
    return { kind: 'union', of: parts }
  }

  /** What a leaf of a query stands for, over the tables of before. */
  private leaf(leaf: RowQuery, names: ReadonlyMap<string, string | undefined>): RowQuery {
    if (leaf.kind === 'result') {
      const name = names.get(leaf.name)
      if (name === undefined && names.has(leaf.name)) throw new Nothing()
      return { kind: 'result', name: name ?? leaf.name }
    }
    if (leaf.kind !== 'table') return leaf
    const { own, added } = this.table(leaf.table)
    const parts = [...(own ? [own] : []), ...added]
    const rows = united(parts)
    if (!rows) throw new Nothing()
    if (rows.kind === 'table' || rows.kind === 'result') return rows
    // It may be read often: from here on it is one result.
    const result: RowQuery = { kind: 'result', name: this.keep(rows) }
    const becoming = this.table(leaf.table)
    if (own && added.length === 0) this.tables.set(leaf.table, { ...becoming, own: result })
    if (!own) this.tables.set(leaf.table, { ...becoming, added: [result] })
    return result
  }

  private keep(query: RowQuery): string {
    const name = `r_${this.results.length + 1}`
    this.types.set(name, columnsOf(query, this.ground))
    this.results.push({ name, query })
    return name
  }

  /** A table as it has become so far. */
  private table(id: TableId): Becoming {
    const known = this.tables.get(id)
    if (known) return known
    const before = tableOf(this.from, id)
    const own = before?.columns.map(typed) ?? []
    const plain = this.plainColumns(id, own)
    const made: Becoming = {
      columns: [...own, ...plain.map(typed)],
      own: before && this.extended(id, { kind: 'table', table: id }, own),
      added: [],
      leans: new Map()
    }
    const becoming = before ? this.numbered(before, made, plain) : made
    this.tables.set(id, becoming)
    return becoming
  }

  /**
   * A column that is counted from now on has a number in every row: in the order of a key, so that it is the
   * same wherever it is worked out.
   */
  private numbered(before: Table, becoming: Becoming, plain: readonly Column[]): Becoming {
    const column = plain.find((each) => each.default?.kind === 'generated')
    const isSure = (id: ColumnId): boolean => {
      const own = columnOf(before, id)
      return own !== undefined && own.required && isComparable(own.type)
    }
    const key = keysOf(before).find((each) => each.columns.every(isSure))
    if (!column || !key || !becoming.own) return becoming
    const others = becoming.columns.filter(({ id }) => id !== column.id)
    const name = this.keep({
      kind: 'number',
      of: { kind: 'project', of: becoming.own, columns: others.map(({ id }) => ({ id, from: id })) },
      as: column.id,
      by: key.columns.map((id) => ({ column: id }))
    })
    const from: RowQuery = { kind: 'result', name }
    const on = key.columns.map((id) => ({ own: id, other: id }))
    this.counting = [
      ...this.counting,
      { table: before.id, columns: [{ id: column.id, from: column.id }], from, on }
    ]
    return { ...becoming, own: from, leans: new Map([[column.id, key.columns]]) }
  }

  /** The columns that a table has only after, and that no flow fills. */
  private plainColumns(id: TableId, before: readonly TypedColumn[]): Column[] {
    const columns = tableOf(this.to, id)?.columns ?? []
    return columns.filter((column) => !has(before, column.id) && !this.given.has(column.id))
  }

  /** Rows with the columns that a table has only after: in every row what they begin with. */
  private extended(id: TableId, rows: RowQuery, columns: readonly TypedColumn[]): RowQuery {
    const plain = this.plainColumns(id, columns)
    if (plain.length === 0) return rows
    const made: Projected[] = [
      ...columns.map((column) => ({ id: column.id, from: column.id })),
      ...plain.map((column) => ({ id: column.id, type: column.type, value: beginsWith(column) }))
    ]
    return { kind: 'project', of: rows, columns: made }
  }

  private fill(fill: Fill): void {
    const becoming = this.table(fill.table)
    const given = columnsOf(fill.from, this.ground)
    for (const { own, other } of fill.on) {
      if (!has(becoming.columns, own)) throw new BrokenQuery(`There is no column ${own}.`)
      typeIn(given, other)
    }
    // A column that is there keeps what it has.
    const isFree = (id: string): boolean => !this.hasValues(fill.table, id, becoming)
    const free = fill.columns.filter(({ id }) => isFree(id))
    const wanted = fill.whereEmpty ? fill.columns : free
    if (wanted.length === 0) return
    const isPart = fill.partly ?? this.readsPart(fill)
    const taken: Fill = { ...fill, columns: wanted, ...(isPart && { partly: true }) }
    const staying = becoming.columns.filter(({ id }) => !has(free, id))
    const put = (rows: RowQuery): RowQuery => this.judged(filledRows(rows, staying, [taken], this.ground))
    const own = becoming.own && put(becoming.own)
    const leans = new Map(becoming.leans)
    if (own) {
      const lean = [...new Set(fill.on.flatMap((each) => this.leansOn(fill.table, each.own, becoming)))]
      if (lean.length === 0) throw new BrokenQuery('It goes by columns that no row had anything in.')
      for (const { id } of wanted)
        leans.set(id, [...new Set([...lean, ...(isFree(id) ? [] : this.leansOn(fill.table, id, becoming))])])
      this.fills = [...this.fills, this.direct(taken, own, lean, becoming)]
    }
    const made = free.map(({ id, from }): TypedColumn => ({ id, type: typeIn(given, from) }))
    const added = becoming.added.map(put)
    this.tables.set(fill.table, { columns: [...staying, ...made], own, added, leans })
  }

  /** Whether a fill goes by what another has filled in part, so that it is in part what it was itself. */
  private readsPart({ from, on }: Fill): boolean {
    const part = this.fills.filter(({ partly }) => partly).flatMap(({ columns }) => columns)
    if (part.length === 0) return false
    const results = this.results.filter(({ name }) => resultsRead(from).includes(name))
    const named = idsNamed([from, on, results])
    return part.some(({ id }) => named.has(id))
  }

  /** Whether a column was there before, or has been filled. */
  private hasValues(table: TableId, column: string, { leans, own, columns }: Becoming): boolean {
    const cameWithRows = own === undefined && has(columns, column)
    return cameWithRows || leans.has(column) || this.wasThere(table, column)
  }

  private wasThere(table: TableId, column: string): boolean {
    return has(tableOf(this.from, table)?.columns ?? [], column)
  }

  /**
   * A fill that goes by columns of before: as it is where it does so already; else by those that the columns
   * lean on that it goes by, in the rows as they become.
   */
  private direct(fill: Fill, own: RowQuery, leans: readonly string[], { leans: known }: Becoming): Fill {
    const before = tableOf(this.from, fill.table)
    const isDirect = fill.on.every(
      (each) => !known.has(each.own) && before?.columns.some((column) => column.id === each.own)
    )
    if (isDirect) return fill
    const columns = [...leans, ...fill.columns.map(({ id }) => id)].map((id) => ({ id, from: id }))
    const mayBeEmpty = (id: string): boolean => !before?.columns.find((column) => column.id === id)?.required
    return {
      ...(fill.whereEmpty && { whereEmpty: fill.whereEmpty }),
      ...(fill.partly && { partly: fill.partly }),
      table: fill.table,
      columns: fill.columns.map(({ id }) => ({ id, from: id })),
      from: { kind: 'distinct', of: { kind: 'project', of: own, columns } },
      on: leans.map((id) => ({ own: id, other: id, ...(mayBeEmpty(id) && { empty: true as const }) }))
    }
  }

  /** The columns of before that a column is known by: itself, those that it was filled by, or none. */
  private leansOn(table: TableId, column: string, { leans }: Becoming): readonly string[] {
    return leans.get(column) ?? (this.wasThere(table, column) ? [column] : [])
  }

  private addRows(id: TableId, rows: RowQuery): void {
    const becoming = this.table(id)
    const given = columnsOf(rows, this.ground)
    const whole = this.extended(id, rows, given)
    const columns = columnsOf(whole, this.ground)
    const isFirst = becoming.own === undefined && becoming.added.length === 0
    const wanted = isFirst ? columns : becoming.columns
    const added = [...becoming.added, this.judged(completed(whole, columns, wanted))]
    this.tables.set(id, { ...becoming, columns: wanted, added })
  }

  /** The query, which makes sense. @throws BrokenQuery */
  private judged(query: RowQuery): RowQuery {
    columnsOf(query, this.ground)
    return query
  }

  /** All of it, as far as it leads into what there is after. */
  flow(): Composed {
    const hasColumn = (table: TableId, column: string): boolean =>
      tableOf(this.to, table)?.columns.some((each) => each.id === column) ?? false
    // What is counted no longer when all is done, nobody else numbers.
    const isCounted = (fill: Fill): boolean =>
      fill.columns.every(({ id }) => {
        const table = tableOf(this.to, fill.table)
        const column = table && columnOf(table, id)
        return column === undefined || column.default?.kind === 'generated'
      })
    const counting = this.counting.filter((fill) => this.isRead(fill) || !isCounted(fill))
    const fills = [...counting, ...this.fills]
      .map((fill) => ({ ...fill, columns: fill.columns.filter(({ id }) => hasColumn(fill.table, id)) }))
      .filter((fill) => fill.columns.length > 0)
    const adds = [...this.tables].flatMap(([table, { added }]) =>
      tableOf(this.to, table) ? added.map((rows) => ({ table, rows })) : []
    )
    const { requires, left } = this
    const roots = [
      ...requires.map(({ query }) => query),
      ...fills.map((fill) => fill.from),
      ...adds.map(({ rows }) => rows)
    ]
    return {
      results: this.needed(roots),
      adds,
      fills,
      requires,
      left,
      tables: this.tables,
      everyResult: this.results
    }
  }

  /** Whether anything but the numbering itself reads the numbers that a fill gives. */
  private isRead({ columns, from }: Fill): boolean {
    const [column] = columns
    const own = from.kind === 'result' ? from.name : ''
    const others = this.results.filter(({ name }) => name !== own).map(({ query }) => query)
    const added = [...this.tables.values()].flatMap((each) => each.added)
    return idsNamed([others, added, this.fills]).has(column?.id ?? '')
  }

  /** The results that the queries read, or that those read. */
  private needed(roots: readonly RowQuery[]): Result[] {
    const wanted = new Set(roots.flatMap(resultsRead))
    return [...this.results]
      .reverse()
      .filter(({ name, query }) => {
        if (!wanted.has(name)) return false
        for (const read of resultsRead(query)) wanted.add(read)
        return true
      })
      .reverse()
  }
}
