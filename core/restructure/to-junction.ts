import { filled, STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import { columnOf, columnsIn, isInPrimaryKey, tableOf } from '../design/directory.ts'
import {
  newId,
  type Column,
  type ColumnId,
  type Design,
  type ForeignKey,
  type Table
} from '../design/model.ts'
import type { Order, Projected, RowQuery } from '../design/row-query.ts'
import { sameType, type Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import type { Junction } from '../edit/relationship.ts'
import { freeName } from '../naming/names.ts'
import { plural } from '../naming/words.ts'
import { proposeJunction } from '../relate/propose.ts'
import { answerTo, type ChangeOfMind, type OptionQuestion, type Naming } from './change.ts'
import { restructure, stuck } from './restructuring.ts'

/**
 * One to many becomes many to many: a junction takes the place of a reference. Its first side is the table
 * that refers, its second the table referred to. There is one pair for each row whose reference is filled;
 * on the way back the reference is the pair's, and of several the first in the order of the key.
 * @param takes what columns of the junction's own take from the row, where that is not what is called the same there
 */
export function toJunction(
  design: Design,
  table: Table,
  foreignKey: ForeignKey,
  junction: Junction,
  takes: readonly Projected[] = []
): Parsed<Operation> {
  return restructure(design, `resolve to the junction ${junction.table.name}`, (restructuring) => {
    const columns = foreignKey.pairs.map((pair) => pair.column)
    const inKey = columns.find((column) => isInPrimaryKey(table, column))
    if (inKey !== undefined)
      stuck(
        `${columnOf(table, inKey)?.name} is in the key of ${table.name}, so the relationship cannot leave it. Let it go by a key of its own first.`
      )
    restructuring.carry(
      pairsOf(design, table, foreignKey, junction, takes),
      firstOf(design, table, foreignKey, junction),
      { kind: 'relationship.addJunction', junction }
    )
    restructuring.do(
      { kind: 'foreignKey.remove', table: table.id, foreignKey: foreignKey.id },
      ...columns.map((column): Operation => ({ kind: 'column.remove', table: table.id, column }))
    )
  })
}

/** Each side turns out to need many: a junction takes the place of the reference. */
export const manyToMany: ChangeOfMind = (design, { table, foreignKey }) => {
  const parent = foreignKey && tableOf(design, foreignKey.table)
  if (!foreignKey || !parent || !table.primaryKey || !parent.primaryKey || table.external) return []
  const proposed = proposeJunction(design, table, parent)
  const name: Naming = {
    id: 'name',
    kind: 'name',
    asks: 'What the junction is called',
    proposed: proposed.table.name
  }
  const keyed: OptionQuestion = {
    id: 'keyed',
    kind: 'choice',
    asks: 'What it goes by',
    proposed: 'pair',
    options: [
      { value: 'pair', words: 'the pair' },
      { value: 'own', words: 'a number of its own, and the pair unique' }
    ]
  }
  return [
    {
      kind: 'to junction',
      says: `Each ${table.name} has any number of ${plural(parent.name)}, and each ${parent.name} any number of ${plural(table.name)}.`,
      term: 'one-to-many becomes many-to-many',
      asks: [name, keyed],
      operation: (answers) =>
        toJunction(design, table, foreignKey, {
          ...proposed,
          table: { ...proposed.table, name: answerTo(name, answers) },
          keyed:
            answerTo(keyed, answers) === 'pair'
              ? proposed.keyed
              : {
                  by: 'own',
                  column: { id: newId('c'), name: numberName(proposed, answerTo(name, answers)) },
                  unique: newId('k')
                }
        })
    }
  ]
}

/** What a number of a junction's own is called, beside the columns of its sides. */
const numberName = ({ sides }: Junction, name: string): string =>
  freeName(
    `${name}_id`,
    sides.flatMap(({ columns }) => columns.map((column) => column.name))
  )

/** The second side's key as it is told from a reference: a column of the row, or one that is looked up. */
interface Told {
  /** Rows of the table that refers, with what is looked up beside. */
  rows: RowQuery
  /** Where each column of the key stands in them. */
  key: ColumnId[]
}

/** A reference to another key than the primary one leads to that by the row referred to. */
function told(design: Design, table: Table, foreignKey: ForeignKey): Told {
  const columns = foreignKey.pairs.map((pair) => pair.column)
  const rows = filled({ kind: 'table', table: table.id }, columns)
  const referred = tableOf(design, foreignKey.table)
  const key = referred?.primaryKey?.columns ?? []
  const pairs = key.map((id) => foreignKey.pairs.find((pair) => pair.refersTo === id)?.column)
  if (pairs.every((id) => id !== undefined)) return { rows, key: pairs }
  const passing = (place: number): ColumnId => `j_${place}`
  const right: RowQuery = {
    kind: 'project',
    of: { kind: 'table', table: foreignKey.table },
    columns: [...foreignKey.pairs.map((pair) => pair.refersTo), ...key].map((from, at) => ({
      id: passing(at),
      from
    }))
  }
  const on = foreignKey.pairs.map((pair, at) => ({ left: pair.column, right: passing(at) }))
  return {
    rows: { kind: 'join', left: rows, right, on, unmatched: 'dropped' },
    key: key.map((_, at) => passing(on.length + at))
  }
}

/**
 * A pair for each row whose reference is filled, with what the junction has of its own: what is said that it takes,
 * or what the row has by the same name.
 */
function pairsOf(
  design: Design,
  table: Table,
  foreignKey: ForeignKey,
  junction: Junction,
  takes: readonly Projected[]
): Flow {
  const [many, one] = junction.sides
  const { rows, key } = told(design, table, foreignKey)
  const own = table.primaryKey?.columns ?? []
  const columns: Projected[] = [
    ...many.columns.map(({ id }, at) => ({ id, from: own[at] ?? '' })),
    ...one.columns.map(({ id }, at) => ({ id, from: key[at] ?? '' })),
    ...takes,
    ...sharedColumns(
      table,
      junction.columns.filter(({ id }) => !takes.some((each) => each.id === id))
    )
  ]
  return { ...STILL, adds: [{ table: junction.table.id, rows: { kind: 'project', of: rows, columns } }] }
}

function sharedColumns(table: Table, columns: readonly Column[]): Projected[] {
  return columns.flatMap((column) => {
    const same = table.columns.find((each) => each.name === column.name && sameType(each.type, column.type))
    return same ? [{ id: column.id, from: same.id }] : []
  })
}

/** The reference of each row is that of its first pair. */
function firstOf(design: Design, table: Table, foreignKey: ForeignKey, junction: Junction): Flow {
  const [many, one] = junction.sides
  const own = columnsIn(table, table.primaryKey?.columns ?? [])
  const per = many.columns.map(({ id }) => id)
  const by = one.columns.map(({ id }): Order => ({ column: id }))
  const pairs: RowQuery = { kind: 'table', table: junction.table.id }
  const first: RowQuery = { kind: 'first', of: pairs, per, by }
  const key = tableOf(design, foreignKey.table)?.primaryKey?.columns ?? []
  const places = foreignKey.pairs.map((pair) => one.columns[key.indexOf(pair.refersTo)]?.id)
  const isDirect = places.every((id) => id !== undefined)
  const referred: RowQuery = {
    kind: 'join',
    left: first,
    right: { kind: 'table', table: foreignKey.table },
    on: one.columns.map(({ id }, at) => ({ left: id, right: key[at] ?? '' })),
    unmatched: 'dropped'
  }
  return {
    ...STILL,
    fills: [
      {
        table: table.id,
        columns: foreignKey.pairs.map((pair, at) => ({
          id: pair.column,
          from: isDirect ? (places[at] ?? '') : pair.refersTo
        })),
        from: isDirect ? first : referred,
        on: own.map(({ id }, at) => ({ own: id, other: per[at] ?? '' }))
      }
    ]
  }
}
