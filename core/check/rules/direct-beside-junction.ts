import { namesIn, referencesTo, tableOf } from '../../design/directory.ts'
import type { Design, ForeignKey, Table } from '../../design/model.ts'
import { junctionSides } from '../../relate/junction.ts'
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
        message: `${table.name} refers to ${other} by ${namesIn(table, columns)}, and ${junction.name} relates them too: the same question may have two answers.`
      }
    })
}

function besides(design: Design, table: Table): { foreignKey: ForeignKey; junction: Table }[] {
  if (table.foreignKeys.length === 0) return []
  const junctions = referencesTo(design, table.id)
    .map((reference) => reference.table)
    .filter((each) => each.id !== table.id && junctionSides(each).length === 2)
  return table.foreignKeys.flatMap((foreignKey) => {
    if (foreignKey.table === table.id) return []
    const junction = junctions.find((each) => {
      const sides = junctionSides(each)
      const ends = sides.map((side) => side.table)
      return sides.length === 2 && ends.includes(table.id) && ends.includes(foreignKey.table)
    })
    return junction ? [{ foreignKey, junction }] : []
  })
}
