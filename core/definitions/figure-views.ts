import { byId } from '../design/by-id.ts'
import { figuresOf } from '../design/figure.ts'
import type { Design, Table } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { nameParts, qualify, schemaOf } from '../dialect/qualified.ts'
import { NameGiver } from '../naming/fit.ts'
import { figuresSelect } from '../rows/figures.ts'
import { comment, ended } from './create-script.ts'

/** A view of a table's rows with their figures. */
export interface FigureView {
  table: Table
  /** As it is said in SQL, with its schema. */
  name: string
  select: string
}

/** The views of a design's figures: one for each table that says any, called as nothing else is. */
export function figureViews(design: Design, anyVersion: Dialect): FigureView[] {
  const dialect = anyVersion.for(design)
  const { catalog } = dialect.catalog(design)
  const known = byId(catalog.tables)
  const giver = new NameGiver(dialect.facts.nameLimit, dialect.facts.refusedInNames)
  for (const { name } of catalog.tables) giver.give(ownName(name), { schema: schemaOf(name) })
  return design.tables.flatMap((table) => {
    const figures = figuresOf(design, table)
    const target = known.get(table.id)
    if (figures.length === 0 || !target) return []
    const schema = schemaOf(target.name)
    const called = giver.give(`${ownName(target.name)}_figures`, { schema })
    const select = figuresSelect(design, anyVersion, table, figures)
    return [{ table, name: dialect.quoteTable(qualify(schema, called)), select }]
  })
}

const ownName = (qualified: string): string => nameParts(qualified).at(-1) ?? qualified

/** The statement that makes a view, which must not be there. */
export const createView = ({ table, name, select }: FigureView): Statement => ({
  sql: `CREATE VIEW ${name} AS\n${select}`,
  says: `make a view of what rows of ${table.name} say`
})

/**
 * A script that makes the views of a design's figures where its tables are there; run again, it makes them anew. They
 * are to be dropped before the tables change, and made again after.
 */
export function writeViews(design: Design, anyVersion: Dialect): string {
  const dialect = anyVersion.for(design)
  const { title, facts, client } = dialect
  const views = figureViews(design, dialect)
  const head = [
    `What rows of ${design.name} say over the rows that refer to them, for ${title} ${facts.oldest} and later`,
    views.length === 0
      ? 'No table says any figure yet.'
      : 'Drop these views before a migration changes their tables, and make them again after it.'
  ]
  const { afterView } = client
  const parts = views.flatMap((view) => {
    const drop = { sql: client.dropIfThere(view.name, 'VIEW'), says: `drop the view of ${view.table.name}` }
    const between = afterView === undefined ? [] : [`${afterView}\n`]
    return [ended([drop], { client }), ...between, ended([createView(view)], { client }), ...between]
  })
  const settings = views.length === 0 ? [] : (client.settings ?? []).map((line) => `${line}\n`)
  return [head.map(comment).join(''), ...settings, ...parts].join('\n')
}
