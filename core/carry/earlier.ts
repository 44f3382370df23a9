import { columnOf, keysOf, tableOf } from '../design/directory.ts'
import type { Carry, CarriedRows, Fill, Flow, Flowing, LookedUp } from '../design/carry.ts'
import type { ColumnId, Design, Table, TableId } from '../design/model.ts'
import type { Order, Projected, RowQuery } from '../design/row-query.ts'
import { filled, STILL } from './flow.ts'
import type { Type } from '../design/type.ts'
import type { Value } from '../design/value.ts'

/**
 * A carry as flows, in whichever form a design keeps it. `designs`: where to look for the type of a value
 * that an earlier form keeps without one.
 */
export function flowing(carry: Carry, designs: readonly Design[]): Flowing {
  if ('there' in carry) return carry
  return 'source' in carry ? ofCarriedRows(carry, designs) : ofLookedUp(carry)
}

/** One row of the target for each row of the source that is filled; back by what the rows are known by. */
function ofCarriedRows(
  { id, source, target, where, columns }: CarriedRows,
  designs: readonly Design[]
): Flowing {
  const of = filled({ kind: 'table', table: source }, where)
  const made = columns.map((each): Projected =>
    'from' in each
      ? { id: each.to, from: each.from }
      : { id: each.to, value: each.value, type: typeOfColumn(designs, target, each.to) ?? guess(each.value) }
  )
  const there: Flow = { ...STILL, adds: [{ table: target, rows: { kind: 'project', of, columns: made } }] }
  const pairs = columns.flatMap((each) => ('from' in each ? [each] : []))
  const known = pairs.filter(({ from }) => !where.includes(from))
  const given = pairs.filter(({ from }) => where.includes(from))
  if (known.length === 0 || given.length === 0) return { id, there, back: STILL }
  // A value for all tells the rows of several such carries apart where it is in a key.
  const keyed = new Set(designs.flatMap((design) => keyColumnsOf(tableOf(design, target))))
  const constants = columns.flatMap((each) => ('value' in each && keyed.has(each.to) ? [each] : []))
  const rows = constants.reduce<RowQuery>(
    (query, { to, value }) => ({ kind: 'filter', of: query, where: equals(to, value) }),
    { kind: 'table', table: target }
  )
  const by = pairs.map(({ to }): Order => ({ column: to }))
  const on = knownBy(known, source, designs)
  const back: Fill = {
    table: source,
    columns: given.map(({ to, from }) => ({ id: from, from: to })),
    from: { kind: 'first', of: rows, per: on.map(({ other }) => other), by },
    on
  }
  return { id, there, back: { ...STILL, fills: [back] } }
}

/**
 * What rows of the source are known by in the target: a key of theirs where all of it is there, else all that is
 * there, in which empty equals empty.
 */
function knownBy(
  known: readonly { to: ColumnId; from: ColumnId }[],
  source: TableId,
  designs: readonly Design[]
): Fill['on'] {
  const isKnown = (id: ColumnId): boolean => known.some(({ from }) => from === id)
  const tables = designs.flatMap((design) => tableOf(design, source) ?? [])
  const key = tables
    .flatMap((table) => keysOf(table).filter(({ columns }) => columns.every((id) => isRequired(table, id))))
    .find(({ columns }) => columns.every(isKnown))
  return known
    .filter(({ from }) => !key || key.columns.includes(from))
    .map(({ to, from }) => ({
      own: from,
      other: to,
      ...(tables.some((table) => columnOf(table, from) && !isRequired(table, from)) && {
        empty: true as const
      })
    }))
}

const isRequired = (table: Table, id: ColumnId): boolean => columnOf(table, id)?.required ?? false

const keyColumnsOf = (table: Table | undefined): ColumnId[] =>
  table ? keysOf(table).flatMap((key) => key.columns) : []

/** A reference by another key, and by the one before again: it reads the same backwards. */
function ofLookedUp({ id, table, referred, was, becomes }: LookedUp): Flowing {
  const by = (one: LookedUp['was'], other: LookedUp['was']): Flow => ({
    ...STILL,
    fills: [
      {
        table,
        columns: other.map((pair) => ({ id: pair.column, from: pair.refersTo })),
        from: { kind: 'table', table: referred },
        on: one.map((pair) => ({ own: pair.column, other: pair.refersTo }))
      }
    ]
  })
  return { id, there: by(was, becomes), back: by(becomes, was) }
}

function equals(column: ColumnId, value: Value): string {
  if (value === null) return `{${column}} is null`
  const written = typeof value === 'string' ? `'${value.replaceAll("'", "''")}'` : String(value)
  return `{${column}} = ${written}`
}

function typeOfColumn(designs: readonly Design[], table: TableId, column: ColumnId): Type | undefined {
  for (const design of designs) {
    const found = tableOf(design, table)?.columns.find((each) => each.id === column)
    if (found) return found.type
  }
  return undefined
}

function guess(value: Value): Type {
  if (typeof value === 'number') return { kind: 'integer', size: 'normal' }
  return typeof value === 'boolean' ? { kind: 'boolean' } : { kind: 'text' }
}
