import { filled, STILL } from '../carry/flow.ts'
import { isComparable } from '../carry/columns.ts'
import type { Flow } from '../design/carry.ts'
import { columnsIn, tableOf } from '../design/directory.ts'
import type { Column, Design, ForeignKey, Table } from '../design/model.ts'
import type { Order, Projected, RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { plural } from '../naming/words.ts'
import { junctionSides } from '../relate/junction.ts'
import {
  answerTo,
  askColumns,
  thoseOf,
  type OptionQuestion,
  type ChangeOfMind,
  type ChangeOffer
} from './change.ts'
import { adding, columnsOver, mustBeAlone, rulesOver, type Over } from './columns-over.ts'
import { beyondFirst } from './queries.ts'
import { restructure } from './restructuring.ts'

/**
 * Many-to-many becomes one-to-many: one side refers to the other, and the junction goes. Of several pairs the
 * one stays that a stated order puts first, or none may be there; what the junction held of its own goes along.
 */
export const fromJunction: ChangeOfMind = (design, { table, foreignKey }) => {
  const sides = junctionSides(table)
  if (foreignKey || sides.length !== 2) return []
  const [first, second] = sides as [ForeignKey, ForeignKey]
  return [offer(design, table, first, second), offer(design, table, second, first)].flatMap(
    (each) => each ?? []
  )
}

function offer(design: Design, junction: Table, many: ForeignKey, one: ForeignKey): ChangeOffer | undefined {
  const [child, parent] = [tableOf(design, many.table), tableOf(design, one.table)]
  if (!child || !parent || child.external) return undefined
  const own = ownColumns(junction, many, one)
  const orders = own.filter(({ type }) => isComparable(type))
  const which: OptionQuestion = {
    id: 'which',
    kind: 'choice',
    asks: `Where one ${child.name} has several ${plural(parent.name)}`,
    proposed: 'none',
    options: [
      { value: 'none', words: 'it stops' },
      { value: 'first', words: `the first ${parent.name} by its key stays` },
      ...orders.flatMap(({ id, name }) => [
        { value: `least ${id}`, words: `the one with the smallest ${name} stays` },
        { value: `most ${id}`, words: `the one with the largest ${name} stays` }
      ])
    ]
  }
  const along = askColumns(
    'along',
    `What goes along into ${child.name}`,
    own,
    own.map(({ id }) => id)
  )
  return {
    kind: 'from junction',
    says: `Each ${child.name} has at most one ${parent.name}, and each ${parent.name} any number of ${plural(child.name)}.`,
    term: 'many-to-many becomes one-to-many',
    asks: own.length > 0 ? [which, along] : [which],
    operation: (answers) =>
      build(design, junction, many, one, ordering(answerTo(which, answers)), thoseOf(along, answers))
  }
}

/** What the junction has beside its sides: not computed, and not counted. */
function ownColumns(junction: Table, many: ForeignKey, one: ForeignKey): Column[] {
  const sides = [...many.pairs, ...one.pairs].map(({ column }) => column)
  return junction.columns.filter(
    ({ id, computed, default: begins }) =>
      !sides.includes(id) && computed === undefined && begins?.kind !== 'generated'
  )
}

/** Which of several stays: none may be there, or the first in an order that begins with a column. */
type Ordering = 'none' | { by: Order[] }

function ordering(answer: string): Ordering {
  if (answer === 'none') return 'none'
  const [direction, column] = answer.split(' ')
  if (column === undefined) return { by: [] }
  return { by: [{ column, ...(direction === 'most' && { descending: true as const }) }] }
}

function build(
  design: Design,
  junction: Table,
  many: ForeignKey,
  one: ForeignKey,
  which: Ordering,
  along: readonly string[]
): Parsed<Operation> {
  const [child, parent] = [tableOf(design, many.table) as Table, tableOf(design, one.table) as Table]
  const label = `let each ${child.name} have at most one ${parent.name}`
  return restructure(design, label, (restructuring) => {
    mustBeAlone(restructuring, junction, `and it would be gone`)
    const taken = child.columns.map(({ name }) => name)
    const sides = columnsIn(junction, [...one.pairs.map(({ column }) => column), ...along])
    const over = columnsOver(sides, taken, () => false)
    const there = gathered(
      junction,
      child,
      parent,
      many,
      over,
      orderOf(junction, one, which),
      which === 'none'
    )
    restructuring.carry(there, spread(junction, child, many, one, over), ...adding(child, over))
    rulesOver(restructuring, junction.id, child.id, over)
    restructuring.do({ kind: 'table.remove', table: junction.id })
  })
}

/** An order in which no two pairs of one row are alike. */
function orderOf(junction: Table, one: ForeignKey, which: Ordering): Order[] {
  const last = [...one.pairs.map(({ column }) => column), ...(junction.primaryKey?.columns ?? [])]
  const by = [...(which === 'none' ? [] : which.by), ...last.map((column): Order => ({ column }))]
  return by.filter(({ column }, at) => by.findIndex((each) => each.column === column) === at)
}

/** Each row of the one side gets what its first pair has. */
function gathered(
  junction: Table,
  child: Table,
  parent: Table,
  many: ForeignKey,
  over: Over,
  by: Order[],
  isOnly: boolean
): Flow {
  const pairs: RowQuery = { kind: 'table', table: junction.id }
  const per = many.pairs.map(({ column }) => column)
  const says = `One ${child.name} has several ${plural(parent.name)}, and can keep only one.`
  return {
    ...STILL,
    fills: [
      {
        table: child.id,
        columns: [...over].map(([from, { id }]) => ({ id, from })),
        from: { kind: 'first', of: pairs, per, by },
        on: many.pairs.map(({ column, refersTo }) => ({ own: refersTo, other: column })),
        partly: true
      }
    ],
    requires: isOnly ? [{ query: beyondFirst(pairs, per, by), says }] : []
  }
}

/** A pair for each row whose reference is filled. */
function spread(junction: Table, child: Table, many: ForeignKey, one: ForeignKey, over: Over): Flow {
  const made = (id: string): string => over.get(id)?.id ?? ''
  const columns: Projected[] = [
    ...many.pairs.map(({ column, refersTo }) => ({ id: column, from: refersTo })),
    ...[...over].map(([id, column]) => ({ id, from: column.id }))
  ]
  const of = filled(
    { kind: 'table', table: child.id },
    one.pairs.map(({ column }) => made(column))
  )
  return { ...STILL, adds: [{ table: junction.id, rows: { kind: 'project', of, columns } }] }
}
