import { nameOfTable, namesIn } from '../../design/directory.ts'
import type { ColumnId, Design, Table } from '../../design/model.ts'
import { junctionsBeside } from '../../restructure/superfluous.ts'
import type { Rule } from '../finding.ts'

/** A direct relationship beside a junction of the same two: the same question has two answers. */
export const directBesideJunction: Rule = {
  name: 'direct relationship beside a junction',
  find: (table, { ask }) =>
    ask(besides, table).map(({ columns, other, junction }) => ({
      severity: 'doubtful' as const,
      column: columns[0] as string,
      message: `${table.name} refers to ${other} by ${namesIn(table, columns)}, and ${junction} relates them too: the same question may have two answers. Change of mind (M) leaves it to ${junction}, with all that is said.`
    }))
}

/** The columns that refer, and the names of the other table and of the junction. */
function besides(design: Design, table: Table): { columns: ColumnId[]; other: string; junction: string }[] {
  return table.foreignKeys.flatMap((foreignKey) => {
    const [junction] = junctionsBeside(design, table, foreignKey)
    const columns = foreignKey.pairs.map(({ column }) => column)
    const other = nameOfTable(design, foreignKey.table)
    return junction ? [{ columns, other, junction: junction.name }] : []
  })
}
