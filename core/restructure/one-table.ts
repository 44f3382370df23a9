import { STILL } from '../carry/flow.ts'
import type { Fill, Flow, Requirement } from '../design/carry.ts'
import { columnOf, columnsIn, namesOfTables, referencesTo, type Reference } from '../design/directory.ts'
import {
  emptyTable,
  newId,
  type Column,
  type ColumnId,
  type Design,
  type ForeignKey,
  type Key,
  type Table
} from '../design/model.ts'
import type { Projected, RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import { sentence, listed } from '../design/words.ts'
import type { Operation } from '../edit/operation.ts'
import { columnNamer, freeName, generatedKeyName, inCase, tableName } from '../naming/names.ts'
import { plural } from '../naming/words.ts'
import {
  checksOf,
  indexesOf,
  isAlike,
  isNumbered,
  mustBeOpen,
  pairsOf,
  uniquesOf,
  unprefixed,
  type MergedTable
} from './alike.ts'
import { answerTo, thoseOf, type ChangeOfMind, type Naming, type Several } from './change.ts'
import { said } from './queries.ts'
import { followAnother } from './rekey.ts'
import { restructure, stuck, type Restructuring } from './restructuring.ts'

/**
 * Several tables of one shape become one, with a column that tells them apart. What referred to one of them refers to
 * it, by a number.
 */
export const oneTable: ChangeOfMind = (design, { table, foreignKey }) => {
  if (foreignKey || table.external) return []
  const alike = design.tables.filter((each) => each.id !== table.id && isAlike(table, each))
  if (alike.length === 0) return []
  const which: Several = {
    id: 'which',
    kind: 'several',
    asks: `Which tables become one with ${table.name}`,
    options: alike.map(({ id, name }) => ({ value: id, words: name })),
    proposed: alike.slice(0, 1).map(({ id }) => id)
  }
  const taken = namesOfTables(design)
  const name: Naming = {
    id: 'name',
    kind: 'name',
    asks: 'What it is called',
    proposed: freeName(tableName(stemOf([table, ...alike]), design.policy), taken)
  }
  const kind: Naming = {
    id: 'kind',
    kind: 'name',
    asks: 'What the column is called that tells them apart',
    proposed: freeName(
      'kind',
      table.columns.map((each) => each.name)
    )
  }
  return [
    {
      kind: 'one table',
      says: `${sentence(listed([table, ...alike].map((each) => plural(each.name))))} are one kind of thing, told apart by a column.`,
      term: 'tables of one shape merged into one',
      asks: [which, name, kind],
      operation: (answers) => {
        const chosen = thoseOf(which, answers)
        const tables = [table, ...alike.filter(({ id }) => chosen.includes(id))]
        return tables.length < 2
          ? { ok: false, message: `Choose a table that becomes one with ${table.name}.` }
          : merged(design, tables, answerTo(name, answers), answerTo(kind, answers))
      }
    }
  ]
}

/** What all are called alike at the end or the beginning, or the first with a word behind it. */
function stemOf(tables: readonly Table[]): string {
  const words = tables.map(({ name }) => name.split('_'))
  const [first = []] = words
  const tail = first.filter((word, at) =>
    words.every((each) => each[each.length - (first.length - at)] === word)
  )
  return tail.join('_') || `${tables[0]?.name ?? ''}_kind`
}

function merged(design: Design, tables: readonly Table[], name: string, kindName: string): Parsed<Operation> {
  const label = `make ${name} of ${listed(tables.map((each) => each.name))}`
  return restructure(design, label, (restructuring) => {
    const [first] = tables
    if (!first) stuck('Choose two tables.')
    tables.forEach(mustBeOpen)
    const shape = shapeOf(design, first, tables, name, kindName)
    const naming = columnNamer()
    const referring = shape.parts.flatMap((part) =>
      referencesTo(design, part.table.id).map((reference) => followingOf(shape, part, reference, naming))
    )
    restructuring.carry(
      { ...unionOf(shape), fills: referring.map(({ there }) => there) },
      apartAgain(shape),
      { kind: 'table.add', table: shape.made, at: design.tables.indexOf(first) },
      // From the last place on, so that the places before are what they were.
      ...[...referring].sort((one, other) => other.at - one.at).map(({ add }) => add)
    )
    for (const following of referring) refersByNumber(restructuring, shape, following)
    for (const table of tables) restructuring.do({ kind: 'table.remove', table: table.id })
  })
}

interface Shape {
  made: Table & { primaryKey: Key }
  kind: Column
  number: Column
  /** The number that each row had in its own table, where it had one. */
  old: Column | undefined
  parts: readonly MergedTable[]
}

function shapeOf(
  design: Design,
  first: Table,
  tables: readonly Table[],
  name: string,
  kindName: string
): Shape {
  const values = tables.map((each) => each.name)
  const kind: Column = {
    id: newId('c'),
    name: kindName,
    type: { kind: 'text', length: Math.max(...values.map((value) => [...value].length)) },
    required: true
  }
  const own = new Map<ColumnId, Column>()
  const number: Column = {
    id: newId('c'),
    name: freeName(generatedKeyName({ name, columns: [] }, design.policy), [kindName]),
    type: { kind: 'integer', size: 'normal' },
    required: true,
    default: { kind: 'generated' }
  }
  const taken = [kindName, number.name]
  for (const column of first.columns) {
    const all = tables.map((table) => columnOf(table, pairsOf(first, table)?.get(column.id) ?? column.id))
    const free = freeName(nameOf(design, first, column), taken)
    taken.push(free)
    own.set(column.id, { ...plainly(column, all), name: free })
  }
  const parts = tables.map((table): MergedTable => {
    const pairs = pairsOf(first, table)
    const columns = first.columns.map(({ id }): [ColumnId, ColumnId] => [
      own.get(id)?.id ?? '',
      table.id === first.id ? id : (pairs?.get(id) ?? '')
    ])
    return { table, columns: new Map(columns), value: table.name }
  })
  const key = (first.primaryKey?.columns ?? []).map((id) => own.get(id)?.id ?? '')
  const made: Shape['made'] = {
    ...emptyTable(name),
    ...(first.schema !== undefined && { schema: first.schema }),
    ...(first.label && { label: first.label.map((id) => own.get(id)?.id ?? id) }),
    columns: [number, kind, ...own.values()],
    primaryKey: { id: newId('k'), columns: [number.id] },
    uniques: [{ id: newId('k'), columns: [kind.id, ...key] }, ...uniquesOf(parts, kind.id)],
    checks: [
      { id: newId('x'), condition: `{${kind.id}} in (${values.map(said).join(', ')})` },
      ...checksOf(parts, kind.id)
    ],
    indexes: indexesOf(parts, kind.id),
    foreignKeys: first.foreignKeys.map((each) => ({
      ...each,
      id: newId('f'),
      name: undefined,
      pairs: each.pairs.map((pair) => ({ ...pair, column: own.get(pair.column)?.id ?? '' }))
    }))
  }
  const numbered = first.columns.find(isNumbered)
  return { made, kind, number, old: numbered && own.get(numbered.id), parts }
}

/** A column is called without its table, and a number that rows had is said to be so. */
function nameOf({ policy }: Design, table: Table, column: Column): string {
  const name = unprefixed(table, column)
  return inCase(isNumbered(column) ? `old_${name}` : name, policy.letterCase)
}

/** A column for what stood in several: a row that comes since has no number of old. */
function plainly({ copied: _, ...column }: Column, all: readonly (Column | undefined)[]): Column {
  const id = newId('c')
  if (isNumbered(column)) return { ...column, id, default: undefined, required: false }
  return { ...column, id, required: all.every((each) => each?.required) }
}

/** All rows, each with what tells its table, numbered. */
function unionOf({ made, kind, number, parts }: Shape): Flow {
  const of = parts.map(({ table, columns, value }): RowQuery => ({
    kind: 'project',
    of: { kind: 'table', table: table.id },
    columns: [
      { id: kind.id, type: kind.type, value },
      ...[...columns].map(([id, from]): Projected => ({ id, from }))
    ]
  }))
  const by = (made.uniques[0]?.columns ?? []).map((column) => ({ column }))
  const query: RowQuery = { kind: 'number', of: { kind: 'union', of }, as: number.id, by }
  return {
    ...STILL,
    results: [{ name: 'r_merged', query }],
    adds: [{ table: made.id, rows: { kind: 'result', name: 'r_merged' } }]
  }
}

const ofIt = (of: RowQuery, { id }: Column, { value }: MergedTable): RowQuery => ({
  kind: 'filter',
  of,
  where: `{${id}} = ${said(value)}`
})

/** The rows of each table are those that are of it. */
function apartAgain({ made, kind, old, parts }: Shape): Flow {
  const adds = parts.map((part) => ({
    table: part.table.id,
    rows: {
      kind: 'project' as const,
      of: ofIt({ kind: 'table', table: made.id }, kind, part),
      columns: [...part.columns].map(([from, id]): Projected => ({ id, from }))
    }
  }))
  return { ...STILL, adds, requires: old ? [allNumbered(made, old, parts)] : [] }
}

/** A row that came since has no number in the table that it would be of, and what refers to it would not find it. */
function allNumbered(made: Table, old: Column, parts: readonly MergedTable[]): Requirement {
  const names = listed(
    parts.map(({ table }) => table.name),
    'or'
  )
  return {
    query: { kind: 'filter', of: { kind: 'table', table: made.id }, where: `{${old.id}} is null` },
    says: `Rows of ${made.name} have no ${old.name}, by which they would be known in ${names}. Give them one each first.`
  }
}

/** How one reference to one of the tables follows. */
interface Following {
  part: MergedTable
  child: Table
  foreignKey: ForeignKey
  reference: Column
  /** Where its column stands in the child. */
  at: number
  add: Operation
  there: Fill
}

/** What referred to one of the tables by a key refers by the number of its row. */
function followingOf(
  { kind, number }: Shape,
  part: MergedTable,
  { table: child, foreignKey }: Reference,
  naming: ReturnType<typeof columnNamer>
): Following {
  const old = foreignKey.pairs.map(({ column }) => column)
  const reference: Column = {
    id: newId('c'),
    name: naming(child, `${part.table.name}_${number.name}`),
    type: number.type,
    required: columnsIn(child, old).every((column) => column.required)
  }
  const at = Math.min(...old.map((id) => child.columns.findIndex((each) => each.id === id)))
  return {
    part,
    child,
    foreignKey,
    reference,
    at,
    add: { kind: 'column.add', table: child.id, column: reference, at },
    there: {
      table: child.id,
      columns: [{ id: reference.id, from: number.id }],
      from: ofIt({ kind: 'result', name: 'r_merged' }, kind, part),
      on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: column, other: newOf(part, refersTo) }))
    }
  }
}

const newOf = ({ columns }: MergedTable, id: ColumnId): ColumnId =>
  [...columns].find(([, from]) => from === id)?.[0] ?? ''

function refersByNumber(restructuring: Restructuring, shape: Shape, following: Following): void {
  const { made, kind, number } = shape
  const { part, child, foreignKey, reference } = following
  const back: Fill = {
    table: child.id,
    columns: foreignKey.pairs.map(({ column, refersTo }) => ({ id: column, from: newOf(part, refersTo) })),
    from: ofIt({ kind: 'table', table: made.id }, kind, part),
    on: [{ own: reference.id, other: number.id }]
  }
  const pairs = [{ column: reference.id, refersTo: number.id }]
  const goal = { table: made.id, key: made.primaryKey.id, pairs }
  followAnother(restructuring, child, foreignKey, [goal], { back, copied: (id) => newOf(part, id) })
}
