import type { Design } from '../design/model.ts'
import type { Catalog, Statement } from '../dialect/catalog.ts'
import { script, type Dialect } from '../dialect/dialect.ts'
import { stateOf } from './made-by.ts'
import { insertRows } from '../rows/statements.ts'
import { unfitRows } from '../rows/unfit.ts'

/**
 * A design's definitions in a dialect, as a script that the engine's own client runs as it stands: what the
 * dialect cannot say at its head, then what the script depends on, then all of it, or nothing where the engine
 * can take definitions back. `rows`: with the design's own rows.
 */
export function writeSql(
  design: Design,
  anyVersion: Dialect,
  { rows = false, version }: { rows?: boolean; version?: string } = {}
): string {
  const dialect = anyVersion.for(design)
  const { catalog, remarks } = dialect.catalog(design)
  const own = withoutOthersRows(design)
  const { whole, remember, settings = [] } = dialect.client
  const head = [
    `${stateOf({ design: design.name, version })}, for ${dialect.title} ${dialect.facts.oldest} and later`,
    'Makes everything anew: run where some of it is there already, it stops at the first that is.',
    ...(remember === undefined ? [] : [remember]),
    ...(dialect.engine ? [] : [`Worked out, and not run: no ${dialect.title} runs where this was written.`]),
    ...new Set(remarks.map((remark) => remark.message)),
    ...(rows ? own.tables.flatMap((table) => unfitRows(table, dialect).map(({ message }) => message)) : [])
  ]
  const statements = [...dialect.create(catalog, rows ? insertRows(own, catalog, dialect) : [])]
  const counted = new Map(rows ? own.tables.map((table) => [table.id, table.rows.length]) : [])
  const made = ended(guarded(statements, catalog, counted, dialect), dialect)
  const parts = [
    head.map(comment).join(''),
    settings.map((line) => `${line}\n`).join(''),
    whole && made !== '' ? whole[0].map((sql) => `${sql};\n`).join('') : '',
    made,
    whole && made !== '' ? `${whole[1]};\n` : ''
  ]
  return parts.filter((part) => part !== '').join('\n')
}

/** Another system's tables are never written to. */
const withoutOthersRows = (design: Design): Design => ({
  ...design,
  tables: design.tables.map((table) => (table.external ? { ...table, rows: [] } : table))
})

function guarded(
  statements: Statement[],
  catalog: Catalog,
  rows: ReadonlyMap<string, number>,
  { client }: Dialect
): Statement[] {
  if (!client.guards || statements.length === 0) return statements
  const [first, last] = client.guards(catalog, rows)
  return [...first, ...statements, ...last]
}

/** Each statement with what ends it; what is more than a statement says that itself. */
export function ended(statements: readonly Statement[], { client }: Pick<Dialect, 'client'>): string {
  const isBlock = ({ sql }: Statement): boolean => client.block?.test(sql) ?? false
  if (!statements.some(isBlock)) return script(statements)
  return statements
    .map((each) => (isBlock(each) ? `\n${(client.endBlock ?? client.end)(each.sql)}\n` : script([each])))
    .join('')
}

/** A name may hold anything but a line break: a comment ends there and nowhere else. */
export const comment = (text: string): string => `-- ${text.replaceAll(/[\r\n\u2028\u2029\u0085]/g, ' ')}\n`
