import { filled, STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import { columnsIn, namesOfTables, referencesTo, tableOf } from '../design/directory.ts'
import { renameColumns } from '../design/expressions.ts'
import {
  newId,
  type Column,
  type ColumnId,
  type Design,
  type ForeignKey,
  type Table
} from '../design/model.ts'
import type { Order, Projected, RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName } from '../naming/names.ts'
import { junctionSides } from '../relate/junction.ts'
import { answerTo, type ChangeOfMind, type Naming, type ChangeOffer } from './change.ts'
import { leave, mustBeAlone } from './columns-over.ts'
import { taking } from './pair-facts.ts'
import { restructure, stuck } from './restructuring.ts'

/**
 * A direct relationship that a junction of the same two tables made superfluous goes; the pairs that it alone held are
 * carried into the junction, which is made anew with them, so that the way back knows which they were.
 */
export const superfluous: ChangeOfMind = (design, { table, foreignKey }) =>
  foreignKey
    ? junctionsBeside(design, table, foreignKey).flatMap(
        (junction) => offer(design, table, foreignKey, junction) ?? []
      )
    : []

/** The junctions of two that relate a table and what it refers to as well. */
export function junctionsBeside(design: Design, table: Table, foreignKey: ForeignKey): Table[] {
  if (foreignKey.table === table.id || table.external) return []
  const others = referencesTo(design, table.id).map((reference) => reference.table)
  return [...new Set(others)].filter((each) => {
    const ends = junctionSides(each).map((side) => side.table)
    return (
      each.id !== table.id && ends.length === 2 && ends.includes(table.id) && ends.includes(foreignKey.table)
    )
  })
}

/** A junction with its side of the table that refers, and that of what is referred to by the same key. */
interface Pairs {
  junction: Table
  own: ForeignKey
  its: ForeignKey
}

function offer(
  design: Design,
  table: Table,
  foreignKey: ForeignKey,
  junction: Table
): ChangeOffer | undefined {
  const sides = junctionSides(junction)
  const own = sides.find((side) => side.table === table.id)
  const its = sides.find((side) => side.table === foreignKey.table && side.key === foreignKey.key)
  const parent = tableOf(design, foreignKey.table)
  const isCounted = junction.columns.some(({ default: begins }) => begins?.kind === 'generated')
  if (!own || !its || !parent || isCounted) return undefined
  const pairs = { junction, own, its }
  const asked = saidOfPairs(pairs).filter(needsWord)
  const asks = asked.map((column): Naming => ({
    id: column.id,
    kind: 'name',
    asks: `What ${column.name} holds in the pairs that come`,
    proposed: table.columns.find(({ name }) => name === column.name)?.name ?? ''
  }))
  return {
    kind: 'superfluous',
    says: `Which ${parent.name} ${table.name} has is said by ${junction.name} alone.`,
    term: 'a direct relationship beside a junction removed',
    asks,
    operation: (answers) =>
      build(design, table, foreignKey, pairs, (column) => {
        const ask = asks.find(({ id }) => id === column.id)
        return ask ? answerTo(ask, answers) : ''
      })
  }
}

/** What no pair can be without, and no value gives: what only the engine gives is not known here. */
const needsWord = ({ required, default: begins }: Column): boolean => required && begins?.kind !== 'value'

/** What a junction says beside its sides, by itself. */
function saidOfPairs({ junction, own, its }: Pairs): Column[] {
  const sides = [...own.pairs, ...its.pairs].map(({ column }) => column)
  return junction.columns.filter(({ id, computed }) => !sides.includes(id) && computed === undefined)
}

function build(
  design: Design,
  table: Table,
  foreignKey: ForeignKey,
  pairs: Pairs,
  said: (column: Column) => string
): Parsed<Operation> {
  const { junction } = pairs
  const label = `let ${junction.name} alone relate ${table.name}`
  return restructure(design, label, (restructuring) => {
    mustBeAlone(restructuring, junction, 'and would refer to nothing for a moment')
    const held = foreignKey.pairs.map(({ column }) => column)
    const shared = columnsIn(table, held).find(({ id }) => table.primaryKey?.columns.includes(id))
    if (shared)
      stuck(
        `${shared.name} is in the key of ${table.name}, so the relationship cannot leave it. Let it go by a key of its own first.`
      )
    const takes = saidOfPairs(pairs).flatMap((column): Projected[] => {
      const taken = taking(design, table, column, said(column))
      if (!taken.ok) stuck(taken.message)
      if (!taken.value && needsWord(column))
        stuck(
          `Say what ${column.name} is to hold in the pairs that come: a column of ${table.name}, or a value.`
        )
      return taken.value ? [taken.value] : []
    })
    const { made, over } = anew(junction)
    const passing = freeName(`${junction.name}_before`, namesOfTables(design))
    restructuring.carry(
      { ...STILL, adds: [{ table: made.id, rows: together(table, foreignKey, pairs, over, takes) }] },
      apart(table, foreignKey, pairs, made, over),
      { kind: 'table.rename', table: junction.id, name: passing },
      {
        kind: 'table.add',
        table: made,
        at: design.tables.indexOf(junction),
        position: design.positions[junction.id]
      }
    )
    restructuring.do({ kind: 'table.remove', table: junction.id })
    leave(restructuring, table.id, held)
  })
}

/** The same table, with ids of its own. */
function anew(junction: Table): { made: Table; over: ReadonlyMap<ColumnId, ColumnId> } {
  const over = new Map(junction.columns.map(({ id }) => [id, newId('c')]))
  const other = (id: ColumnId): ColumnId => over.get(id) ?? id
  const keys = new Map(junction.foreignKeys.map(({ id }) => [id, newId('f')]))
  const said = (kept: string): string => renameColumns(kept, other)
  const made: Table = {
    ...junction,
    id: newId('t'),
    columns: junction.columns.map(({ computed, copied, ...column }) => ({
      ...column,
      id: other(column.id),
      ...(computed !== undefined && { computed: said(computed) }),
      ...(copied && { copied: { ...copied, foreignKey: keys.get(copied.foreignKey) ?? copied.foreignKey } })
    })),
    primaryKey: junction.primaryKey && {
      ...junction.primaryKey,
      id: newId('k'),
      columns: junction.primaryKey.columns.map(other)
    },
    uniques: junction.uniques.map((key) => ({ ...key, id: newId('k'), columns: key.columns.map(other) })),
    foreignKeys: junction.foreignKeys.map((key) => ({
      ...key,
      id: keys.get(key.id) ?? newId('f'),
      pairs: key.pairs.map((pair) => ({ ...pair, column: other(pair.column) }))
    })),
    checks: junction.checks.map((check) => ({ ...check, id: newId('x'), condition: said(check.condition) })),
    indexes: junction.indexes.map((index) => ({
      ...index,
      id: newId('i'),
      columns: index.columns.map((each) => ({ ...each, column: other(each.column) })),
      ...(index.where !== undefined && { where: said(index.where) })
    })),
    rowPolicies: junction.rowPolicies.map((policy) => ({
      ...policy,
      id: newId('p'),
      condition: said(policy.condition),
      ...(policy.writes !== undefined && { writes: said(policy.writes) })
    })),
    ...(junction.label && { label: junction.label.map(other) }),
    rows: []
  }
  return { made, over }
}

/** What each row of the table says by its reference, as a pair: the junction's columns by the table's. */
function pairOf(foreignKey: ForeignKey, { own, its }: Pairs): [column: ColumnId, from: ColumnId][] {
  return [
    ...own.pairs.map(({ column, refersTo }): [ColumnId, ColumnId] => [column, refersTo]),
    ...its.pairs.map(({ column, refersTo }): [ColumnId, ColumnId] => [
      column,
      foreignKey.pairs.find((pair) => pair.refersTo === refersTo)?.column ?? ''
    ])
  ]
}

/** The pairs that are there, and those that only the reference says. */
function together(
  table: Table,
  foreignKey: ForeignKey,
  pairs: Pairs,
  over: ReadonlyMap<ColumnId, ColumnId>,
  takes: readonly Projected[]
): RowQuery {
  const pair = pairOf(foreignKey, pairs)
  const known: RowQuery = {
    kind: 'distinct',
    of: {
      kind: 'project',
      of: { kind: 'table', table: pairs.junction.id },
      columns: pair.map(([column], at) => ({ id: `j_${at}`, from: column }))
    }
  }
  const joined: RowQuery = {
    kind: 'join',
    left: filled(
      { kind: 'table', table: table.id },
      foreignKey.pairs.map(({ column }) => column)
    ),
    right: known,
    on: pair.map(([, left], at) => ({ left, right: `j_${at}` })),
    unmatched: 'kept'
  }
  const to = (id: ColumnId): ColumnId => over.get(id) ?? id
  const plain = pairs.junction.columns.filter(({ computed }) => computed === undefined)
  const fresh = new Map([
    ...pair.map(([column, from]): [ColumnId, Projected] => [column, { id: to(column), from }]),
    ...takes.map((each): [ColumnId, Projected] => [each.id, { ...each, id: to(each.id) }])
  ])
  return {
    kind: 'union',
    of: [
      {
        kind: 'project',
        of: { kind: 'table', table: pairs.junction.id },
        columns: plain.map(({ id }) => ({ id: to(id), from: id }))
      },
      {
        kind: 'project',
        of: { kind: 'filter', of: joined, where: '{j_0} is null' },
        columns: plain.map(({ id, type, default: begins }): Projected => {
          const value = begins?.kind === 'value' ? begins.value : null
          return fresh.get(id) ?? { id: to(id), type, value }
        })
      }
    ]
  }
}

/** The pairs as they were, and in each row the first of them, where it is not known which it was. */
function apart(
  table: Table,
  foreignKey: ForeignKey,
  pairs: Pairs,
  made: Table,
  over: ReadonlyMap<ColumnId, ColumnId>
): Flow {
  const to = (id: ColumnId): ColumnId => over.get(id) ?? id
  const plain = pairs.junction.columns.filter(({ computed }) => computed === undefined)
  const per = pairs.own.pairs.map(({ column }) => to(column))
  const its = pairs.its.pairs.map(({ column }) => to(column))
  const last = (made.primaryKey?.columns ?? []).filter((id) => !its.includes(id))
  const by = [...its, ...last].map((column): Order => ({ column }))
  const place = (refersTo: ColumnId): ColumnId =>
    to(pairs.its.pairs.find((pair) => pair.refersTo === refersTo)?.column ?? '')
  return {
    ...STILL,
    adds: [
      {
        table: pairs.junction.id,
        rows: {
          kind: 'project',
          of: { kind: 'table', table: made.id },
          columns: plain.map(({ id }) => ({ id, from: to(id) }))
        }
      }
    ],
    fills: [
      {
        table: table.id,
        columns: foreignKey.pairs.map(({ column, refersTo }) => ({ id: column, from: place(refersTo) })),
        from: { kind: 'first', of: { kind: 'table', table: made.id }, per, by },
        on: pairs.own.pairs.map(({ column, refersTo }) => ({ own: refersTo, other: to(column) })),
        partly: true
      }
    ]
  }
}
