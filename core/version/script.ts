import type { Dialect } from '../dialect/dialect.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { ScriptLine } from '../dialect/chain.ts'
import { byId } from '../design/by-id.ts'
import { tableOf } from '../design/directory.ts'
import { effortsOf, sayEfforts, type TableEffort } from '../dialect/effort.ts'
import { sayTable } from '../dialect/qualified.ts'
import type { Design } from '../design/model.ts'
import type { Keepsake } from '../dialect/migration.ts'
import type { DifferenceInWords } from './compare.ts'
import type { MigrationPlan } from './plan.ts'

export type Way = 'up' | 'down'

/** What a way of a migration leads from and to, as a person calls it. */
export interface WayEnds {
  from: string
  to: string
}

/**
 * One way of a migration as a script for the engine's own client: what is to be known before it runs at its
 * head, and each statement under a line that says what it is for. Empty where there is nothing to do.
 */
export function migrationScript(plan: MigrationPlan, way: Way, ends: WayEnds): string {
  if (plan[way].length === 0) return ''
  return scriptOf(headOf(plan, way, ends), statementsOf(plan, way), plan.dialect.client)
}

/** What is to be known of a way before it runs. */
export function headOf(plan: MigrationPlan, way: Way, ends: WayEnds): string[] {
  const { dialect } = plan
  const stops = plan.warnings[way].filter(({ effect }) => effect === 'stops')
  const told = plan.warnings[way].filter(({ effect }) => effect === 'lost' || effect === 'told')
  return [
    `${way}: ${ends.from} to ${ends.to}, for ${dialect.title} ${dialect.facts.oldest} and later`,
    dialect.client.keeps,
    ...(dialect.engine ? [] : [`Worked out, and not run: no ${dialect.title} runs where this was written.`]),
    ...sayEfforts(effortsIn(plan, way), dialect.effort),
    ...saysAside(plan, way),
    ...told.map(({ message }) => message),
    ...(stops.length > 0
      ? ['It stops, and changes nothing more:', ...stops.map(({ message }) => `- ${message}`)]
      : [])
  ]
}

/** Statements as a script for the engine's own client, each under a line that says what it is for. */
export function scriptOf(
  head: readonly string[],
  lines: readonly ScriptLine[],
  client: Dialect['client']
): string {
  return [
    ...head.map(comment),
    ...(client.begin.length > 0 ? ['', ...client.begin] : []),
    ...lines.map((line, at) => said(line, lines[at - 1], client)),
    ''
  ].join('\n')
}

/** What a way costs at each table that was there. */
export function effortsIn(plan: MigrationPlan, way: Way): TableEffort[] {
  const { input, steps } = plan.ways[way]
  return effortsOf(input, steps, plan.dialect.effort)
}

/** What is set aside, in a line. */
function saysAside(plan: MigrationPlan, way: Way): string[] {
  const kept = plan.keepsakes[way]
  if (kept.length === 0) return []
  const tables = byId(plan.ways[way].input.from.tables)
  const said = kept.map((keepsake) => sayKept(keepsake, sayTable(tables.get(keepsake.table)?.name ?? '')))
  return [
    `Sets aside, for ${way === 'up' ? 'down' : 'up'} to put back: ${said.join('; ')}. It is in tables called keepsake_…_${plan.ways[way].id}.`
  ]
}

/** What a script runs: where the engine keeps each statement at once, so that it can be run again. */
export function statementsOf(plan: MigrationPlan, way: Way): Statement[] {
  if (plan[way].length === 0) return []
  return plan.dialect.restart?.(plan.ways, way) ?? plan[way]
}

function said(line: ScriptLine, before: ScriptLine | undefined, client: Dialect['client']): string {
  const { sql, says } = line
  const heading = says === before?.says ? [] : ['', comment(says)]
  return [...heading, line.isForClient ? sql : client.end(sql)].join('\n')
}

/** A name may hold anything but a line break: a comment ends there and nowhere else. */
const comment = (text: string): string => `-- ${text.replaceAll(/[\r\n\u2028\u2029\u0085]/g, ' ')}`

/** What stays set aside after a way, until the other puts it back or a person drops it. */
export interface LeftAside {
  name: string
  says: string
  /** Of the design's own rows, so many. */
  rows: number
}

export function setAside(plan: MigrationPlan, way: Way, from: Design): LeftAside[] {
  return plan.keepsakes[way].map((keepsake) => {
    const table = tableOf(from, keepsake.table)
    return { name: keepsake.name, says: sayKept(keepsake, table?.name ?? ''), rows: table?.rows.length ?? 0 }
  })
}

const sayKept = ({ by, columns }: Keepsake, table: string): string =>
  by === 'table' ? `rows of ${table}` : columns.map(({ name }) => `${table}.${name}`).join(', ')

/** What drops, on purpose, all that either way has set aside. */
export function dropKeepsakes(plan: MigrationPlan): string {
  const { dialect } = plan
  const names = [...plan.keepsakes.up, ...plan.keepsakes.down].map(({ name }) => name)
  const lines = names.map((name) => dialect.client.end(dialect.client.dropIfThere(dialect.quoteTable(name))))
  return names.length === 0
    ? ''
    : [comment('What is dropped here cannot be put back.'), ...dialect.client.begin, ...lines, ''].join('\n')
}

/** Why there is nothing to do. */
export function whyNothing(changes: readonly DifferenceInWords[], dialect: Dialect): string {
  return changes.length === 0
    ? 'Nothing to do: nothing changes in the schema between the two.'
    : `Nothing to do: what changes is nothing that ${dialect.title} holds.`
}
