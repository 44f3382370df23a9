import { columnsIn, nameOfTable, tableOf } from '../../design/directory.ts'
import type { Design, ForeignKey, Table, TableId } from '../../design/model.ts'
import type { Found, Rule } from '../finding.ts'

/**
 * Rows that would be deleted with a row by one way refuse that by another: RESTRICT is looked at first (ISO/IEC 9075-2,
 * 11.8), so that the rule which deletes them never comes to act, but where an engine goes through references one by one.
 */
export const hiddenRule: Rule = {
  name: 'rule behind another',
  find: (table, { ask }) =>
    ask(hidden, table).map(({ key, way }): Found => {
      const parent = ask(nameOfTable, key.table)
      const [own] = columnsIn(
        table,
        key.pairs.map(({ column }) => column)
      )
      const along = way.map((id) => ask(nameOfTable, id)).join(' and ')
      return {
        severity: 'doubtful',
        ...(own && { column: own.id }),
        message: `Deleting a ${parent} would delete its ${table.name} rows too, with its ${along}; but ${own?.name ?? 'a reference'} of ${table.name} refuses it: on most engines at once, on some by which of the two is come to first.`,
        fix: {
          label: 'Delete them here too',
          operation: {
            kind: 'foreignKey.setActions',
            table: table.id,
            foreignKey: key.id,
            onDelete: 'CASCADE',
            onUpdate: key.onUpdate
          }
        }
      }
    })
}

/** References of a table that refuse what another of its references, by a way of deletes, would have taken along. */
function hidden(design: Design, table: Table): { key: ForeignKey; way: TableId[] }[] {
  const deleting = table.foreignKeys.filter(({ onDelete }) => onDelete === 'CASCADE')
  const refusing = table.foreignKeys.filter(({ onDelete }) => onDelete === 'RESTRICT')
  if (deleting.length === 0 || refusing.length === 0) return []
  return refusing.flatMap((key) => {
    for (const { table: through } of deleting) {
      const way = through === key.table ? undefined : wayUp(design, through, key.table)
      if (way) return [{ key, way }]
    }
    return []
  })
}

/** The tables from one up to another that each go with the one above; nothing where there is no such way. */
function wayUp(design: Design, from: TableId, to: TableId): TableId[] | undefined {
  const cameFrom = new Map<TableId, TableId | undefined>([[from, undefined]])
  for (const at of cameFrom.keys()) {
    const above = tableOf(design, at)?.foreignKeys.filter(({ onDelete }) => onDelete === 'CASCADE') ?? []
    if (above.some(({ table }) => table === to)) return wayBack(cameFrom, at)
    for (const { table } of above) if (!cameFrom.has(table)) cameFrom.set(table, at)
  }
  return undefined
}

function wayBack(cameFrom: ReadonlyMap<TableId, TableId | undefined>, end: TableId): TableId[] {
  const way: TableId[] = []
  for (let at: TableId | undefined = end; at !== undefined; at = cameFrom.get(at)) way.push(at)
  return way
}
