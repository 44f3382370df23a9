import { columnOf, tableOf } from '../design/directory.ts'
import type { Column, Design, Row, Table } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import { fits, type Value } from '../design/value.ts'
import { laterOnes, newViolations, violations, type Violation } from '../design/violations.ts'
import { describe } from './describe.ts'
import { withTable } from './handler.ts'
import type { Operation } from './operation.ts'
import type { Offer, Refusal } from './refusal.ts'

/**
 * A refusal where a change would leave the design's own rows in a state that no engine has, which names the
 * rows and offers to mend them with it. A required column in which no row has anything yet is none: what it is to
 * hold is asked elsewhere (a migration that would stop at it says so), so that it can be typed before that is known.
 * @param operation what was to be done
 */
export function refuseRows(before: Design, after: Design, operation: Operation): Refusal | undefined {
  const [violation] = newViolations(before, after).filter((each) => !isOpen(after, each))
  if (!violation) return undefined
  const isMended = (design: Design): boolean =>
    newViolations(before, design).every((each) => isOpen(design, each))
  const offers = mendings(after, violation).flatMap(({ label, design }): Offer[] => {
    if (!isMended(design)) return []
    const sets = design.tables
      .filter((table) => table.rows !== tableOf(after, table.id)?.rows)
      .map((table): Operation => ({ kind: 'table.setRows', table: table.id, rows: table.rows }))
    const what = describe(before, operation)
    const done: Operation = { kind: 'batch', label: what, operations: [operation, ...sets] }
    return [{ label, operation: done }]
  })
  const where = { table: violation.table, ...(violation.kind === 'required' && { column: violation.of }) }
  return { code: 'does-not-fit', message: violation.message, where, offers }
}

/** Whether no row has anything in the column yet. */
const isOpen = (design: Design, { kind, table, rows }: Violation): boolean =>
  kind === 'required' && rows.length === tableOf(design, table)?.rows.length

/** What mends rows that break a rule, each as one step, with what it says that it does. */
export function repairsOf(design: Design, violation: Violation): Offer[] {
  const good = mendings(design, violation).filter(({ design: mended }) =>
    isRepaired(design, mended, violation)
  )
  return good.map(({ label, design: mended }) => {
    const operations = mended.tables
      .filter((table) => table.rows !== tableOf(design, table.id)?.rows)
      .map((table): Operation => ({ kind: 'table.setRows', table: table.id, rows: table.rows }))
    const says = label.replace(/^Do it, and /, '')
    return { label: says, operation: { kind: 'batch', label: says, operations } }
  })
}

/** Whether a violation is gone, and no other has come of that. */
function isRepaired(design: Design, mended: Design, { kind, of }: Violation): boolean {
  const isStill = violations(mended).some((each) => each.kind === kind && each.of === of)
  return !isStill && newViolations(design, mended).length === 0
}

/** The design with other rows, with which the violation is gone. */
function mendings(design: Design, violation: Violation): { label: string; design: Design }[] {
  const table = tableOf(design, violation.table)
  if (!table) return []
  const places = new Set(violation.rows)
  const others = (mended: { label: string; rows: Row[] }[]): { label: string; design: Design }[] =>
    mended.map(({ label, rows }) => ({ label, design: withTable(design, table.id, (t) => ({ ...t, rows })) }))
  const those = places.size === 1 ? 'that row' : 'those rows'
  switch (violation.kind) {
    case 'required':
      return [
        ...others(referring(design, table, violation, places)),
        ...others(filledPlainly(design, table, violation, places)),
        takenOut(design, table, places, those)
      ]
    case 'reference':
      return [...others(emptied(table, violation, places)), takenOut(design, table, places, those)]
    case 'key':
      return [takenOut(design, table, new Set(laterOnes(table, violation)), 'all but the first of them')]
    case 'check':
    case 'minimum':
      return []
  }
}

/** Without the rows, and without what refers to them and could not without. */
function takenOut(
  design: Design,
  table: Table,
  places: ReadonlySet<number>,
  which: string
): { label: string; design: Design } {
  const without = (from: Design, id: string, gone: ReadonlySet<number>): Design =>
    withTable(from, id, (t) => ({ ...t, rows: t.rows.filter((_, at) => !gone.has(at)) }))
  let left = without(design, table.id, places)
  for (let lost = newViolations(design, left); lost.length > 0; lost = newViolations(design, left)) {
    const [first] = lost
    if (first?.kind !== 'reference') break
    left = without(left, first.table, new Set(first.rows))
  }
  const isMore = left.tables.some(
    (each) => each.id !== table.id && each.rows !== tableOf(design, each.id)?.rows
  )
  return { label: `Do it, and take ${which} out${isMore ? ', with what refers to them' : ''}`, design: left }
}

/** Rows that must refer to something refer to the first that there is. */
function referring(
  design: Design,
  table: Table,
  { of }: Violation,
  places: ReadonlySet<number>
): { label: string; rows: Row[] }[] {
  const foreignKey = table.foreignKeys.find(({ pairs }) => pairs.some(({ column }) => column === of))
  const parent = foreignKey && tableOf(design, foreignKey.table)
  const first = parent?.rows[0]
  if (!foreignKey || !first) return []
  const key = foreignKey.pairs.map(({ column, refersTo }) => [column, first[refersTo]])
  const rows = table.rows.map((row, at) => (places.has(at) ? { ...row, ...Object.fromEntries(key) } : row))
  return [{ label: `Do it, and let them refer to the first ${parent.name}`, rows: rows as Row[] }]
}

/** What stands for something that is not known, by the kind of a type. */
const PLAIN: Partial<Record<Type['kind'], Value>> = {
  text: '?',
  char: '?',
  integer: 0,
  decimal: '0',
  float: 0,
  boolean: false,
  date: '2000-01-01',
  timestamp: '2000-01-01 00:00:00'
}

function filledPlainly(
  design: Design,
  table: Table,
  { of }: Violation,
  places: ReadonlySet<number>
): { label: string; rows: Row[] }[] {
  const column = columnOf(table, of)
  const value = column && plainFor(design, column)
  if (value === undefined || value === null) return []
  const rows = table.rows.map((row, at) => (places.has(at) ? { ...row, [of]: value } : row))
  return [{ label: `Do it, and let them hold ${String(value)}`, rows }]
}

/** What stands in a required column that nothing is known of; nothing where there is no such value. */
export function plainFor(design: Design, { type, default: begins }: Column): Value | undefined {
  const list = type.kind === 'enum' ? design.enums.find((each) => each.id === type.enum) : undefined
  const value = begins?.kind === 'value' ? begins.value : (list?.values[0] ?? PLAIN[type.kind])
  return value !== undefined && fits(value, type, design.enums) ? value : undefined
}

function emptied(
  table: Table,
  { of }: Violation,
  places: ReadonlySet<number>
): { label: string; rows: Row[] }[] {
  const foreignKey = table.foreignKeys.find((each) => each.id === of)
  const free = (foreignKey?.pairs ?? []).filter(({ column }) => !columnOf(table, column)?.required)
  if (free.length === 0) return []
  const gone = new Set(free.map(({ column }) => column))
  const rows = table.rows.map((row, at) =>
    places.has(at) ? Object.fromEntries(Object.entries(row).filter(([id]) => !gone.has(id))) : row
  )
  return [{ label: 'Do it, and let them refer to nothing', rows }]
}
