import { columnsIn, tableOf } from '../../design/directory.ts'
import { textOfKey } from '../../design/key-text.ts'
import { placesBy } from '../../design/row-index.ts'
import type { Action, Column, ForeignKey, Row, Table } from '../../design/model.ts'
import type { Found, Rule } from '../finding.ts'

/**
 * SET DEFAULT where there is no default, so that it empties; or where the default leads to no row that there is, so that
 * a delete fails (ISO/IEC 9075-2, 11.8: the reference is looked at once it has its default).
 */
export const defaultNowhere: Rule = {
  name: 'default that leads nowhere',
  find: (table, { ask }) =>
    table.foreignKeys.filter(isActing).flatMap((key) => judged(table, key, ask(tableOf, key.table)))
}

const isActing = ({ onDelete, onUpdate }: ForeignKey): boolean =>
  onDelete === 'SET DEFAULT' || onUpdate === 'SET DEFAULT'

function judged(table: Table, key: ForeignKey, parent: Table | undefined): Found[] {
  const own = columnsIn(
    table,
    key.pairs.map(({ column }) => column)
  )
  const bare = own.filter((column) => !column.default)
  const [first] = bare.length > 0 ? bare : own
  if (!first || !parent) return []
  const message = bare.length > 0 ? sayBare(table, parent, bare) : sayLost(table, parent, key, own)
  return message === undefined
    ? []
    : [
        {
          severity: bare.length > 0 ? 'wrong' : 'doubtful',
          column: first.id,
          message,
          fix: refusedInstead(table, key)
        }
      ]
}

function sayBare(table: Table, parent: Table, bare: readonly Column[]): string {
  const names = bare.map(({ name }) => name).join(', ')
  const isHeld = bare.some(({ required }) => required)
  const becomes = isHeld ? 'and may not be empty either: deleting fails' : 'so that it is emptied'
  return `Where the ${parent.name} that it refers to goes, ${names} of ${table.name} is to be set to its default, and has none, ${becomes}.`
}

/** Nothing where a row has the default, or where it is not known which rows there are. */
function sayLost(table: Table, parent: Table, key: ForeignKey, own: readonly Column[]): string | undefined {
  if (parent.external || parent.rows.length === 0) return undefined
  if (own.some((column) => column.default?.kind !== 'value')) return undefined
  const row: Row = Object.fromEntries(
    own.map((column) => [column.id, column.default?.kind === 'value' ? column.default.value : null])
  )
  const its = key.pairs.map(({ refersTo }) => refersTo)
  const text = textOfKey(
    table,
    own.map(({ id }) => id),
    row,
    columnsIn(parent, its)
  )
  if (text === undefined || placesBy(parent, its, text).length > 0) return undefined
  const values = own.map((column) => String(row[column.id])).join(', ')
  return `Where the ${parent.name} that it refers to goes, ${table.name} is to refer to ${values}, and no ${parent.name} has that key: deleting fails.`
}

function refusedInstead(table: Table, key: ForeignKey): NonNullable<Found['fix']> {
  const kept = (action: Action): Action => (action === 'SET DEFAULT' ? 'RESTRICT' : action)
  return {
    label: 'Refuse it instead',
    operation: {
      kind: 'foreignKey.setActions',
      table: table.id,
      foreignKey: key.id,
      onDelete: kept(key.onDelete),
      onUpdate: kept(key.onUpdate)
    }
  }
}
