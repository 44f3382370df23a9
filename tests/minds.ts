import { tableOf } from '../core/design/directory.ts'
import type { Column, Design, Table } from '../core/design/model.ts'
import type { Parsed, Type } from '../core/design/type.ts'
import type { Value } from '../core/design/value.ts'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'
import { proposeJunction } from '../core/relate/propose.ts'
import { fillColumn, type Filling } from '../core/restructure/fill.ts'
import { generatedInstead, switchKey } from '../core/restructure/another-key.ts'
import { splitRepeated } from '../core/restructure/split.ts'
import { toJunction } from '../core/restructure/to-junction.ts'
import type { Answers, ChangeQuestion } from '../core/restructure/change.ts'
import { offersFor } from '../core/restructure/index.ts'
import type { Numbers } from './queries.ts'

/** What is done to a design, and of which kind it is. */
interface Change {
  kind: string
  operation: Operation
}

/** What numbers answer to what a change of mind asks: often what is proposed. */
function answered(asks: readonly ChangeQuestion[], numbers: Numbers): Answers {
  const said = asks.map((ask): [string, string | string[]] => {
    if (ask.kind === 'choice') return [ask.id, numbers.pick(ask.options)?.value ?? ask.proposed]
    if (ask.kind === 'name') return [ask.id, ask.proposed]
    const some = ask.options.filter(() => numbers.next(2) === 0).map(({ value }) => value)
    return [ask.id, numbers.next(3) === 0 || some.length === 0 ? [...ask.proposed] : some]
  })
  return Object.fromEntries(said)
}

/** One of the changes of mind that fit some table or relationship; nothing where that one cannot be. */
export function offered(design: Design, numbers: Numbers): Change | undefined {
  const table = numbers.pick(design.tables)
  const foreignKey = numbers.next(3) === 0 ? undefined : numbers.pick(table.foreignKeys)
  const offer = numbers.pick(offersFor(design, { table, foreignKey }))
  if (!offer) return undefined
  const answers = answered(offer.asks, numbers)
  const operation = offer.operation(answers)
  return operation.ok ? { kind: offer.kind, operation: operation.value } : undefined
}

/** A change of mind about the design, chosen by numbers; nothing where that one cannot be. */
export function changeOfMind(design: Design, numbers: Numbers): Change | undefined {
  for (let tries = 0; tries < 2 && numbers.next(2) > 0; tries++) {
    const change = offered(design, numbers)
    if (change) return change
  }
  const some = numbers.pick(design.tables)
  const as = (kind: string, parsed: Parsed<Operation> | undefined) =>
    parsed?.ok ? { kind, operation: parsed.value } : undefined
  switch (numbers.next(5)) {
    case 0:
      return as('counted', generatedInstead(design, some))
    case 1: {
      const unique = numbers.pick(some.uniques)
      return unique && as('switched', switchKey(design, some, unique))
    }
    case 2: {
      const texts = (of: Table) => of.columns.filter((each) => each.type.kind === 'text' && !each.required)
      const wide = numbers.pick(design.tables.filter((each) => texts(each).length > 1))
      const split = wide && splitRepeated(design, wide, 'said', texts(wide).slice(0, 2))
      return split && { kind: 'split', operation: split.operation }
    }
    case 3:
      return numbers.next(3) === 0 ? lookedUp(design, numbers) : required(design, some, numbers)
    default: {
      const many = numbers.pick(
        design.tables.filter((each) => each.primaryKey && each.foreignKeys.length > 0)
      )
      const reference = many && numbers.pick(many.foreignKeys)
      const one = reference && tableOf(design, reference.table)
      if (!one || reference.key !== one.primaryKey?.id) return undefined
      const resolved = toJunction(design, many, reference, proposeJunction(design, many, one))
      return resolved.ok ? { kind: 'resolved', operation: resolved.value } : undefined
    }
  }
}

/** A column that is required from now on, new or not, with what rows that are there get in it. */
function required(design: Design, some: Table, numbers: Numbers): Change | undefined {
  const optionalIn = (of: Table): Column[] => {
    const held = JSON.stringify([of.checks, of.indexes, of.foreignKeys, of.primaryKey, of.uniques])
    return of.columns.filter(
      (each) => !each.required && each.computed === undefined && !held.includes(each.id)
    )
  }
  const open = numbers.pick(design.tables.filter((each) => each.primaryKey && optionalIn(each).length > 0))
  const table = open ?? some
  const optional = numbers.pick(optionalIn(table))
  const made: Column = {
    id: `c_made_${table.columns.length}_${design.carries.length}`,
    name: `made_${table.columns.length}_${design.carries.length}`,
    type: numbers.pick<Type>([
      { kind: 'text', length: 30 },
      { kind: 'integer', size: 'normal' }
    ]) ?? {
      kind: 'date'
    },
    required: false
  }
  const column = numbers.next(3) === 0 ? made : (optional ?? made)
  const before: Operation[] = column === made ? [{ kind: 'column.add', table: table.id, column }] : []
  const grown = column === made ? { ...table, columns: [...table.columns, made] } : table
  const filling = fillingFor(grown, column, numbers)
  const state = { ...design, tables: design.tables.map((each) => (each === table ? grown : each)) }
  const filled = filling && fillColumn(state, grown, column, filling, state)
  if (!filled?.ok) return undefined
  return {
    kind: column === made ? 'new and filled' : 'filled and required',
    operation: {
      kind: 'batch',
      operations: [
        ...before,
        filled.value,
        { kind: 'column.require', table: table.id, column: column.id, required: true }
      ]
    }
  }
}

/** A new column that takes what stands in the row that a reference leads to. */
function lookedUp(design: Design, numbers: Numbers): Change | undefined {
  const table = numbers.pick(design.tables.filter((each) => each.foreignKeys.length > 0))
  const foreignKey = table && numbers.pick(table.foreignKeys)
  const source = foreignKey && tableOf(design, foreignKey.table)
  const from = source && numbers.pick(source.columns.filter((each) => each.computed === undefined))
  if (!table || !foreignKey || !from) return undefined
  const no = `${table.columns.length}_${design.carries.length}`
  const column: Column = { id: `c_copied_${no}`, name: `copied_${no}`, type: from.type, required: false }
  const grown = { ...table, columns: [...table.columns, column] }
  const state = { ...design, tables: design.tables.map((each) => (each === table ? grown : each)) }
  const filled = fillColumn(state, grown, column, { foreignKey: foreignKey.id, column: from.id }, state)
  if (!filled.ok) return undefined
  const added: Operation = { kind: 'column.add', table: table.id, column }
  return { kind: 'looked up', operation: { kind: 'batch', operations: [added, filled.value] } }
}

const FILLED: Partial<Record<Type['kind'], Value>> = {
  text: 'said',
  integer: 7,
  boolean: true,
  date: '2026-02-03'
}

/** What can stand in a column: a value, or, in a text, what another column says. */
function fillingFor(table: Table, column: Column, numbers: Numbers): Filling | undefined {
  const { type } = column
  const other = numbers.pick(
    table.columns.filter(
      (each) => each.type.kind === 'text' && each !== column && each.computed === undefined
    )
  )
  const isWide = type.kind === 'text' && (type.length ?? 100) >= 20
  if (isWide && other && numbers.next(2) === 0)
    return { is: `coalesce(substring({${other.id}}, 1, 12), 'none')` }
  const value = FILLED[type.kind]
  const fitting = typeof value === 'string' && type.kind === 'text' ? value.slice(0, type.length) : value
  return fitting === undefined ? undefined : { value: fitting }
}

/** A change that moves nothing by itself, but has no place for something that was there, or is new. */
export function plainChange(design: Design, numbers: Numbers, no: number): Change | undefined {
  const own = design.tables.filter((each) => !each.external)
  const some = numbers.pick(own)
  const inKeys = new Set(
    own.flatMap((table) => [
      ...[table.primaryKey, ...table.uniques].flatMap((key) => key?.columns ?? []),
      ...table.foreignKeys.flatMap((key) => key.pairs.flatMap((pair) => [pair.column, pair.refersTo]))
    ])
  )
  const isFree = ({ id, computed }: Column): boolean =>
    !inKeys.has(id) && computed === undefined && !JSON.stringify(some.checks).includes(id)
  const free = numbers.pick(some.columns.filter(isFree))
  // A row that comes since would have nothing for what is required.
  const optional = numbers.pick(some.columns.filter((column) => isFree(column) && !column.required))
  switch (numbers.next(5)) {
    case 0:
      return { kind: 'new column', operation: newColumn(some, numbers, no) }
    case 1:
      return { kind: 'new table', operation: newTable(some, no) }
    case 2:
      return (
        optional && {
          kind: 'column goes',
          operation: { kind: 'column.remove', table: some.id, column: optional.id }
        }
      )
    case 3:
      return {
        kind: 'renamed',
        operation: { kind: 'table.rename', table: some.id, name: `${some.name}_${no}` }
      }
    default:
      return (
        free && {
          kind: 'column renamed',
          operation: { kind: 'column.rename', table: some.id, column: free.id, name: `${free.name}_${no}` }
        }
      )
  }
}

function newColumn(table: Table, numbers: Numbers, no: number): Operation {
  const column: Column = {
    id: `c_new_${no}`,
    name: `new_${no}`,
    type: numbers.pick([
      { kind: 'text', length: 20 },
      { kind: 'integer', size: 'normal' },
      { kind: 'date' }
    ]) ?? { kind: 'text' },
    required: false
  }
  return { kind: 'column.add', table: table.id, column }
}

/** A table whose rows each belong to one of another. */
function newTable(parent: Table, no: number): Operation {
  const key = parent.primaryKey
  const types = key?.columns.map((id) => parent.columns.find((column) => column.id === id)?.type)
  const own = (types ?? []).map((type, at): Column => ({
    id: `c_of_${no}_${at}`,
    name: `of_${no}_${at}`,
    type: type ?? { kind: 'text' },
    required: true
  }))
  return {
    kind: 'table.add',
    table: {
      id: `t_new_${no}`,
      name: `new_table_${no}`,
      columns: [
        ...own,
        { id: `c_said_${no}`, name: 'said', type: { kind: 'text', length: 30 }, required: true },
        { id: `c_on_${no}`, name: 'on_day', type: { kind: 'date' }, required: false }
      ],
      primaryKey: { id: `k_new_${no}`, columns: [...own.map(({ id }) => id), `c_said_${no}`] },
      uniques: [],
      foreignKeys: key
        ? [
            {
              id: `f_new_${no}`,
              table: parent.id,
              key: key.id,
              pairs: own.map(({ id }, at) => ({ column: id, refersTo: key.columns[at] as string })),
              onDelete: 'CASCADE',
              onUpdate: 'CASCADE'
            }
          ]
        : [],
      checks: [],
      indexes: [],
      rowPolicies: [],
      rows: []
    }
  }
}

/** What becomes of a design by changes that numbers choose; those that are refused are passed over. */
export function changedBy(numbers: Numbers, design: Design, count: number): Design {
  let changed = design
  for (let n = 0; n < count; n++) {
    const change = numbers.next(5) < 3 ? changeOfMind(changed, numbers) : plainChange(changed, numbers, n)
    const result = change && apply(changed, change.operation)
    if (result?.ok) changed = result.design
  }
  return changed
}
