import { readJson } from '../core/design/json.ts'
import { columnOf, fullName, tableOf } from '../core/design/directory.ts'
import type { Design, Row, Table } from '../core/design/model.ts'
import { fits, parseValue } from '../core/design/value.ts'
import { violations } from '../core/design/violations.ts'
import { DIALECTS, isDialect, isProvable } from '../core/dialect/index.ts'
import type { Dialect } from '../core/dialect/dialect.ts'
import { dialectsOf } from '../core/dialect/index.ts'
import { rulebookOf } from '../core/rehearse/rules.ts'
import { rehearse as workOut } from '../core/rehearse/run.ts'
import { runOnEngine, type EngineRun } from '../core/rehearse/on-engine.ts'
import type { Rehearsed, Trial, TrialStatement } from '../core/rehearse/trial.ts'
import { EFFECT_WORDS, sayEffect, sayRefusal, sayRow, tableCalled, tallyOf } from '../core/rehearse/words.ts'
import { openDesign } from './files.ts'
import { CannotDo, type Outcome } from './outcome.ts'
import { passwordFor, type PasswordOptions } from './password.ts'

export interface RehearseOptions extends PasswordOptions {
  delete?: string
  change?: string
  insert?: string
  key?: string
  to?: string
  row?: string
  as?: string
  on?: string
}

/**
 * What a statement would do to the design's rows, step by step; with `on`, the same on a real engine, compared. Status
 * 1 where it is refused, or where the engine does something else.
 */
export async function rehearse(path: string, options: RehearseOptions): Promise<Outcome> {
  const { design } = openDesign(path)
  const dialect = dialectFor(design, options)
  const statement = statementOf(design, options)
  refuseBroken(design)
  const trial: Trial = { statements: [statement], together: true }
  const rehearsed = workOut(design, rulebookOf(design, dialect), trial)
  const run =
    options.on === undefined ? undefined : await onEngine(design, dialect, trial, rehearsed, options)
  return said(design, dialect, rehearsed, run)
}

function dialectFor(design: Design, { as, on }: RehearseOptions): Dialect {
  const name = on ?? as
  if (name !== undefined && !isDialect(name))
    throw new CannotDo(`“${name}” is not one of ${Object.keys(DIALECTS).join(', ')}.`)
  if (on !== undefined && as !== undefined && on !== as)
    throw new CannotDo(`It is worked out for the engine that it runs on: leave --as ${as} out.`)
  const [first] = dialectsOf(design)
  return name === undefined ? (first ?? DIALECTS.postgresql) : DIALECTS[name]
}

/** Rows that break a rule would be refused before anything is tried. */
function refuseBroken(design: Design): void {
  const [first, ...more] = violations(design)
  if (!first) return
  const others = more.length > 0 ? ` (and ${more.length} more: check names them)` : ''
  throw new CannotDo(
    `The design's rows break a rule themselves, so nothing can be tried on them: ${first.message}${others}`
  )
}

function statementOf(design: Design, options: RehearseOptions): TrialStatement {
  const asked = (['delete', 'change', 'insert'] as const).filter((kind) => options[kind] !== undefined)
  const [kind] = asked
  if (kind === undefined || asked.length > 1)
    throw new CannotDo(
      'Say one thing to try: --delete TABLE --key JSON, --change TABLE --key JSON --to JSON, or --insert TABLE --row JSON.'
    )
  const name = options[kind] ?? ''
  const table = tableCalled(design, name)
  if (!table)
    throw new CannotDo(
      `${design.name} has no table called “${name}”. It has: ${design.tables.map((each) => fullName(design, each)).join(', ')}.`
    )
  if (table.external)
    throw new CannotDo(`${table.name} is another system's: what becomes of its rows is not known here.`)
  if (kind === 'insert')
    return { kind, table: table.id, rows: [valuesIn(design, table, options.row, '--row')] }
  const rows = [placeOf(design, table, options.key)]
  if (kind === 'delete') return { kind, table: table.id, rows }
  return { kind: 'update', table: table.id, rows, values: valuesIn(design, table, options.to, '--to') }
}

function jsonIn(text: string | undefined, option: string): unknown {
  if (text === undefined) throw new CannotDo(`${option} is needed.`)
  const json = readJson(text)
  if (!json.ok) throw new CannotDo(`What stands behind ${option} cannot be read: ${json.message}.`)
  return json.value
}

/** Values by the names of columns, read as the columns' types. */
function valuesIn(design: Design, table: Table, text: string | undefined, option: string): Row {
  const json = jsonIn(text, option)
  if (typeof json !== 'object' || json === null || Array.isArray(json))
    throw new CannotDo(`${option} takes values by columns, as in {"${table.columns[0]?.name ?? 'name'}": 1}.`)
  const row: Row = {}
  for (const [name, value] of Object.entries(json)) {
    const column = table.columns.find((each) => each.name === name)
    if (!column) throw new CannotDo(`${table.name} has no column called “${name}”.`)
    if (value !== null && typeof value === 'object')
      throw new CannotDo(`${option} takes one value for ${name}.`)
    if (value === null) row[column.id] = null
    else {
      const parsed = parseValue(String(value), column.type, design.enums)
      if (!parsed.ok) throw new CannotDo(`${table.name}.${name}: ${parsed.message}`)
      row[column.id] = fits(value as Row[string], column.type, design.enums)
        ? (value as Row[string])
        : parsed.value
    }
  }
  return row
}

/** The row with a key: its value, its values in order, or by the names of columns. */
function placeOf(design: Design, table: Table, text: string | undefined): number {
  const key = table.primaryKey?.columns
  if (!key) throw new CannotDo(`${table.name} has no primary key, by which a row could be named.`)
  const names = key.map((id) => columnOf(table, id)?.name ?? '')
  const json = jsonIn(text, '--key')
  const isByName = typeof json === 'object' && json !== null && !Array.isArray(json)
  const list = Array.isArray(json) ? json : [json]
  const named = isByName ? json : Object.fromEntries(names.map((name, at) => [name, list[at] as unknown]))
  const row = valuesIn(design, table, JSON.stringify(named), '--key')
  const missing = names.filter((_, at) => row[key[at] as string] === undefined)
  if (missing.length > 0)
    throw new CannotDo(
      `The key of ${table.name} is ${names.join(', ')}: --key says nothing of ${missing.join(', ')}.`
    )
  const place = table.rows.findIndex((each) =>
    Object.entries(row).every(([id, value]) => String(each[id]) === String(value))
  )
  if (place < 0) throw new CannotDo(`${table.name} has no row with the key ${text}.`)
  return place
}

async function onEngine(
  design: Design,
  dialect: Dialect,
  trial: Trial,
  rehearsed: Rehearsed,
  options: RehearseOptions
): Promise<{ run: EngineRun; title: string }> {
  if (!isProvable(dialect))
    throw new CannotDo(`No ${dialect.title} runs here: it is worked out, and not run.`)
  const { CannotOpen, openEngine } = await import('../server/engine/open.ts')
  const password = await passwordFor(options)
  const engine = await openEngine(dialect, options.url, password).catch((error: unknown) => {
    throw error instanceof CannotOpen ? new CannotDo(error.message) : error
  })
  try {
    return { run: await runOnEngine(design, dialect, engine.query, trial, rehearsed), title: engine.title }
  } finally {
    await engine.close()
  }
}

function said(
  design: Design,
  dialect: Dialect,
  rehearsed: Rehearsed,
  ran: { run: EngineRun; title: string } | undefined
): Outcome {
  const { effects, refusals } = rehearsed
  const name = (id: string): string => tableOf(design, id)?.name ?? id
  const steps = effects.map(
    (effect) => `${'  '.repeat(effect.step + 1)}${sayEffect(design, effects, effect)}`
  )
  const tally = tallyOf(effects).map(
    ({ table, kind, rows }) => `${rows} of ${name(table)} ${EFFECT_WORDS[kind]}`
  )
  const end = refusals.map(
    (refusal) => `Refused: ${sayRefusal(design, rehearsed, refusal)} Everything stays as it was.`
  )
  const engine = ran === undefined ? [] : sayRun(ran.run, ran.title)
  return {
    status: refusals.length === 0 && ran?.run.same !== false ? 0 : 1,
    json: {
      dialect: dialect.name,
      effects: effects.map(({ table, kind, step, before, after, cause }) => ({
        kind,
        step,
        table: name(table),
        row: sayRow(design, table, before ?? after),
        ...(cause && { by: cause.foreignKey })
      })),
      refused: refusals.map((refusal) => ({
        kind: refusal.kind,
        table: name(refusal.table),
        when: refusal.when,
        message: sayRefusal(design, rehearsed, refusal)
      })),
      ...(ran && {
        engine: {
          title: ran.title,
          same: ran.run.same,
          refused: ran.run.refusals.map(({ message }) => message)
        }
      })
    },
    words: [
      `${dialect.title}:`,
      ...steps,
      ...(end.length > 0 ? end : [tally.join(', ') || 'Nothing changes.']),
      ...engine
    ]
  }
}

function sayRun({ same, refusals, differences }: EngineRun, title: string): string[] {
  if (same)
    return [
      `${title} does the same${refusals.length > 0 ? `: ${refusals.map(({ message }) => message).join('; ')}` : '.'}`
    ]
  return [
    `${title} does something else.`,
    ...refusals.map(({ message }) => `  it refused: ${message}`),
    ...differences.map(
      ({ table, missing, unexpected }) => `  ${table}: ${missing} rows missing, ${unexpected} too many`
    )
  ]
}
