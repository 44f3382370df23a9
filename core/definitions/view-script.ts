import type { Table } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { comment, ended } from './create-script.ts'

/** A view of a table's rows. */
export interface View {
  table: Table
  /** As it is said in SQL, with its schema. */
  name: string
  select: string
  /** What it is, in a few words. */
  says: string
}

/** The statement that makes a view, which must not be there. */
export const createView = ({ name, select, says }: View): Statement => ({
  sql: `CREATE VIEW ${name} AS\n${select}`,
  says: `make ${says}`
})

/**
 * A script that makes views where their tables are there; run again, it makes them anew.
 * @param none what is said where there is no view.
 */
export function viewScript(
  { title, facts, client }: Dialect,
  what: string,
  views: readonly View[],
  none: string
): string {
  const head = [
    `${what}, for ${title} ${facts.oldest} and later`,
    views.length === 0
      ? none
      : 'Drop these views before a migration changes their tables, and make them again after it.'
  ]
  const { afterView } = client
  const parts = views.flatMap((view) => {
    const drop = { sql: client.dropIfThere(view.name, 'VIEW'), says: `drop ${view.says}` }
    const between = afterView === undefined ? [] : [`${afterView}\n`]
    return [ended([drop], { client }), ...between, ended([createView(view)], { client }), ...between]
  })
  const settings = views.length === 0 ? [] : (client.settings ?? []).map((line) => `${line}\n`)
  return [head.map(comment).join(''), ...settings, ...parts].join('\n')
}
