import { byId } from '../design/by-id.ts'
import { tablesRead } from '../design/row-query.ts'
import type { CatalogColumn, CatalogForeignKey, CatalogTable } from './catalog.ts'
import type { MigrationInput } from './migration.ts'
import { sayTable } from './qualified.ts'
import { State } from './state.ts'
import { isKeepStep, isShapeStep, type ConstraintKind, type ShapeStep, type Step } from './step.ts'

/** What is done with the rows of a table: nothing, all are read, or all are written anew. */
export type Work = 'none' | 'reads' | 'writes'
/** Who waits for longer than a moment, as long as the engine says. */
export type Waiting = 'nobody' | 'writers' | 'all'

export interface Effort {
  work: Work
  waits: Waiting
}

/** What steps cost in an engine: facts, each with its source. */
export interface EffortFacts {
  /** Until when others wait, as the end of a sentence. */
  until: string
  /** What others wait for, where that is more than the tables that are touched. */
  everywhere?: string
  /** What changes the shape of a table that was there. */
  shape(step: ShapeStep, table: CatalogTable): Effort
  /** What a table costs that is referred to from now on, or no longer. */
  referred: Effort
  released: Effort
  /** Who waits for a table of which rows are read on purpose before they change, and of which rows change. */
  held: Waiting
  changed: Waiting
  /** Who waits for a table that goes. */
  dropped: Waiting
}

/** What a migration costs at one of the tables that were there, and for what. */
export interface TableEffort extends Effort {
  table: CatalogTable
  why: string[]
}

/** What a way costs at each table that was there and is not left alone. */
export function effortsOf(input: MigrationInput, steps: readonly Step[], facts: EffortFacts): TableEffort[] {
  const known = byId(input.from.tables)
  const found = new Map<string, TableEffort>()
  const state = new State(input.from)
  const note = (id: string, effort: Effort, why?: string): void => {
    const table = known.get(id)
    if (!table || table.external) return
    const before = found.get(id) ?? { table, work: 'none', waits: 'nobody', why: [] }
    const work = heavier(WORK, before.work, effort.work)
    // Only what costs the most is told of.
    const reasons = effort.work === work && work !== 'none' && why !== undefined ? [why] : []
    const told = before.work === work ? before.why : []
    found.set(id, {
      table,
      work,
      waits: heavier(WAITING, before.waits, effort.waits),
      why: [...new Set([...told, ...reasons])]
    })
  }
  for (const step of steps) {
    for (const { table, effort, why } of partsOf(step, state, input, facts)) note(table, effort, why)
    state.take(step)
  }
  return [...found.values()]
}

interface Part {
  table: string
  effort: Effort
  why?: string | undefined
}

function partsOf(step: Step, state: State, input: MigrationInput, facts: EffortFacts): Part[] {
  if (isShapeStep(step)) return shapeParts(step, state, facts)
  if (isKeepStep(step)) return [{ table: step.keepsake.table, ...keptPart(step, facts) }]
  const read = (table: string): Part => ({
    table,
    effort: { work: 'reads', waits: 'nobody' },
    why: 'its rows are carried on'
  })
  const written = (table: string, why: string): Part => ({
    table,
    effort: { work: 'writes', waits: facts.changed },
    why
  })
  switch (step.kind) {
    case 'lock':
      return step.tables.map((table) => ({ table, effort: { work: 'none', waits: facts.held } }))
    case 'stage': {
      const result = input.flow.results.find(({ name }) => name === step.result)
      return result ? tablesRead(result.query).map(read) : []
    }
    case 'require':
      return tablesRead(step.requirement.query).map(read)
    case 'unstage':
      return []
    case 'addRows':
      return [written(step.adding.table, 'it gets rows'), ...tablesRead(step.adding.rows).map(read)]
    case 'fill':
      return [
        written(step.fill.table, `${namesIn(state, step.fill.table, step.fill.columns)} is filled`),
        ...tablesRead(step.fill.from).map(read)
      ]
    case 'clear':
      return [written(step.table, 'all of it is kept, and comes back')]
    case 'number':
      return [written(step.table, `${state.column(step.table, step.column).name} is counted`)]
    case 'fillEmpty':
      return [written(step.table, `${state.column(step.table, step.column).name} is filled`)]
  }
}

const namesIn = (state: State, table: string, columns: readonly { id: string }[]): string =>
  columns.map(({ id }) => state.column(table, id).name).join(', ')

/** What is kept is read; what comes back is looked for, and is nothing the first time. */
function keptPart(step: Step, facts: EffortFacts): { effort: Effort; why?: string } {
  switch (step.kind) {
    case 'keep':
    case 'mark':
    case 'noteNarrowed':
    case 'noteRefilled':
      return { effort: { work: 'reads', waits: 'nobody' }, why: 'what changes is kept aside' }
    case 'putBack':
    case 'takeSurplus':
    case 'putBackRows':
    case 'putBackNarrowed':
    case 'takeBackNarrowed':
    case 'putBackRefilled':
      return { effort: { work: 'reads', waits: facts.changed }, why: 'what was kept of it comes back' }
    default:
      return { effort: { work: 'none', waits: 'nobody' } }
  }
}

function shapeParts(step: ShapeStep, state: State, facts: EffortFacts): Part[] {
  const referred = (key: CatalogForeignKey): Part => ({
    table: key.table,
    effort: facts.referred,
    why: 'a reference to it comes'
  })
  const released = (key: CatalogForeignKey): Part => ({ table: key.table, effort: facts.released })
  if (step.kind === 'dropTable') {
    const own: Part = { table: step.table, effort: { work: 'none', waits: facts.dropped } }
    return [own, ...state.table(step.table).foreignKeys.map(released)]
  }
  if (step.kind === 'makeTable' || !('table' in step) || typeof step.table !== 'string') return []
  const { table } = step
  const own: Part = { table, effort: facts.shape(step, state.table(table)), why: whyOf(step, state) }
  if (step.kind === 'addConstraint' && step.constraint.kind === 'foreignKey')
    return [own, referred(step.constraint.key)]
  if (step.kind === 'dropConstraint' && step.of === 'foreignKey') {
    const gone = byId(state.table(table).foreignKeys).get(step.id)
    return gone ? [own, released(gone)] : [own]
  }
  return [own]
}

const CONSTRAINT: Record<ConstraintKind, string> = {
  primaryKey: 'its primary key',
  unique: 'a key',
  foreignKey: 'a reference',
  check: 'a check',
  index: 'an index',
  trigger: 'a trigger'
}

/** What a step changes, as a reason, where that can be said. */
function whyOf(step: ShapeStep, state: State): string | undefined {
  switch (step.kind) {
    case 'addColumn':
      return `${step.column.name} comes`
    case 'changeColumn':
      return `${step.column.name} changes`
    case 'dropColumn':
      return `${state.column(step.table, step.column).name} goes`
    case 'addConstraint':
      return `${CONSTRAINT[step.constraint.kind]} comes`
    case 'orderColumns':
      return 'its columns are put in order'
    default:
      return undefined
  }
}

const WORK: readonly Work[] = ['none', 'reads', 'writes']
const WAITING: readonly Waiting[] = ['nobody', 'writers', 'all']

const heavier = <T>(order: readonly T[], one: T, other: T): T =>
  order.indexOf(one) > order.indexOf(other) ? one : other

/** Columns whose values stay as they are stored, whatever they are called. */
export const isStoredAlike = (old: CatalogColumn, column: CatalogColumn): boolean =>
  old.type.sql === column.type.sql && old.type.list === column.type.list

/** The sizes in a type as it is written: `decimal(10,2)` is of 10 and 2. */
export const sizesOf = (sql: string): number[] => [...sql.matchAll(/\d+/g)].map(([digits]) => Number(digits))

/**
 * What is to be known of what a way costs, for a person, a sentence each.
 * @param rows how many rows a table has, where that is known
 */
export function sayEfforts(
  efforts: readonly TableEffort[],
  { until, everywhere }: Pick<EffortFacts, 'until' | 'everywhere'>,
  rows: (table: string) => number | undefined = () => undefined
): string[] {
  const heavy = efforts.filter(({ work }) => work !== 'none')
  const rest = heavy.length > 0 ? 'The rest' : 'It'
  return [
    ...sayWaiting(efforts, until, everywhere),
    ...heavy.slice(0, MOST_TOLD).map((each) => sayEffort(each, rows(each.table.id))),
    ...(heavy.length > MOST_TOLD ? [`And so for ${heavy.length - MOST_TOLD} more tables.`] : []),
    `${rest} takes no longer, however many rows there are.`
  ]
}

/** So many tables are told of by name: what changes all of a large design is told in a page. */
const MOST_TOLD = 12

function someOf(names: readonly string[]): string {
  const more = names.length - MOST_TOLD
  return more > 0 ? `${names.slice(0, MOST_TOLD).join(', ')} and ${more} more` : names.join(', ')
}

function sayWaiting(
  efforts: readonly TableEffort[],
  until: string,
  everywhere: string | undefined
): string[] {
  const named = (waits: Waiting): string =>
    someOf(efforts.filter((each) => each.waits === waits).map(({ table }) => sayTable(table.name)))
  const [closed, still] = [named('all'), named('writers')]
  return [
    ...(everywhere === undefined ? [] : [everywhere]),
    ...(closed === '' ? [] : [`Others neither read nor write ${until}: ${closed}.`]),
    ...(still === '' || everywhere !== undefined ? [] : [`Others read and do not write ${until}: ${still}.`])
  ]
}

function sayEffort({ table, work, why }: TableEffort, rows: number | undefined): string {
  const does = work === 'writes' ? 'Writes every row of' : 'Reads every row of'
  const count = rows === undefined ? '' : ` (${rows} here)`
  const reasons = why.length > 0 ? `: ${why.join(', ')}` : ''
  return `${does} ${sayTable(table.name)}${count}${reasons}.`
}
