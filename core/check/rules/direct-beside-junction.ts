import { namesIn, tableOf } from '../../design/directory.ts'
import type { Design, ForeignKey, Table } from '../../design/model.ts'
import { junctionsBeside } from '../../restructure/superfluous.ts'
import type { Rule } from '../finding.ts'

/** A direct relationship beside a junction of the same two: the same question has two answers. */
export const directBesideJunction: Rule = {
  name: 'direct relationship beside a junction',
  others: (design, table) =>
    besides(design, table)
      .map(({ foreignKey, junction }) => `${foreignKey.id} ${junction.id} ${junction.name}`)
      .join(' '),
  find: (table, { design }) =>
    besides(design, table).map(({ foreignKey, junction }) => {
      const columns = foreignKey.pairs.map(({ column }) => column)
      const other = tableOf(design, foreignKey.table)?.name ?? ''
      return {
        severity: 'doubtful' as const,
        column: columns[0] as string,
        message: `${table.name} refers to ${other} by ${namesIn(table, columns)}, and ${junction.name} relates them too: the same question may have two answers. Change of mind (M) leaves it to ${junction.name}, with all that is said.`
      }
    })
}

function besides(design: Design, table: Table): { foreignKey: ForeignKey; junction: Table }[] {
  return table.foreignKeys.flatMap((foreignKey) => {
    const [junction] = junctionsBeside(design, table, foreignKey)
    return junction ? [{ foreignKey, junction }] : []
  })
}
