import { columnsIn } from '../../design/directory.ts'
import type { ForeignKey, Table } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import type { Found, Rule } from '../finding.ts'

/**
 * A reference of several columns of which some may be empty and others not: where one is empty, no engine looks at the
 * others (ISO/IEC 9075-2, 4.19.3, MATCH SIMPLE), and they may hold anything.
 */
export const halfEmptyReference: Rule = {
  name: 'reference that may be half empty',
  find: (table) => table.foreignKeys.flatMap((key) => judged(table, key))
}

function judged(table: Table, key: ForeignKey): Found[] {
  const columns = columnsIn(
    table,
    key.pairs.map(({ column }) => column)
  )
  const open = columns.filter(({ required }) => !required)
  if (open.length === 0 || open.length === columns.length) return []
  const names = open.map(({ name }) => name).join(', ')
  const others = columns.filter(({ required }) => required).map(({ name }) => name)
  const operations = open.map(({ id }): Operation => ({
    kind: 'column.require',
    table: table.id,
    column: id,
    required: true
  }))
  return [
    {
      severity: 'doubtful',
      column: (open[0] as { id: string }).id,
      message: `Where ${names} is empty, nothing holds ${others.join(', ')} to what ${table.name} refers to: engines look at all of them or none.`,
      fix: {
        label: `Require ${names}`,
        operation: { kind: 'batch', label: `require ${names}`, operations }
      }
    }
  ]
}
