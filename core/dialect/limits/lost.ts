import { columnOf, columnsIn, nameOfTable, tableOf } from '../../design/directory.ts'
import type { ForeignKey, Index } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'
import { refusing } from './refusing.ts'

/** Rules of a design that a dialect has no words for, and what can hold them there instead. */
export const lost: Limit = (asked) => [
  ...asked.table.indexes.flatMap((index) => lostIndex(asked, index)),
  ...asked.table.foreignKeys.flatMap((key) => [
    ...lostActions(asked, key),
    ...lostDeferrable(asked, key),
    ...lostMinimum(asked, key)
  ]),
  ...lostCounting(asked),
  ...lostPolicies(asked)
]

function lostIndex({ table, facts, filters }: LimitContext, index: Index): LimitRemark[] {
  if (index.where === undefined || filters(index.where)) return []
  if (index.everywhere && facts.holdsByColumn) return []
  const names = columnsIn(
    table,
    index.columns.map(({ column }) => column)
  ).map(({ name }) => name)
  const message = `${facts.title} cannot make the index of ${table.name} on ${names.join(', ')} on those rows only: it is made on all of them${index.unique ? ', and is not unique' : ''}.`
  // Indexes on the same columns are told of, and mended, together.
  const isLost = (each: Index): boolean =>
    each.unique === index.unique &&
    each.where !== undefined &&
    !filters(each.where) &&
    !(each.everywhere && facts.holdsByColumn) &&
    sameColumns(each, index)
  const alike = table.indexes.filter(isLost)
  if (alike[0] !== index) return []
  // All that an index on more rows costs is room.
  if (!index.unique) return [{ rule: 'index on some rows', weight: 'doubtful', message }]
  return [
    {
      rule: 'unique in some rows, and lost',
      weight: 'wrong',
      column: index.columns[0]?.column,
      message,
      ...(facts.holdsByColumn && {
        fix: {
          label: 'Hold it there by a computed column',
          operation: {
            kind: 'batch',
            label: `hold what is unique in some rows of ${table.name}`,
            operations: alike.map((each) => ({
              kind: 'index.change' as const,
              table: table.id,
              index: { ...each, everywhere: true as const }
            }))
          }
        }
      })
    }
  ]
}

const sameColumns = (one: Index, other: Index): boolean =>
  one.columns.map(({ column }) => column).join(' ') === other.columns.map(({ column }) => column).join(' ')

function lostActions({ table, made, design, facts }: LimitContext, key: ForeignKey): LimitRemark[] {
  const written = made.foreignKeys.find(({ id }) => id === key.id)
  if (!written) return []
  const [first] = key.pairs
  const lacking = (['delete', 'update'] as const).flatMap((on) => {
    const [wanted, instead] =
      on === 'delete' ? [key.onDelete, written.onDelete] : [key.onUpdate, written.onUpdate]
    const lack = facts.lacks.find((each) => each.action === wanted && each.on.includes(on))
    // Refusing is refusing, at whichever moment.
    const isRefusal = wanted === 'RESTRICT' && instead === 'NO ACTION'
    return lack && !isRefusal ? [{ on, wanted, instead, why: lack.why }] : []
  })
  const [lack] = lacking
  if (!lack) return []
  const parent = tableOf(design, key.table)?.name ?? key.table
  const own = columnsIn(
    table,
    key.pairs.map((pair) => pair.column)
  )
    .map(({ name }) => name)
    .join(', ')
  const said = lacking.map(({ on, wanted, instead }) => `${wanted} on ${on} is written as ${instead}`)
  return [
    {
      rule: 'action that is lost',
      weight: 'doubtful',
      column: first?.column,
      message: `${lack.why} For the reference of ${table.name} to ${parent} by ${own}, ${said.join(', and ')}.`,
      fix: {
        label: 'Refuse it everywhere',
        operation: refusing(
          table.id,
          key,
          lacking.map(({ on }) => on)
        )
      }
    }
  ]
}

/** What is looked at when a transaction ends elsewhere is looked at with each statement. */
function lostDeferrable({ table, design, facts }: LimitContext, key: ForeignKey): LimitRemark[] {
  if (!key.deferrable || facts.deferrable) return []
  const parent = nameOfTable(design, key.table)
  return [
    {
      rule: 'deferrable that is lost',
      weight: 'doubtful',
      column: key.pairs[0]?.column,
      message: `${facts.title} defers nothing: that ${table.name} refers to ${parent} is looked at with each statement there, whatever the transaction does later.`,
      fix: {
        label: 'Look with each statement, everywhere',
        operation: {
          kind: 'foreignKey.setDeferrable',
          table: table.id,
          foreignKey: key.id,
          deferrable: null
        }
      }
    }
  ]
}

/** No key holds a minimum; what is looked at when a transaction ends does. */
function lostMinimum({ table, design, facts }: LimitContext, key: ForeignKey): LimitRemark[] {
  const isOfItself = key.table === table.id
  if (key.atLeastOne !== 'held' || (facts.deferredTriggers && !isOfItself)) return []
  const parent = nameOfTable(design, key.table)
  const why = isOfItself
    ? `Each row of ${table.name} is to have another that refers to it, which only rows in a circle could: nothing holds it.`
    : `${facts.title} has no trigger that waits for the end of a transaction: nothing there holds that each ${parent} has at least one ${table.name}. A query finds those that have none.`
  return [
    {
      rule: 'minimum that nothing holds',
      weight: 'doubtful',
      column: key.pairs[0]?.column,
      message: why,
      fix: {
        label: 'Say it only',
        operation: {
          kind: 'foreignKey.setMinimum',
          table: table.id,
          foreignKey: key.id,
          minimum: 'said'
        }
      }
    }
  ]
}

function lostCounting({ table, made, facts }: LimitContext): LimitRemark[] {
  const wanted = table.columns.filter((column) => column.default?.kind === 'generated')
  const plain = wanted.filter(({ id }) => !made.columns.some((each) => each.id === id && each.generated))
  return plain.map(({ id, name }) => ({
    rule: 'number that is not counted',
    weight: 'wrong',
    column: id,
    message: `${facts.title} counts ${facts.counts}: ${table.name}.${name} is written as a plain number.`,
    fix: {
      label: `Let ${columnOf(table, id)?.name ?? name} be put in`,
      operation: { kind: 'column.setDefault', table: table.id, column: id, default: null }
    }
  }))
}

function lostPolicies({ table, facts }: LimitContext): LimitRemark[] {
  if (facts.rowPolicies || table.rowPolicies.length === 0) return []
  const names = table.rowPolicies.map((each) => each.name).join(', ')
  return [
    {
      rule: 'row policy that is lost',
      weight: 'wrong',
      message: `${facts.title} has no row policies: ${names} on ${table.name} ${table.rowPolicies.length === 1 ? 'is' : 'are'} left out.`
    }
  ]
}
