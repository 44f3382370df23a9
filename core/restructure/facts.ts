import { isComparable } from '../carry/columns.ts'
import { STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import { columnOf, columnsIn, namesIn, namesOfTables } from '../design/directory.ts'
import {
  emptyTable,
  newId,
  type Column,
  type ColumnId,
  type Design,
  type Key,
  type Table
} from '../design/model.ts'
import type { RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName, generatedKeyName, inCase, tableName, withoutPrefix } from '../naming/names.ts'
import { plural } from '../naming/words.ts'
import {
  answerTo,
  askColumns,
  thoseOf,
  type ChangeOfMind,
  type OptionQuestion,
  type Naming
} from './change.ts'
import { columnsOver, freeColumns, leave, rulesOver, type Over } from './columns-over.ts'
import { beyondFirst } from './queries.ts'
import { restructure, stuck } from './restructuring.ts'

/**
 * Facts that rows repeat get a table of their own, one row for each, and the rows refer to them: what was one column
 * is a lookup table. It goes by a generated number, or by one of the columns that tells the others.
 */
export const factsApart: ChangeOfMind = (design, { table, foreignKey }) => {
  const columns = freeColumns(design, table).filter(({ type }) => isComparable(type))
  if (foreignKey || table.external || !table.primaryKey || columns.length === 0) return []
  const which = askColumns('which', 'What is repeated', columns, proposedOf(columns))
  const name: Naming = {
    id: 'name',
    kind: 'name',
    asks: 'What the table of it is called',
    proposed: freeName(
      tableName(stemOf(columnsIn(table, which.proposed)), design.policy),
      namesOfTables(design)
    )
  }
  const by: OptionQuestion = {
    id: 'by',
    kind: 'choice',
    asks: 'What it goes by',
    proposed: NUMBER,
    options: [
      { value: NUMBER, words: 'a generated number' },
      ...columns.map(({ id, name: called }) => ({ value: id, words: called }))
    ]
  }
  return [
    {
      kind: 'facts apart',
      says: `What several ${plural(table.name)} repeat is said once, and they refer to it.`,
      term: 'repeated facts or a lookup table split off, one-to-many',
      asks: [which, name, by],
      operation: (answers) => {
        const chosen = thoseOf(which, answers)
        const key = answerTo(by, answers)
        return key === NUMBER
          ? byNumber(design, table, chosen, answerTo(name, answers))
          : byValue(design, table, chosen, key, answerTo(name, answers))
      }
    }
  ]
}

const NUMBER = 'number'

/** Columns that are called alike (`finder_name`, `finder_phone`), or else the first one of text. */
function proposedOf(columns: readonly Column[]): string[] {
  const groups = new Map<string, string[]>()
  for (const { id, name } of columns) {
    const stem = /^(.+?)_/.exec(name)?.[1]
    if (stem !== undefined) groups.set(stem, [...(groups.get(stem) ?? []), id])
  }
  const group = [...groups.values()].find((ids) => ids.length > 1)
  const text = columns.find(
    ({ type }) => type.kind === 'text' || type.kind === 'char' || type.kind === 'enum'
  )
  const first = text ?? columns[0]
  return group ?? (first ? [first.id] : [])
}

/** What such columns are about, by their names. */
function stemOf(columns: readonly Column[]): string {
  const [first, second] = columns
  const stem = /^(.+?)_/.exec(first?.name ?? '')?.[1]
  return (second && stem) || (first?.name ?? 'value')
}

/** What is the name of a finder among the columns of an admission is the name among its own. */
function calledIn({ policy }: Design, table: string, { name }: Column): string {
  const short = withoutPrefix(table, name)
  return short === name ? name : inCase(short, policy.letterCase)
}

/** Columns as they stand in the table of facts, with those that all of it is looked up by. */
function factsTable(
  table: Table,
  name: string,
  over: Over,
  number: Column | undefined,
  key: readonly ColumnId[]
): Table & { primaryKey: Key } {
  const values = [...over.values()]
  const isLookup = number !== undefined && values.length === 1 && values[0]?.required === true
  return {
    ...emptyTable(name),
    ...(table.schema !== undefined && { schema: table.schema }),
    columns: [...(number ? [number] : []), ...values],
    primaryKey: { id: newId('k'), columns: [...key] },
    uniques: isLookup ? [{ id: newId('k'), columns: values.map(({ id }) => id) }] : []
  }
}

function mustBeSome(table: Table, which: readonly ColumnId[]): void {
  if (which.length === 0) stuck('Choose a column that is repeated.')
  for (const { pairs } of table.foreignKeys) {
    const ids = pairs.map(({ column }) => column)
    const taken = ids.filter((id) => which.includes(id))
    if (taken.length > 0 && taken.length < ids.length)
      stuck(`${namesIn(table, ids)} refer together, so they go together.`)
  }
}

function byNumber(design: Design, table: Table, which: readonly ColumnId[], name: string): Parsed<Operation> {
  return restructure(design, `make ${name} of what ${table.name} repeats`, (restructuring) => {
    mustBeSome(table, which)
    const number: Column = {
      id: newId('c'),
      name: generatedKeyName({ name, columns: [] }, design.policy),
      type: { kind: 'integer', size: 'normal' },
      required: true,
      default: { kind: 'generated' }
    }
    // A lookup of one column has a value in every row, since a row with nothing has no fact.
    const isOne = which.length === 1
    const over = columnsOver(
      columnsIn(table, which),
      [number.name],
      ({ required }) => required || isOne,
      (column) => calledIn(design, name, column)
    )
    const made = factsTable(table, name, over, number, [number.id])
    const isRequired = columnsIn(table, which).some(({ required }) => required)
    const reference: Column = {
      id: newId('c'),
      name: freeName(
        number.name,
        table.columns.filter(({ id }) => !which.includes(id)).map((each) => each.name)
      ),
      type: number.type,
      required: isRequired
    }
    const passing = freeName(
      reference.name,
      table.columns.map((each) => each.name)
    )
    const at = Math.min(...which.map((id) => table.columns.findIndex((each) => each.id === id)))
    restructuring.carry(
      numbered(table, made, over, number, reference),
      lookedUp(table, made, over, [{ own: reference.id, other: number.id }]),
      { kind: 'table.add', table: made, at: design.tables.indexOf(table) },
      { kind: 'column.add', table: table.id, column: { ...reference, name: passing }, at }
    )
    rulesOver(restructuring, table.id, made.id, over)
    leave(restructuring, table.id, which)
    if (passing !== reference.name)
      restructuring.do({ kind: 'column.rename', table: table.id, column: reference.id, name: reference.name })
    refer(
      restructuring.do.bind(restructuring),
      table,
      made,
      [{ column: reference.id, refersTo: number.id }],
      isRequired
    )
  })
}

function refer(
  act: (operation: Operation) => void,
  table: Table,
  made: Table & { primaryKey: Key },
  pairs: { column: ColumnId; refersTo: ColumnId }[],
  isRequired: boolean
): void {
  act({
    kind: 'foreignKey.add',
    table: table.id,
    foreignKey: {
      id: newId('f'),
      table: made.id,
      key: made.primaryKey.id,
      pairs,
      onDelete: isRequired ? 'RESTRICT' : 'SET NULL',
      onUpdate: 'CASCADE'
    }
  })
}

/** The rows in which any of the columns says something. */
function saying(table: Table, columns: Iterable<ColumnId>): RowQuery {
  const where = [...columns].map((id) => `{${id}} is not null`).join(' or ')
  return { kind: 'filter', of: { kind: 'table', table: table.id }, where }
}

/** Each fact once, with a number, and the number in each row that says it; empty equals empty. */
function numbered(table: Table, made: Table, over: Over, number: Column, reference: Column): Flow {
  const facts: RowQuery = {
    kind: 'distinct',
    of: {
      kind: 'project',
      of: saying(table, over.keys()),
      columns: [...over].map(([from, { id }]) => ({ id, from }))
    }
  }
  const by = [...over.values()].map(({ id }) => ({ column: id }))
  const result: RowQuery = { kind: 'result', name: 'r_facts' }
  return {
    ...STILL,
    results: [{ name: 'r_facts', query: { kind: 'number', of: facts, as: number.id, by } }],
    adds: [{ table: made.id, rows: result }],
    fills: [
      {
        table: table.id,
        columns: [{ id: reference.id, from: number.id }],
        from: result,
        on: [...over].map(([own, { id }]) => ({
          own,
          other: id,
          ...(columnOf(table, own)?.required !== true && { empty: true as const })
        })),
        // A fact may be there twice by then, and each row refers to its own.
        partly: true
      }
    ]
  }
}

/** Each row has again what it refers to. */
function lookedUp(
  table: Table,
  made: Table,
  over: Over,
  on: { own: ColumnId; other: ColumnId }[],
  isPart = false
): Flow {
  return {
    ...STILL,
    fills: [
      {
        table: table.id,
        columns: [...over].map(([id, { id: from }]) => ({ id, from })),
        from: { kind: 'table', table: made.id },
        on,
        // A row that has nothing to look by has what it had all the same.
        ...(isPart && { partly: true as const })
      }
    ]
  }
}

function byValue(
  design: Design,
  table: Table,
  which: readonly ColumnId[],
  by: ColumnId,
  name: string
): Parsed<Operation> {
  return restructure(design, `make ${name} of what ${table.name} repeats`, (restructuring) => {
    const column = columnOf(table, by) ?? stuck(`${table.name} no longer has that column.`)
    const others = which.filter((id) => id !== by)
    mustBeSome(table, [by, ...others])
    if (table.foreignKeys.some(({ pairs }) => pairs.some((pair) => pair.column === by)))
      stuck(`${column.name} is a reference already.`)
    const over = columnsOver(
      columnsIn(table, [by, ...others]),
      [],
      ({ id, required }) => id === by || required
    )
    const key = over.get(by) ?? stuck(`${table.name} no longer has that column.`)
    const made = factsTable(table, name, over, undefined, [key.id])
    const beside: Over = new Map([...over].filter(([id]) => id !== by))
    restructuring.carry(
      valued(table, made, over, by),
      beside.size === 0
        ? STILL
        : lookedUp(table, made, beside, [{ own: by, other: key.id }], !column.required),
      { kind: 'table.add', table: made, at: design.tables.indexOf(table) }
    )
    rulesOver(restructuring, table.id, made.id, over)
    leave(restructuring, table.id, others)
    refer(
      restructuring.do.bind(restructuring),
      table,
      made,
      [{ column: by, refersTo: key.id }],
      column.required
    )
  })
}

/** Each value once, with what goes with it, which must be the same wherever it stands. */
function valued(table: Table, made: Table, over: Over, by: ColumnId): Flow {
  const given: RowQuery = {
    kind: 'distinct',
    of: {
      kind: 'project',
      of: saying(table, [by]),
      columns: [...over].map(([from, { id }]) => ({ id, from }))
    }
  }
  const key = over.get(by)?.id ?? ''
  const order = [key, ...[...over.values()].map(({ id }) => id).filter((id) => id !== key)]
  const query = beyondFirst(
    given,
    [key],
    order.map((column) => ({ column }))
  )
  const says = `One ${columnOf(table, by)?.name} stands with more than one ${namesIn(
    table,
    [...over.keys()].filter((id) => id !== by)
  )}.`
  return {
    ...STILL,
    adds: [{ table: made.id, rows: given }],
    requires: over.size > 1 ? [{ query, says }] : []
  }
}
