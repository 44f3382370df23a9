import {
  ACTIONS,
  emptyDesign,
  emptyTable,
  tidyRow,
  type Action,
  type Column,
  type Design,
  type ForeignKey,
  type Key,
  type Row,
  type Table
} from '../core/design/model.ts'
import type { Type } from '../core/design/type.ts'
import { laterOnes, violations } from '../core/design/violations.ts'
import type { Facts } from '../core/dialect/facts.ts'
import { readExpression } from '../core/design/expressions.ts'
import type { Trial, TrialStatement } from '../core/rehearse/trial.ts'

/** Numbers that a random design is drawn from, one after the other. */
export class Draws {
  private next = 0
  constructor(private readonly numbers: readonly number[]) {}

  /** A number from 0 up to but not including the one given. */
  below(most: number): number {
    const number = this.numbers[this.next++ % this.numbers.length] ?? 0
    return most > 0 ? number % most : 0
  }

  /** True so many times in a hundred. */
  chance(percent: number): boolean {
    return this.below(100) < percent
  }

  pick<T>(list: readonly T[]): T | undefined {
    return list[this.below(list.length)]
  }
}

const INTEGER: Type = { kind: 'integer', size: 'normal' }
const TEXT: Type = { kind: 'text', length: 12 }

/** A value of the type for a number, from a small range, so that rows meet. */
const valueFor = (type: Type, n: number): string | number => (type.kind === 'text' ? `v${n}` : n)

const columnOf = (id: string, type: Type, required: boolean): Column => ({
  id,
  name: id.slice(2),
  type,
  required
})

/**
 * A design of a few tables that refer to each other in many ways: by primary and unique keys, of one column or of
 * several, to themselves and in circles, with columns shared between references, all actions, and rows that break no
 * rule.
 */
export function drawnDesign(draws: Draws, facts: Facts): Design {
  const count = 2 + draws.below(4)
  const tables: Table[] = []
  for (let n = 0; n < count; n++) tables.push(drawnTable(draws, n))
  for (let n = 0; n < count; n++)
    for (let refers = draws.below(n === 0 ? 2 : 4); refers > 0; refers--) {
      const parent = tables[draws.chance(70) ? draws.below(Math.max(n, 1)) : draws.below(count)] as Table
      tables[n] = withReference(draws, tables[n] as Table, parent, facts)
    }
  const design = withRows(draws, { ...emptyDesign('Trials', 'd_trials'), tables })
  return { ...design, tables: design.tables.map((table) => ({ ...table, rows: table.rows.map(tidyRow) })) }
}

function drawnTable(draws: Draws, n: number): Table {
  const [id, type] = [`t${n}`, draws.chance(25) ? TEXT : INTEGER]
  const columns = [columnOf(`c_${id}_id`, type, true)]
  const key: Key = { id: `k_${id}`, columns: [`c_${id}_id`] }
  if (draws.chance(30)) {
    columns.push(columnOf(`c_${id}_no`, INTEGER, true))
    key.columns.push(`c_${id}_no`)
  }
  const uniques: Key[] = []
  if (draws.chance(35)) {
    columns.push(columnOf(`c_${id}_code`, draws.chance(50) ? INTEGER : TEXT, draws.chance(50)))
    uniques.push({ id: `u_${id}`, columns: [`c_${id}_code`] })
  }
  columns.push(columnOf(`c_${id}_note`, INTEGER, false))
  return { ...emptyTable(id, `t_${id}`), columns, primaryKey: key, uniques }
}

function withReference(draws: Draws, child: Table, parent: Table, facts: Facts): Table {
  const keys = [...(parent.primaryKey ? [parent.primaryKey] : []), ...parent.uniques]
  const key = (draws.chance(75) ? keys[0] : draws.pick(keys)) as Key
  const n = child.foreignKeys.length
  const made: Column[] = []
  const pairs = key.columns.map((refersTo, at) => {
    const { type } = parent.columns.find(({ id }) => id === refersTo) as Column
    const taken = new Set(child.foreignKeys.flatMap((each) => each.pairs.map(({ column }) => column)))
    // A column of the key makes it identifying; one of another reference is shared with it.
    const shared = child.columns.filter(
      (each) => each.type.kind === type.kind && each.id !== refersTo && !each.id.endsWith('_note')
    )
    const own = draws.chance(20)
      ? draws.pick(shared.filter(({ id }) => draws.chance(50) || taken.has(id)))
      : undefined
    if (own && !made.includes(own)) return { column: own.id, refersTo }
    const column = {
      ...columnOf(`c_${child.name}_${parent.name}_${n}_${at}`, type, draws.chance(35)),
      ...(draws.chance(40) && { default: { kind: 'value' as const, value: valueFor(type, 1) } })
    }
    made.push(column)
    return { column: column.id, refersTo }
  })
  const columns = [...child.columns, ...made]
  const own = pairs.map(({ column }) => columns.find(({ id }) => id === column) as Column)
  if (new Set(own).size < own.length) return child
  const isSame = child === parent && pairs.every(({ column, refersTo }) => column === refersTo)
  const isTwice = child.foreignKeys.some(
    (each) => each.pairs.map((pair) => pair.column).join() === pairs.map((pair) => pair.column).join()
  )
  if (isSame || isTwice) return child
  const foreignKey: ForeignKey = {
    id: `f_${child.name}_${n}`,
    table: parent.id,
    key: key.id,
    pairs,
    onDelete: drawnAction(draws, child, own, facts),
    onUpdate: drawnAction(draws, child, own, facts),
    ...(facts.deferredTriggers && draws.chance(12) && { atLeastOne: 'held' as const }),
    ...(draws.chance(25) && { deferrable: draws.chance(50) ? ('deferred' as const) : ('immediate' as const) })
  }
  return { ...child, columns, foreignKeys: [...child.foreignKeys, foreignKey] }
}

function drawnAction(draws: Draws, { primaryKey }: Table, own: readonly Column[], facts: Facts): Action {
  const action = draws.chance(40) ? 'CASCADE' : (draws.pick(ACTIONS) as Action)
  const isHeld = own.some(({ id, required }) => required || primaryKey?.columns.includes(id))
  const isRefused =
    action === 'SET NULL' && isHeld && (facts.emptyingRequired === 'table' || draws.chance(80))
  if (isRefused) return 'CASCADE'
  return action === 'SET DEFAULT' && own.some((each) => !each.default) && draws.chance(70)
    ? 'CASCADE'
    : action
}

/** How many rows a table is tried with; those that break a rule are left out. */
const ROWS = 6

function withRows(draws: Draws, design: Design): Design {
  let filled = design
  for (const table of design.tables) {
    const rows: Row[] = []
    for (let n = 0; n < ROWS; n++) rows.push(drawnRow(draws, filled, table, rows, n))
    filled = withTable(filled, { ...table, rows })
  }
  // Those of tables in a circle come when all are there.
  for (const table of design.tables)
    if (draws.chance(50)) {
      const rows = (filled.tables.find(({ id }) => id === table.id) as Table).rows
      filled = withTable(filled, {
        ...table,
        rows: rows.map((row, n) => ({ ...drawnRow(draws, filled, table, rows, n), ...keyIn(table, row) }))
      })
    }
  for (let wrong = violations(filled); wrong.length > 0; wrong = violations(filled)) {
    const [first] = wrong
    const table = filled.tables.find(({ id }) => id === first?.table) as Table
    const gone = first?.kind === 'key' ? laterOnes(table, first) : (first?.rows ?? [])
    filled = withTable(filled, { ...table, rows: table.rows.filter((_, at) => !gone.includes(at)) })
  }
  if (!draws.chance(25)) return filled
  const tables = filled.tables.map((table) => withCheck(draws, table))
  const checked = { ...filled, tables }
  return violations(checked).length === 0 ? checked : filled
}

const withTable = (design: Design, table: Table): Design => ({
  ...design,
  tables: design.tables.map((each) => (each.id === table.id ? table : each))
})

const keyIn = ({ primaryKey }: Table, row: Row): Row =>
  Object.fromEntries((primaryKey?.columns ?? []).map((id) => [id, row[id] ?? null]))

/** Something that only some rows meet, such as one in which a reference is filled. */
function withCheck(draws: Draws, table: Table): Table {
  const referring = table.columns.filter(
    ({ id, type }) =>
      type.kind === 'integer' &&
      table.foreignKeys.some(({ pairs }) => pairs.some(({ column }) => column === id))
  )
  const column = draws.pick(referring)
  if (!column) return table
  const read = readExpression(draws.chance(50) ? `${column.name} is not null` : `${column.name} <> 7`, {
    columns: table.columns,
    enums: []
  })
  return read.ok ? { ...table, checks: [{ id: `x_${table.name}`, condition: read.value }] } : table
}

function drawnRow(draws: Draws, design: Design, table: Table, own: readonly Row[], n: number): Row {
  const row: Row = {}
  for (const { id, type, required } of table.columns)
    row[id] =
      required || draws.chance(70)
        ? valueFor(type, table.primaryKey?.columns[0] === id ? n + 1 : draws.below(5))
        : null
  for (const { table: parentId, pairs } of table.foreignKeys) {
    const rows = parentId === table.id ? own : (design.tables.find(({ id }) => id === parentId)?.rows ?? [])
    const parent = rows[draws.below(rows.length + 1)]
    for (const { column, refersTo } of pairs) {
      const isRequired = table.columns.find(({ id }) => id === column)?.required
      const isOpen = !isRequired && draws.chance(15)
      row[column] = isOpen
        ? null
        : ((parent ?? (parentId === table.id ? row : undefined))?.[refersTo] ??
          (isRequired ? (row[column] ?? null) : null))
    }
  }
  return row
}

/** Statements on the rows of a design: deletes of one row or several, changes of keys and of references, new rows. */
export function drawnTrial(draws: Draws, design: Design, facts: Facts): Trial {
  const statements = Array.from({ length: 1 + draws.below(4) }, () => drawnStatement(draws, design))
  const together = draws.chance(60)
  const deferring = together && facts.deferrable && draws.chance(40)
  return { statements: statements.flatMap((each) => each ?? []), together, ...(deferring && { deferring }) }
}

function drawnStatement(draws: Draws, design: Design): TrialStatement | undefined {
  const full = design.tables.filter(({ rows }) => rows.length > 0)
  const referred = full.filter(({ id }) =>
    design.tables.some((each) => each.foreignKeys.some((key) => key.table === id))
  )
  const table = draws.chance(75) ? draws.pick(referred) : draws.pick(full)
  if (!table) return undefined
  const rows = [
    ...new Set(
      Array.from({ length: draws.chance(70) ? 1 : 2 + draws.below(2) }, () => draws.below(table.rows.length))
    )
  ].sort((a, b) => a - b)
  switch (draws.below(5)) {
    case 0:
    case 1:
      return { kind: 'delete', table: table.id, rows }
    case 2: {
      const keys = [...(table.primaryKey ? [table.primaryKey] : []), ...table.uniques]
      const key = draws.pick(keys)
      const values = Object.fromEntries(
        table.columns
          .filter(({ id }) => key?.columns.includes(id) && draws.chance(80))
          .map(({ id, type, required }) => [
            id,
            !required && draws.chance(20)
              ? null
              : valueFor(type, draws.chance(70) ? 20 + draws.below(3) : draws.below(7))
          ])
      )
      return Object.keys(values).length > 0
        ? { kind: 'update', table: table.id, rows: rows.slice(0, 1), values }
        : undefined
    }
    case 3: {
      const child = draws.pick(full.filter(({ foreignKeys }) => foreignKeys.length > 0))
      const key = child && draws.pick(child.foreignKeys)
      if (!child || !key) return undefined
      const parent = design.tables.find(({ id }) => id === key.table)?.rows ?? []
      const to = draws.pick(parent)
      const values = Object.fromEntries(
        key.pairs.map(({ column, refersTo }) => {
          const own = child.columns.find(({ id }) => id === column) as Column
          const isEmpty = !own.required && draws.chance(20)
          return [
            column,
            isEmpty ? null : draws.chance(80) ? (to?.[refersTo] ?? null) : valueFor(own.type, draws.below(9))
          ]
        })
      )
      return { kind: 'update', table: child.id, rows: [draws.below(child.rows.length)], values }
    }
    default: {
      const into = draws.pick(design.tables) as Table
      const made = Array.from({ length: 1 + draws.below(2) }, (_, at) => {
        const row = drawnRow(draws, design, into, into.rows, 30 + at + draws.below(3))
        return Object.fromEntries(Object.entries(row).filter(() => draws.chance(95)))
      })
      return { kind: 'insert', table: into.id, rows: made }
    }
  }
}
