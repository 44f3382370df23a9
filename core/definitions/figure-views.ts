import { byId } from '../design/by-id.ts'
import { figuresOf } from '../design/figure.ts'
import type { Design } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { nameParts, qualify, schemaOf } from '../dialect/qualified.ts'
import { NameGiver } from '../naming/fit.ts'
import { figuresSelect } from '../rows/figures.ts'
import { viewScript, type View } from './view-script.ts'

/** The views of a design's figures: one for each table that says any, called as nothing else is. */
export function figureViews(design: Design, anyVersion: Dialect): View[] {
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
    const says = `a view of what rows of ${table.name} say`
    return [{ table, name: dialect.quoteTable(qualify(schema, called)), select, says }]
  })
}

export const ownName = (qualified: string): string => nameParts(qualified).at(-1) ?? qualified

/**
 * A script that makes the views of a design's figures where its tables are there; run again, it makes them anew. They
 * are to be dropped before the tables change, and made again after.
 */
export function writeViews(design: Design, anyVersion: Dialect): string {
  const dialect = anyVersion.for(design)
  const what = `What rows of ${design.name} say over the rows that refer to them`
  return viewScript(dialect, what, figureViews(design, dialect), 'No table says any figure yet.')
}
