import { columnOf, fold, tableOf } from '../design/directory.ts'
import { evaluate } from '../design/evaluate.ts'
import { figuresOf, type StandingFigure } from '../design/figure.ts'
import type { Column, Design, ForeignKey, Row, Table } from '../design/model.ts'
import { compareValues } from '../design/order.ts'
import { isNumeric, type Type } from '../design/type.ts'
import type { Value } from '../design/value.ts'
import { cellText, referenceAt } from './cells.ts'
import { figureValue } from './figures.ts'
import { referredPlace } from './sides.ts'

/**
 * What stands in the columns of a table's rows: its own columns; those of what a row refers to, one step away or
 * more; and what a row says by its figures.
 */
export type ShownColumn =
  | { kind: 'own'; id: string; name: string; type: Type; column: Column }
  | { kind: 'beyond'; id: string; name: string; type: Type; way: readonly ForeignKey[]; column: Column }
  | { kind: 'figure'; id: string; name: string; type: Type; standing: StandingFigure }

/** Which columns are shown, and by which the rows are ordered. */
export interface RowsView {
  /** Own columns and figures that are left out, by their ids. */
  hidden: readonly string[]
  /** Columns of what is referred to: ids of references one after the other, and of the column at the end. */
  beyond: readonly (readonly string[])[]
  sort?: { by: string; descending: boolean } | undefined
  /** The column by which rows are put together: what they refer to, or what they hold. */
  group?: string | undefined
}

export const PLAIN_VIEW: RowsView = { hidden: [], beyond: [] }

/** How far beyond a row its columns may lie. */
const FARTHEST = 3

/** Every column that the rows of a table may show of their own: the table's, and its figures. */
export const ownShown = (design: Design, table: Table): ShownColumn[] => [
  ...table.columns.map((column): ShownColumn => ({
    kind: 'own',
    id: column.id,
    name: column.name,
    type: column.type,
    column
  })),
  ...figuresOf(design, table).map((standing): ShownColumn => ({
    kind: 'figure',
    id: standing.figure.id,
    name: standing.figure.name,
    type: standing.type,
    standing
  }))
]

/** The columns that a view shows, in their order; what is gone of them is left out. */
export const shownIn = (design: Design, table: Table, view: RowsView): ShownColumn[] =>
  mayGroup(design, table, view).filter(({ id }) => !view.hidden.includes(id))

/** The columns by which rows may be put together: those of the table even where a view leaves them out. */
export function mayGroup(design: Design, table: Table, { beyond }: RowsView): ShownColumn[] {
  const found = beyond.flatMap((path) => beyondBy(design, table, path) ?? [])
  return [...ownShown(design, table), ...found]
}

function beyondBy(design: Design, table: Table, path: readonly string[]): ShownColumn | undefined {
  const way: ForeignKey[] = []
  let at: Table | undefined = table
  for (const id of path.slice(0, -1)) {
    const key: ForeignKey | undefined = at?.foreignKeys.find((each) => each.id === id)
    if (!key || way.length === FARTHEST) return undefined
    way.push(key)
    at = tableOf(design, key.table)
  }
  const column = at && columnOf(at, path.at(-1) ?? '')
  if (!at || !column || way.length === 0) return undefined
  const name = `${at.name}.${column.name}`
  return { kind: 'beyond', id: path.join('/'), name, type: column.type, way, column }
}

/** Columns of tables that a table refers to, and of those that these refer to, as paths to be shown. */
export function beyondOf(design: Design, table: Table): { path: string[]; says: string }[] {
  const found: { path: string[]; says: string }[] = []
  const look = (at: Table, ids: readonly string[], said: readonly string[]): void => {
    for (const key of at.foreignKeys) {
      const to = tableOf(design, key.table)
      if (!to || to.external) continue
      // By which reference is said where there are several to the same table.
      const isOnly = at.foreignKeys.every((other) => other === key || other.table !== key.table)
      const by = columnOf(at, key.pairs[0]?.column ?? '')?.name ?? ''
      const way = [...ids, key.id]
      const words = [...said, isOnly ? to.name : `${to.name} (${by})`]
      const referring = new Set(to.foreignKeys.flatMap(({ pairs }) => pairs.map(({ column }) => column)))
      const isSaid = ({ id }: Column): boolean => !referring.has(id) && !to.primaryKey?.columns.includes(id)
      for (const column of to.columns)
        if (isSaid(column) || way.length === 1)
          found.push({ path: [...way, column.id], says: `${words.join(' › ')} › ${column.name}` })
      if (way.length < 2) look(to, way, words)
    }
  }
  look(table, [], [])
  return found
}

/** What a row holds in a column that is shown: undefined where it cannot be told. */
export function shownValue(design: Design, table: Table, shown: ShownColumn, row: Row): Value | undefined {
  switch (shown.kind) {
    case 'own':
      return held(table, shown.column, row)
    case 'figure':
      return figureValue(design, shown.standing, row)
    case 'beyond': {
      const [at, there] = walk(design, table, shown.way, row)
      return at && there ? held(at, shown.column, there) : null
    }
  }
}

const held = (table: Table, column: Column, row: Row): Value | undefined =>
  column.computed === undefined ? (row[column.id] ?? null) : evaluate(column.computed, table, row)

function walk(
  design: Design,
  table: Table,
  way: readonly ForeignKey[],
  row: Row
): [table: Table | undefined, row: Row | undefined] {
  let [at, here]: [Table | undefined, Row | undefined] = [table, row]
  for (const key of way) {
    if (!at || !here) break
    const place = referredPlace(design, at, key, here)
    at = tableOf(design, key.table)
    here = place === undefined ? undefined : at?.rows[place]
  }
  return [at, here]
}

/** The same as it is read: what is referred to by its label. */
export function shownText(design: Design, table: Table, shown: ShownColumn, row: Row): string {
  const text = wholeText(design, table, shown, row)
  // Seconds that are none are not said.
  return shown.type.kind === 'timestamp' ? text.replace(/(\d\d:\d\d):00(?![.\d])/, '$1') : text
}

function wholeText(design: Design, table: Table, shown: ShownColumn, row: Row): string {
  if (shown.kind === 'own') return cellText(design, table, shown.column, row)
  if (shown.kind === 'beyond') {
    const [at, there] = walk(design, table, shown.way, row)
    return at && there ? cellText(design, at, shown.column, there) : ''
  }
  const value = figureValue(design, shown.standing, row)
  return value === undefined ? '?' : value === null ? '' : String(value)
}

/** Whether what is shown stands to the right, as numbers do; a reference shows what it refers to. */
export const isNumberShown = (table: Table, shown: ShownColumn): boolean =>
  isNumeric(shown.type) && !(shown.kind === 'own' && referenceAt(table, shown.column))

/** A row's place, and what it is ordered by. */
export interface Keyed {
  place: number
  key: Value
}

/** By what rows are ordered in a column, and how two of them are compared. */
export interface RowOrder {
  keyed(place: number): Keyed
  /** Empty ones come last, and those that are the same as they stand. */
  compare(one: Keyed, other: Keyed): number
}

/** How rows are ordered by a column: by value, a reference by what it refers to is called. */
export function orderBy(design: Design, table: Table, shown: ShownColumn, descending: boolean): RowOrder {
  const isLabel = shown.kind === 'own' && referenceAt(table, shown.column) !== undefined
  const keyOf = (row: Row): Value =>
    isLabel
      ? fold(shownText(design, table, shown, row)) || null
      : (shownValue(design, table, shown, row) ?? null)
  const compareKeys = isLabel || !isNumeric(shown.type) ? compareTexts : compareNumbers
  return {
    keyed: (place) => ({ place, key: keyOf(table.rows[place] ?? {}) }),
    compare: (one, other) => {
      if (one.key === null || other.key === null)
        return Number(one.key === null) - Number(other.key === null) || one.place - other.place
      const difference = compareKeys(one.key, other.key)
      return (descending ? -difference : difference) || one.place - other.place
    }
  }
}

const compareTexts = (one: Value, other: Value): number =>
  String(one) < String(other) ? -1 : String(one) > String(other) ? 1 : 0

/** Those that floating point does not tell apart are compared exactly. */
const compareNumbers = (one: Value, other: Value): number =>
  one === other ? 0 : Number(one) - Number(other) || compareValues(one, other, EXACT)
const EXACT: Type = { kind: 'decimal', precision: 38, scale: 10 }
