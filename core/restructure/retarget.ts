import { isComparable } from '../carry/columns.ts'
import { filled, STILL } from '../carry/flow.ts'
import type { Flow } from '../design/carry.ts'
import {
  columnOf,
  columnsIn,
  isInPrimaryKey,
  keysOf,
  namesIn,
  referencesTo,
  tableOf
} from '../design/directory.ts'
import {
  newId,
  type Column,
  type ColumnId,
  type Design,
  type ForeignKey,
  type Table
} from '../design/model.ts'
import type { Projected, RowQuery } from '../design/row-query.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'
import { freeName, referenceNames } from '../naming/names.ts'
import { isJunction } from '../relate/junction.ts'
import { article, plural } from '../naming/words.ts'
import { answerTo, askWhich, type ChangeOfMind, type OptionQuestion, type ChangeOffer } from './change.ts'
import { leave } from './columns-over.ts'
import { beyondFirst } from './queries.ts'
import { restructure, stuck } from './restructuring.ts'

/**
 * A relationship leads to the wrong table: it goes one further, to what that refers to; or one back, to what refers to
 * that; or it is turned round, so that the other side refers.
 */
export const retarget: ChangeOfMind = (design, { table, foreignKey }) => {
  const target = foreignKey && tableOf(design, foreignKey.table)
  if (!foreignKey || !target || table.external) return []
  // What is part of the key stays until the table goes by something else, which is a change of its own.
  if (foreignKey.pairs.some(({ column }) => isInPrimaryKey(table, column))) return []
  return [
    ...furtherOffers(design, table, target, foreignKey),
    ...nearerOffers(design, table, target, foreignKey),
    ...turnedOffer(design, table, target, foreignKey)
  ]
}

/** Refuses a reference that tells rows apart together with something else: they would not be told apart without it. */
function mustBeFree(child: Table, columns: readonly ColumnId[]): void {
  const key = keysOf(child).find(
    (each) =>
      each.columns.some((id) => columns.includes(id)) && !each.columns.every((id) => columns.includes(id))
  )
  if (key)
    stuck(
      `${namesIn(child, key.columns)} together are unique in ${child.name}, and would not be without ${namesIn(child, columns)}. Take that unique key out first.`
    )
}

/** From which rows to which a reference leads, by the columns of each. */
interface Way {
  rows: RowQuery
  /** Columns of the rows that refer. */
  from: readonly ColumnId[]
  /** In the same order, columns of the same row of `rows` that name the row that it is to refer to. */
  to: readonly ColumnId[]
}

function furtherOffers(design: Design, child: Table, target: Table, foreignKey: ForeignKey): ChangeOffer[] {
  if (target.id === child.id) return []
  return target.foreignKeys.flatMap((next): ChangeOffer[] => {
    const further = tableOf(design, next.table)
    if (!further || further.id === target.id) return []
    return [
      {
        kind: 'further',
        says: `Each ${child.name} refers to ${article(further.name)} ${further.name}, not to the ${target.name} that does.`,
        term: 'a reference moved one table up',
        asks: [],
        operation: () => leadFurther(design, child, target, foreignKey, further, next)
      }
    ]
  })
}

function leadFurther(
  design: Design,
  child: Table,
  target: Table,
  foreignKey: ForeignKey,
  further: Table,
  next: ForeignKey
): Parsed<Operation> {
  const isSure = next.pairs.every(({ column }) => columnOf(target, column)?.required)
  return lead(design, child, foreignKey, further, next.key, isSure, (made) => ({
    there: along(child, foreignKey, made, {
      rows: { kind: 'table', table: target.id },
      from: foreignKey.pairs.map(({ refersTo }) => refersTo),
      to: next.pairs.map(({ column }) => column)
    }),
    back: firstThatLeads(child, target, foreignKey, next, made)
  }))
}

/**
 * What was referred to is kept. A row that came since refers to nothing again, or, where it must refer to something, to
 * the first that leads where it does.
 */
function firstThatLeads(
  child: Table,
  target: Table,
  foreignKey: ForeignKey,
  next: ForeignKey,
  made: ReadonlyMap<ColumnId, Column>
): Flow {
  const old = foreignKey.pairs.map(({ column }) => column)
  const mayBeEmpty = columnsIn(child, old).some(({ required }) => !required)
  if (mayBeEmpty) return STILL
  const per = next.pairs.map(({ column }) => column)
  const by = foreignKey.pairs.map(({ refersTo }) => ({ column: refersTo }))
  const from: RowQuery = { kind: 'first', of: filled({ kind: 'table', table: target.id }, per), per, by }
  return {
    ...STILL,
    fills: [
      {
        table: child.id,
        columns: foreignKey.pairs.map(({ column, refersTo }) => ({ id: column, from: refersTo })),
        from,
        on: next.pairs.map(({ column, refersTo }) => ({ own: made.get(refersTo)?.id ?? '', other: column })),
        partly: true
      }
    ]
  }
}

/** One offer, whichever of the tables in question it is to be: there may be very many. */
function nearerOffers(design: Design, child: Table, target: Table, foreignKey: ForeignKey): ChangeOffer[] {
  const near = referencesTo(design, target.id).filter(
    ({ table, foreignKey: via }) =>
      table.id !== child.id &&
      table.id !== target.id &&
      table.primaryKey !== undefined &&
      via.key === foreignKey.key &&
      !isJunction(table)
  )
  const [first] = near
  if (!first) return []
  const names = near.map(({ table, foreignKey: { pairs } }) => ({
    table: table.name,
    by: namesIn(
      table,
      pairs.map(({ column }) => column)
    )
  }))
  const which: OptionQuestion = {
    id: 'which',
    kind: 'choice',
    asks: `Which table between ${child.name} and ${target.name}`,
    proposed: first.foreignKey.id,
    options: near.map(({ foreignKey: via }, at) => ({
      value: via.id,
      words: `${names[at]?.table}, by its ${names[at]?.by}`
    }))
  }
  const several = askWhich('several', `Where several of them are of one ${target.name}`, 'one')
  const only = near.length === 1 ? first.table.name : undefined
  return [
    {
      kind: 'nearer',
      says: `Each ${child.name} refers to ${only === undefined ? `what refers to its ${target.name}` : `${article(only)} ${only}`}, and so to its ${target.name}.`,
      term: 'a reference moved one table down',
      asks: only === undefined ? [which, several] : [several],
      operation: (answers) => {
        const id = answerTo(which, answers)
        const { table: nearer, foreignKey: via } = near.find((each) => each.foreignKey.id === id) ?? first
        return leadNearer(design, child, target, foreignKey, nearer, via, answerTo(several, answers))
      }
    }
  ]
}

function leadNearer(
  design: Design,
  child: Table,
  target: Table,
  foreignKey: ForeignKey,
  nearer: Table,
  via: ForeignKey,
  several: string
): Parsed<Operation> {
  const key = nearer.primaryKey ?? { id: '', columns: [] }
  if (columnsIn(nearer, key.columns).some(({ type }) => !isComparable(type)))
    return { ok: false, message: `The key of ${nearer.name} gives its rows no order.` }
  const per = via.pairs.map(({ column }) => column)
  const by = key.columns.map((column) => ({
    column,
    ...(several === 'last' && { descending: true as const })
  }))
  const rows = filled({ kind: 'table', table: nearer.id }, per)
  return lead(design, child, foreignKey, nearer, key.id, false, (made) => {
    const to = foreignKey.pairs.map(
      ({ refersTo }) => via.pairs.find((pair) => pair.refersTo === refersTo)?.column ?? ''
    )
    const there = along(child, foreignKey, made, {
      rows: { kind: 'first', of: rows, per, by },
      from: to,
      to: key.columns
    })
    const asked = several === 'none' ? [ambiguous(child, foreignKey, rows, per, by, to, nearer, target)] : []
    return {
      there: { ...there, requires: asked },
      back: {
        ...STILL,
        fills: [
          {
            table: child.id,
            columns: foreignKey.pairs.map(({ column }, at) => ({ id: column, from: to[at] ?? '' })),
            from: { kind: 'table', table: nearer.id },
            on: [...made].map(([other, { id }]) => ({ own: id, other })),
            partly: true
          }
        ]
      }
    }
  })
}

/** Rows that refer to something of which there is more than one. */
function ambiguous(
  child: Table,
  foreignKey: ForeignKey,
  rows: RowQuery,
  per: readonly ColumnId[],
  by: readonly { column: ColumnId }[],
  to: readonly ColumnId[],
  nearer: Table,
  target: Table
): Flow['requires'][number] {
  const more: RowQuery = {
    kind: 'distinct',
    of: {
      kind: 'project',
      of: beyondFirst(rows, per, by),
      columns: to.map((from, at): Projected => ({ id: `j_of_${at}`, from }))
    }
  }
  return {
    query: {
      kind: 'join',
      left: { kind: 'table', table: child.id },
      right: more,
      on: foreignKey.pairs.map(({ column }, at) => ({ left: column, right: `j_of_${at}` })),
      unmatched: 'dropped'
    },
    says: `One ${target.name} has several ${plural(nearer.name)}, and which of them a ${child.name} means nobody has said.`
  }
}

/** The new reference of each row is found by the old one. */
function along(child: Table, foreignKey: ForeignKey, made: ReadonlyMap<ColumnId, Column>, way: Way): Flow {
  return {
    ...STILL,
    fills: [
      {
        table: child.id,
        columns: [...made.values()].map(({ id }, at) => ({ id, from: way.to[at] ?? '' })),
        from: way.rows,
        on: foreignKey.pairs.map(({ column }, at) => ({ own: column, other: way.from[at] ?? '' })),
        partly: true
      }
    ]
  }
}

/** Puts another reference in the place of one. */
function lead(
  design: Design,
  child: Table,
  foreignKey: ForeignKey,
  target: Table,
  keyId: string,
  isSure: boolean,
  flows: (made: ReadonlyMap<ColumnId, Column>) => { there: Flow; back: Flow }
): Parsed<Operation> {
  return restructure(design, `let ${child.name} refer to ${target.name}`, (restructuring) => {
    const old = foreignKey.pairs.map(({ column }) => column)
    mustBeFree(child, old)
    const shared = child.foreignKeys.find(
      (each) => each !== foreignKey && each.pairs.some(({ column }) => old.includes(column))
    )
    if (shared) stuck(`${namesIn(child, old)} make another reference too. Take that out first.`)
    const required = isSure && columnsIn(child, old).every((column) => column.required)
    const made = madeFor(design, child, target, keyId, old, required)
    const { there, back } = flows(made)
    const at = child.columns.findIndex(({ id }) => old.includes(id))
    const on = { table: child.id }
    restructuring.carry(
      there,
      back,
      ...[...made.values()].map((column, n): Operation => ({ kind: 'column.add', ...on, column, at: at + n }))
    )
    leave(restructuring, child.id, old)
    restructuring.do({
      kind: 'foreignKey.add',
      ...on,
      foreignKey: {
        id: newId('f'),
        table: target.id,
        key: keyId,
        pairs: [...made].map(([refersTo, { id }]) => ({ column: id, refersTo })),
        onDelete: required && foreignKey.onDelete === 'SET NULL' ? 'RESTRICT' : foreignKey.onDelete,
        onUpdate: foreignKey.onUpdate,
        ...(foreignKey.verbs && { verbs: foreignKey.verbs })
      }
    })
  })
}

/** Columns that refer to a key, by what they refer to. */
function madeFor(
  design: Design,
  child: Table,
  target: Table,
  keyId: string,
  gone: readonly ColumnId[],
  required: boolean
): Map<ColumnId, Column> {
  const key = [target.primaryKey, ...target.uniques].find((each) => each?.id === keyId)
  const taken = child.columns.map(({ name }) => name)
  const staying = child.columns.filter(({ id }) => !gone.includes(id)).map(({ name }) => name)
  const names = referenceNames({ ...target, primaryKey: key }, child, design.policy, staying)
  const made = new Map<ColumnId, Column>()
  for (const [at, { id, name, type }] of columnsIn(target, key?.columns ?? []).entries()) {
    const free = freeName(names[at] ?? name, taken)
    taken.push(free)
    made.set(id, { id: newId('c'), name: free, type, required })
  }
  return made
}

function turnedOffer(design: Design, child: Table, parent: Table, foreignKey: ForeignKey): ChangeOffer[] {
  if (parent.id === child.id || parent.external || !child.primaryKey) return []
  const several = askWhich(
    'several',
    `Where one ${parent.name} has several ${plural(child.name)}`,
    child.name
  )
  return [
    {
      kind: 'turned round',
      says: `Each ${parent.name} refers to ${article(child.name)} ${child.name}, and not the other way round.`,
      term: 'a relationship turned round',
      asks: [several],
      operation: (answers) => turn(design, child, parent, foreignKey, answerTo(several, answers))
    }
  ]
}

function turn(
  design: Design,
  child: Table,
  parent: Table,
  foreignKey: ForeignKey,
  several: string
): Parsed<Operation> {
  return restructure(design, `let ${parent.name} refer to ${child.name}`, (restructuring) => {
    const key = child.primaryKey ?? stuck(`${child.name} has no key.`)
    if (columnsIn(child, key.columns).some(({ type }) => !isComparable(type)))
      stuck(`The key of ${child.name} gives its rows no order.`)
    const old = foreignKey.pairs.map(({ column }) => column)
    mustBeFree(child, old)
    const made = madeFor(design, parent, child, key.id, [], false)
    const rows = filled({ kind: 'table', table: child.id }, old)
    const by = key.columns.map((column) => ({
      column,
      ...(several === 'last' && { descending: true as const })
    }))
    const first: RowQuery = { kind: 'first', of: rows, per: old, by }
    const says = `One ${parent.name} has several ${plural(child.name)}, and can refer to only one.`
    const there: Flow = {
      ...STILL,
      fills: [
        {
          table: parent.id,
          columns: [...made].map(([from, { id }]) => ({ id, from })),
          from: first,
          on: foreignKey.pairs.map(({ column, refersTo }) => ({ own: refersTo, other: column })),
          partly: true
        }
      ],
      requires: several === 'none' ? [{ query: beyondFirst(rows, old, by), says }] : []
    }
    restructuring.carry(
      there,
      turnedBack(child, parent, foreignKey, made),
      ...[...made.values()].map((column): Operation => ({ kind: 'column.add', table: parent.id, column }))
    )
    leave(restructuring, child.id, old)
    restructuring.do({
      kind: 'foreignKey.add',
      table: parent.id,
      foreignKey: {
        id: newId('f'),
        table: child.id,
        key: key.id,
        pairs: [...made].map(([refersTo, { id }]) => ({ column: id, refersTo })),
        onDelete: 'SET NULL',
        onUpdate: 'CASCADE',
        ...(foreignKey.verbs && { verbs: { child: foreignKey.verbs.parent, parent: foreignKey.verbs.child } })
      }
    })
  })
}

/** The row that a row is referred to by, the first where there are several. */
function turnedBack(
  child: Table,
  parent: Table,
  foreignKey: ForeignKey,
  made: ReadonlyMap<ColumnId, Column>
): Flow {
  const per = [...made.values()].map(({ id }) => id)
  const referred = foreignKey.pairs.map(({ refersTo }) => refersTo)
  const first: RowQuery = {
    kind: 'first',
    of: filled({ kind: 'table', table: parent.id }, per),
    per,
    by: referred.map((column) => ({ column }))
  }
  return {
    ...STILL,
    fills: [
      {
        table: child.id,
        columns: foreignKey.pairs.map(({ column, refersTo }) => ({ id: column, from: refersTo })),
        from: first,
        on: [...made].map(([own, { id }]) => ({ own, other: id })),
        partly: true
      }
    ]
  }
}
