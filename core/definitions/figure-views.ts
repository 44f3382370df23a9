import { figuresOf } from '../design/figure.ts'
import type { Design } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { figuresSelect } from '../rows/figures.ts'
import { stateOf } from './made-by.ts'
import { viewScript, viewsOf, type ViewSql } from './view-script.ts'

/** The views of a design's figures: one for each table that says any. */
export function figureViews(design: Design, anyVersion: Dialect): ViewSql[] {
  return viewsOf(design, anyVersion.for(design), 'figures', (table) => {
    const figures = figuresOf(design, table)
    if (figures.length === 0) return undefined
    const select = figuresSelect(design, anyVersion, table, figures)
    return { select, says: `a view of what rows of ${table.name} say` }
  })
}

/**
 * A script that makes the views of a design's figures where its tables are there; run again, it makes them anew. They
 * are to be dropped before the tables change, and made again after.
 */
export function writeViews(design: Design, anyVersion: Dialect, version?: string): string {
  const dialect = anyVersion.for(design)
  const what = `What rows of ${stateOf({ design: design.name, version })} say over the rows that refer to them`
  return viewScript(dialect, what, figureViews(design, dialect), 'No table says any figure yet.')
}
