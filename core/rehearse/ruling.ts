import { columnsIn, referencesTo, tableOf } from '../design/directory.ts'
import { valueIn } from '../design/key-text.ts'
import type { Design, Row, RuledStatement, Ruling, Table, TableId, Verdict } from '../design/model.ts'
import { canonicalValue } from '../design/same.ts'
import { listed } from '../design/words.ts'
import type { Parsed } from '../design/type.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { dialectsOf } from '../dialect/index.ts'
import { finish, type Paused } from '../design/paused.ts'
import { once } from '../once.ts'
import { counted } from '../naming/words.ts'
import { rulebookOf } from './rules.ts'
import { rehearsePaused } from './run.ts'
import { soundRows, soundRowsPaused } from './sound-rows.ts'
import type { Rehearsed, Trial, TrialStatement } from './trial.ts'
import { sayRefusal, sayRow, sayTrial } from './words.ts'

/** How a design stands to one of its rulings. */
export interface Judgement {
  ruling: Ruling
  /** Why it cannot be tried at all: what it names is gone. */
  untried?: string
  /** The dialects in which it is broken, and how. */
  broken: { dialect: Dialect; why: string }[]
}

/** A row as a ruling names it: by its key, or by all that it holds. */
export function nameRow(table: Table, row: Row): Row {
  const key = table.primaryKey?.columns ?? table.columns.map(({ id }) => id)
  return Object.fromEntries(key.map((id) => [id, row[id] ?? null]))
}

/** The place of the only row that holds what is named, by the columns that are still there; else none, and why. */
function placeNamed(table: Table, named: Row): Parsed<number> {
  const columns = columnsIn(table, Object.keys(named))
  const wanted = columns.map(({ id, type }) => canonicalValue(named[id], type))
  const places = table.rows.flatMap((row, place) => {
    const holds = columns.every(({ id }, at) => valueIn(table, row, id) === wanted[at])
    return holds ? [place] : []
  })
  const said = Object.values(named).map(String).join(', ')
  if (columns.length === 0)
    return {
      ok: false,
      message: `${table.name} no longer has the columns by which it names a row (${said}).`
    }
  const [place] = places
  if (place === undefined) return { ok: false, message: `There is no ${table.name} ${said} to try it with.` }
  return places.length === 1
    ? { ok: true, value: place }
    : { ok: false, message: `${counted(places.length, table.name)} are ${said}, and it is about one.` }
}

/** A ruling's statements on a design's rows as they are; or what is gone that they name. */
export function trialOf(design: Design, { statements, together, deferring }: Ruling): Parsed<Trial> {
  const tried: TrialStatement[] = []
  for (const statement of statements) {
    const table = tableOf(design, statement.table)
    if (!table) return { ok: false, message: 'A table that it is about is gone.' }
    const columns = new Set(table.columns.map(({ id }) => id))
    const gone = [
      ...(statement.kind === 'insert' ? statement.rows : []),
      ...(statement.kind === 'update' ? [statement.values] : [])
    ].some((values) => Object.keys(values).some((id) => !columns.has(id)))
    if (gone) return { ok: false, message: `${table.name} no longer has a column that it says something of.` }
    if (statement.kind === 'insert') tried.push(statement)
    else {
      const places = statement.rows.map((named) => placeNamed(table, named))
      for (const place of places) if (!place.ok) return place
      const rows = places.flatMap((place) => (place.ok ? [place.value] : []))
      tried.push(
        statement.kind === 'delete'
          ? { kind: 'delete', table: table.id, rows }
          : { kind: 'update', table: table.id, rows, values: statement.values }
      )
    }
  }
  return { ok: true, value: { statements: tried, together, ...(deferring && { deferring }) } }
}

/** Why what a trial came to is not what the ruling says; nothing where it is. */
export function breakOf(design: Design, { verdict }: Ruling, rehearsed: Rehearsed): string | undefined {
  const [refusal] = rehearsed.refusals
  switch (verdict.is) {
    case 'taken':
      return refusal && sayRefusal(design, rehearsed, refusal)
    case 'refused':
      if (!refusal) return `it is taken, with ${counted(rehearsed.effects.length, 'effect')}`
      return verdict.by === undefined || verdict.by === refusal.of || !hasRule(design, verdict.by)
        ? undefined
        : `it is refused by something else: ${sayRefusal(design, rehearsed, refusal)}`
    case 'takes along': {
      if (refusal) return sayRefusal(design, rehearsed, refusal)
      const left = verdict.rows.filter(({ table, row }) => !isDeleted(design, table, row, rehearsed))
      if (left.length === 0) return undefined
      return `${listed(left.slice(0, 3).map((each) => sayNamed(design, each.table, each.row)))}${left.length > 3 ? ` and ${left.length - 3} more` : ''} ${left.length === 1 ? 'stays' : 'stay'}`
    }
  }
}

const hasRule = ({ tables }: Design, id: string): boolean =>
  tables.some(({ primaryKey, ...table }) => {
    const rules = [table.uniques, table.foreignKeys, table.checks, table.indexes, table.columns].flat()
    return primaryKey?.id === id || rules.some((each) => each.id === id)
  })

function isDeleted(design: Design, id: TableId, named: Row, { effects }: Rehearsed): boolean {
  const table = tableOf(design, id)
  const place = table && placeNamed(table, named)
  if (!place?.ok) return false
  return effects.some((each) => each.kind === 'deleted' && each.table === id && each.place === place.value)
}

function sayNamed(design: Design, id: TableId, named: Row): string {
  const table = tableOf(design, id)
  const place = table && placeNamed(table, named)
  if (!table) return 'a row of a table that is gone'
  return place?.ok
    ? `${table.name} “${sayRow(design, id, table.rows[place.value])}”`
    : `${table.name} ${Object.values(named).map(String).join(', ')}`
}

/** What a ruling stands on: the tables that its statements can come to, and those that they lead to. */
function groundOf(design: Design, { statements }: Ruling): Table[] {
  const reached = new Set(statements.map(({ table }) => table))
  for (const id of reached) for (const { table } of referencesTo(design, id)) reached.add(table.id)
  const parents = [...reached].flatMap(
    (id) => tableOf(design, id)?.foreignKeys.map(({ table }) => table) ?? []
  )
  return [...new Set([...reached, ...parents])].flatMap((id) => tableOf(design, id) ?? [])
}

/** What a ruling came to the last time, and what it stood on then. */
const known = once((_: Ruling): { ground: unknown[]; judgement: Judgement | undefined } => ({
  ground: [],
  judgement: undefined
}))

/** How a design stands to a ruling, in each dialect that it is written for; with a stop after each. */
function* judge(whole: Design, ruling: Ruling): Paused<Judgement> {
  const { design } = yield* soundRowsPaused(whole)
  const memory = known(ruling)
  const { enums, policy, oldest } = design
  const ground = [...groundOf(design, ruling), design.dialects.join(), enums, policy, oldest]
  const isSame =
    ground.length === memory.ground.length && ground.every((each, at) => each === memory.ground[at])
  if (memory.judgement && isSame) return memory.judgement
  const judgement = yield* judged(design, ruling)
  memory.ground = ground
  memory.judgement = judgement
  return judgement
}

function* judged(design: Design, ruling: Ruling): Paused<Judgement> {
  const trial = trialOf(design, ruling)
  if (!trial.ok) return { ruling, untried: trial.message, broken: [] }
  const broken: Judgement['broken'] = []
  for (const dialect of dialectsOf(design)) {
    const rehearsed = yield* rehearsePaused(design, rulebookOf(design, dialect), trial.value)
    const why = breakOf(design, ruling, rehearsed)
    if (why !== undefined) broken.push({ dialect, why })
    yield
  }
  return { ruling, broken }
}

const allKnown = new WeakMap<Design, readonly Judgement[]>()
const NONE: readonly Judgement[] = []

/** How a design stands to each of its rulings, with stops. */
export function* judgePaused(design: Design): Paused<readonly Judgement[]> {
  const known = allKnown.get(design)
  if (known) return known
  const all: Judgement[] = []
  for (const ruling of design.rulings ?? []) all.push(yield* judge(design, ruling))
  allKnown.set(design, all)
  return all
}

/** How a design stands to each of its rulings. */
export const judgeAll = (design: Design): readonly Judgement[] =>
  design.rulings === undefined ? NONE : finish(judgePaused(design))

/** With more rows than this, rulings are judged when there is time for it. */
const QUICK = 20_000

const rowCount = once(({ tables }: Design): number =>
  tables.reduce((sum, table) => sum + table.rows.length, 0)
)

/** The same where it is known or takes no time; else nothing yet. */
export const judgedSoon = (design: Design): readonly Judgement[] | undefined =>
  design.rulings === undefined || rowCount(design) <= QUICK ? judgeAll(design) : allKnown.get(design)

/** How a ruling is broken, in words; nothing where it is kept. */
export function sayBroken(design: Design, { untried, broken }: Judgement): string | undefined {
  if (untried !== undefined) return `It cannot be tried: ${untried}`
  const [first] = broken
  if (!first) return undefined
  const isEverywhere = broken.length === dialectsOf(design).length
  const where = isEverywhere ? '' : `On ${listed(broken.map(({ dialect }) => dialect.title))}, `
  const why = isEverywhere ? `${first.why.charAt(0).toUpperCase()}${first.why.slice(1)}` : first.why
  return `${where}${why}${/[.]$/.test(why) ? '' : '.'}`
}

/** The rulings that a change breaks which were kept before it. */
export const newlyBroken = (before: Design, after: Design): Judgement[] => {
  const were = new Set(
    judgeAll(before).flatMap((each) => (sayBroken(before, each) === undefined ? [each.ruling.id] : []))
  )
  return judgeAll(after).filter((each) => were.has(each.ruling.id) && sayBroken(after, each) !== undefined)
}

/** What a ruling has done, as what somebody does: `delete patient “Bramble”`; nothing where it cannot be tried. */
export function sayStatements(whole: Design, ruling: Ruling): string | undefined {
  const { design } = soundRows(whole)
  const trial = trialOf(design, ruling)
  return trial.ok ? trial.value.statements.map((each) => sayTrial(design, each)).join(', then ') : undefined
}

const VERDICTS: Record<Verdict['is'], string> = {
  taken: 'must be taken',
  refused: 'must be refused',
  'takes along': 'must take along'
}

/** What a ruling says must come of it. */
export function sayVerdict(whole: Design, { verdict }: Ruling): string {
  if (verdict.is !== 'takes along') return VERDICTS[verdict.is]
  const { design } = soundRows(whole)
  const named = verdict.rows.slice(0, 2).map(({ table, row }) => sayNamed(design, table, row))
  const more = verdict.rows.length - named.length
  return `${VERDICTS[verdict.is]} ${listed([...named, ...(more > 0 ? [`${more} more`] : [])])}`
}

/** What was tried as a ruling keeps it: rows by what names them. */
export const ruledStatements = (
  design: Design,
  { statements }: Pick<Trial, 'statements'>
): RuledStatement[] =>
  statements.flatMap((statement): RuledStatement[] => {
    const table = tableOf(design, statement.table)
    if (!table) return []
    if (statement.kind === 'insert') return [{ ...statement, rows: [...statement.rows] }]
    const rows = statement.rows.flatMap((place) => {
      const row = table.rows[place]
      return row ? [nameRow(table, row)] : []
    })
    if (rows.length === 0) return []
    return statement.kind === 'delete'
      ? [{ kind: 'delete', table: table.id, rows }]
      : [{ kind: 'update', table: table.id, rows, values: statement.values }]
  })

/** The verdicts that fit what a trial came to, the one that says most first. */
export function fittingVerdicts(design: Design, { effects, refusals }: Rehearsed): Verdict[] {
  const [refusal] = refusals
  if (refusal) {
    const by: Verdict[] = refusal.of === undefined ? [] : [{ is: 'refused', by: refusal.of }]
    return [...by, { is: 'refused' }]
  }
  const along = effects.flatMap(({ kind, cause, table: id, place }) => {
    const table = tableOf(design, id)
    const row = table?.rows[place]
    return kind === 'deleted' && cause && table && row ? [{ table: id, row: nameRow(table, row) }] : []
  })
  return [...(along.length > 0 ? [{ is: 'takes along' as const, rows: along }] : []), { is: 'taken' }]
}
