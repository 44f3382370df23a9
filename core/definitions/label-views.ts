import { tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { NameGiver } from '../naming/fit.ts'
import { inCase } from '../naming/names.ts'
import { accessorNames } from '../relate/accessors.ts'
import { isJunction } from '../relate/junction.ts'
import { RowNames } from '../rows/called.ts'
import { inSql } from '../rows/in-sql.ts'
import { stateOf } from './made-by.ts'
import { viewScript, viewsOf, type ViewSql } from './view-script.ts'

/** A view of each junction that is read by what people call the rows of its sides. */
export function labelViews(design: Design, anyVersion: Dialect): ViewSql[] {
  const dialect = anyVersion.for(design)
  return viewsOf(design, dialect, 'labels', (table) => {
    if (!isJunction(table) || table.external) return undefined
    const says = `a view of ${table.name} by the labels of what it relates`
    return { select: selectOf(design, dialect, table), says }
  })
}

/** A junction's own columns, and behind them the label of what each of its references leads to. */
function selectOf(design: Design, dialect: Dialect, junction: Table): string {
  const sql = inSql(design, dialect)
  const names = new NameGiver(dialect.facts.nameLimit, dialect.facts.refusedInNames)
  for (const { name } of junction.columns) names.give(name)
  const own = junction.columns.map(({ id }) => sql.column('pair', junction, id))
  const called = new RowNames(design, sql, names)
  const joins = junction.foreignKeys.flatMap((key, at): string[] => {
    const side = tableOf(design, key.table)
    if (!side || side.external) return []
    const alias = `side_${at + 1}`
    const joined = called.joins.length
    called.add(side, alias, 1, `${inCase(accessorNames(design, junction, key).child, 'lower_snake')}_`)
    const on = sql.joined(['pair', junction], [alias, side], key)
    return [`LEFT JOIN ${sql.table(side)} ${alias} ON ${on}`, ...called.joins.slice(joined)]
  })
  return [
    `SELECT ${[...own, ...called.columns].join(',\n  ')}`,
    `FROM ${sql.table(junction)} pair`,
    ...joins
  ].join('\n')
}

/** A script that makes the views of a design's junctions by labels, where its tables are there. */
export function writeLabelViews(design: Design, anyVersion: Dialect, version?: string): string {
  const dialect = anyVersion.for(design)
  const what = `The junctions of ${stateOf({ design: design.name, version })}, read by labels`
  return viewScript(dialect, what, labelViews(design, dialect), 'There is no junction yet.')
}
