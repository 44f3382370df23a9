import { byId } from '../design/by-id.ts'
import type { Design, Table } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { nameParts, qualify, schemaOf } from '../dialect/qualified.ts'
import { NameGiver } from '../naming/fit.ts'
import { comment, ended } from './create-script.ts'

/** A view of a table's rows. */
export interface ViewSql {
  table: Table
  /** As it is said in SQL, with its schema. */
  name: string
  select: string
  /** What it is, in a few words. */
  says: string
}

/**
 * Views of a design's tables, each called as its table with a word behind it, and as nothing else is.
 * @param viewOf what is selected for a table, and what that is in a few words; nothing where it has no view.
 */
export function viewsOf(
  design: Design,
  dialect: Dialect,
  word: string,
  viewOf: (table: Table) => Pick<ViewSql, 'select' | 'says'> | undefined
): ViewSql[] {
  const { catalog } = dialect.catalog(design)
  const known = byId(catalog.tables)
  const giver = new NameGiver(dialect.facts.nameLimit, dialect.facts.refusedInNames)
  for (const { name } of catalog.tables) giver.give(ownName(name), { schema: schemaOf(name) })
  return design.tables.flatMap((table) => {
    const target = known.get(table.id)
    const view = target && viewOf(table)
    if (!view) return []
    const schema = schemaOf(target.name)
    const called = giver.give(`${ownName(target.name)}_${word}`, { schema })
    return [{ table, name: dialect.quoteTable(qualify(schema, called)), ...view }]
  })
}

const ownName = (qualified: string): string => nameParts(qualified).at(-1) ?? qualified

/** The statement that makes a view, which must not be there. */
export const createView = ({ name, select, says }: ViewSql): Statement => ({
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
  views: readonly ViewSql[],
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
