import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Fill, Flow } from '../design/carry.ts'
import { columnOf, columnsIn, fold, referencesTo, sameSet } from '../design/directory.ts'
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
import { sameType, type Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName, generatedKeyName, inCase, tableName, withoutPrefix } from '../naming/names.ts'
import { plural } from '../naming/words.ts'
import { answerTo, thoseOf, type Change, type Naming, type Several } from './change.ts'
import { restructure, stuck, type Restructuring } from './restructuring.ts'

/**
 * Several tables of one shape become one, with a column that tells them apart. What referred to one of them refers to
 * it, by a number.
 */
export const oneTable: Change = (design, { table, foreignKey }) => {
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
  const taken = design.tables.map(({ name }) => name)
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
      says: `${[table, ...alike].map((each) => plural(each.name)).join(' and ')} are one kind of thing, told apart by a column.`,
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

/** Whether two tables have the same columns, by name and type, the same key and the same references. */
function isAlike(one: Table, other: Table): boolean {
  if (other.external || one.columns.length !== other.columns.length) return false
  if (!one.primaryKey || !other.primaryKey) return false
  const isFit = ({ primaryKey, columns }: Table): boolean =>
    columns.every(
      ({ computed, default: begins }) => computed === undefined && begins?.kind !== 'generated'
    ) && columnsIn(one, primaryKey?.columns ?? []).every(({ type }) => isComparable(type))
  if (!isFit(one) || !isFit(other)) return false
  const pairs = pairsOf(one, other)
  if (!pairs) return false
  const own = one.primaryKey.columns.map((id) => pairs.get(id) ?? '')
  return sameSet(own, other.primaryKey.columns) && refersAlike(one, other, pairs)
}

/** The columns of the other table by those of the first, matched by what they are called, or by where they stand. */
function pairsOf(one: Table, other: Table): Map<ColumnId, ColumnId> | undefined {
  const pairs = new Map<ColumnId, ColumnId>()
  for (const column of one.columns) {
    const found = other.columns.find((each) => unprefixed(other, each) === unprefixed(one, column))
    if (!found || !sameType(found.type, column.type)) return undefined
    pairs.set(column.id, found.id)
  }
  return new Set(pairs.values()).size === one.columns.length ? pairs : undefined
}

const unprefixed = (table: Table, { name }: Column): string => withoutPrefix(fold(table.name), fold(name))

function refersAlike(one: Table, other: Table, pairs: ReadonlyMap<ColumnId, ColumnId>): boolean {
  const refers = (key: ForeignKey, column: (id: ColumnId) => ColumnId): string =>
    JSON.stringify([key.key, key.pairs.map((pair) => [column(pair.column), pair.refersTo])])
  const own = one.foreignKeys.map((key) => refers(key, (id) => pairs.get(id) ?? ''))
  return sameSet(
    own,
    other.foreignKeys.map((key) => refers(key, (id) => id))
  )
}

/** One of the tables, and its columns by those of the new one. */
interface Part {
  table: Table
  columns: ReadonlyMap<ColumnId, ColumnId>
}

function merged(design: Design, tables: readonly Table[], name: string, kindName: string): Parsed<Operation> {
  const label = `make ${name} of ${tables.map((each) => each.name).join(' and ')}`
  return restructure(design, label, (restructuring) => {
    const [first] = tables
    if (!first) stuck('Choose two tables.')
    const { made, kind, number, parts } = shapeOf(design, first, tables, name, kindName)
    const referring = parts.map((part) => referencesFollow(design, { made, kind, number }, part))
    const there = unionOf(made, kind, number, parts)
    restructuring.carry(
      { ...there, fills: referring.flat().map(({ there: fill }) => fill) },
      apartAgain(
        made,
        kind,
        parts,
        referring.flat().map(({ back }) => back)
      ),
      { kind: 'table.add', table: made, at: design.tables.indexOf(first) },
      ...referring.flat().map(({ add }) => add)
    )
    for (const { swap } of referring.flat()) swap(restructuring)
    for (const table of tables) restructuring.do({ kind: 'table.remove', table: table.id })
  })
}

interface Shape {
  made: Table & { primaryKey: Key }
  kind: Column
  number: Column
  parts: Part[]
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
  const taken = [kindName]
  for (const column of first.columns) {
    const free = freeName(inCase(unprefixed(first, column), design.policy.letterCase), taken)
    taken.push(free)
    const { copied: _, ...plain } = column
    const isRequired = tables.every((table) => {
      const id = pairsOf(first, table)?.get(column.id) ?? column.id
      return columnOf(table, id)?.required ?? false
    })
    own.set(column.id, { ...plain, id: newId('c'), name: free, required: isRequired })
  }
  const number: Column = {
    id: newId('c'),
    name: freeName(generatedKeyName({ name, columns: [] }, design.policy), taken),
    type: { kind: 'integer', size: 'normal' },
    required: true,
    default: { kind: 'generated' }
  }
  const key = (first.primaryKey?.columns ?? []).map((id) => own.get(id)?.id ?? '')
  const said = values.map((value) => `'${value.replaceAll("'", "''")}'`).join(', ')
  const made: Shape['made'] = {
    ...emptyTable(name),
    ...(first.schema !== undefined && { schema: first.schema }),
    columns: [number, kind, ...own.values()],
    primaryKey: { id: newId('k'), columns: [number.id] },
    uniques: [{ id: newId('k'), columns: [kind.id, ...key] }],
    checks: [{ id: newId('x'), condition: `{${kind.id}} in (${said})` }],
    foreignKeys: first.foreignKeys.map((each) => ({
      ...each,
      id: newId('f'),
      name: undefined,
      pairs: each.pairs.map((pair) => ({ ...pair, column: own.get(pair.column)?.id ?? '' }))
    }))
  }
  const parts = tables.map((table): Part => {
    const pairs = pairsOf(first, table)
    const columns = first.columns.map(({ id }): [ColumnId, ColumnId] => [
      own.get(id)?.id ?? '',
      table.id === first.id ? id : (pairs?.get(id) ?? '')
    ])
    return { table, columns: new Map(columns) }
  })
  return { made, kind, number, parts }
}

/** All rows, each with what tells its table, numbered. */
function unionOf(made: Table, kind: Column, number: Column, parts: readonly Part[]): Flow {
  const of = parts.map(({ table, columns }): RowQuery => ({
    kind: 'project',
    of: { kind: 'table', table: table.id },
    columns: [
      { id: kind.id, type: kind.type, value: table.name },
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

const withKind = (of: RowQuery, { id }: Column, value: string): RowQuery => ({
  kind: 'filter',
  of,
  where: `{${id}} = '${value.replaceAll("'", "''")}'`
})

/** The rows of each table are those that are of it. */
function apartAgain(made: Table, kind: Column, parts: readonly Part[], fills: Fill[]): Flow {
  return {
    ...STILL,
    adds: parts.map(({ table, columns }) => ({
      table: table.id,
      rows: {
        kind: 'project',
        of: withKind({ kind: 'table', table: made.id }, kind, table.name),
        columns: [...columns].map(([from, id]): Projected => ({ id, from }))
      }
    })),
    fills
  }
}

/** How one reference to one of the tables follows. */
interface Following {
  add: Operation
  there: Fill
  back: Fill
  swap(restructuring: Restructuring): void
}

/** What referred to one of the tables by its key refers by the number of its row. */
function referencesFollow(
  design: Design,
  { made, kind, number }: Pick<Shape, 'made' | 'kind' | 'number'>,
  { table, columns }: Part
): Following[] {
  return referencesTo(design, table.id).map(({ table: child, foreignKey }): Following => {
    const inKey = foreignKey.pairs.find(({ column }) => child.primaryKey?.columns.includes(column))
    if (inKey)
      stuck(
        `${child.name} has its reference to ${table.name} in its key, which cannot follow. Let it go by a key of its own first.`
      )
    const old = foreignKey.pairs.map(({ column }) => column)
    const required = columnsIn(child, old).every((column) => column.required)
    const taken = child.columns.map(({ name }) => name)
    const reference: Column = {
      id: newId('c'),
      name: freeName(`${table.name}_${number.name}`, taken),
      type: number.type,
      required
    }
    const newOf = (id: ColumnId): ColumnId => [...columns].find(([, from]) => from === id)?.[0] ?? ''
    return {
      add: {
        kind: 'column.add',
        table: child.id,
        column: reference,
        at: Math.min(...old.map((id) => child.columns.findIndex((each) => each.id === id)))
      },
      there: {
        table: child.id,
        columns: [{ id: reference.id, from: number.id }],
        from: withKind({ kind: 'result', name: 'r_merged' }, kind, table.name),
        on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: column, other: newOf(refersTo) }))
      },
      back: {
        table: child.id,
        columns: foreignKey.pairs.map(({ column, refersTo }) => ({ id: column, from: newOf(refersTo) })),
        from: { kind: 'table', table: made.id },
        on: [{ own: reference.id, other: number.id }]
      },
      swap: (restructuring) =>
        restructuring.do(
          { kind: 'foreignKey.remove', table: child.id, foreignKey: foreignKey.id },
          ...old.map((column): Operation => ({ kind: 'column.remove', table: child.id, column })),
          {
            kind: 'foreignKey.add',
            table: child.id,
            foreignKey: {
              ...foreignKey,
              id: newId('f'),
              name: undefined,
              table: made.id,
              key: made.primaryKey.id,
              pairs: [{ column: reference.id, refersTo: number.id }]
            }
          }
        )
    }
  })
}
