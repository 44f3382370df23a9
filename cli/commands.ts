import { join } from 'node:path'
import { openFindings } from '../core/check/open.ts'
import { judgeAll } from '../core/rehearse/ruling.ts'
import { writeDesignFile } from '../core/design/file.ts'
import { DIALECTS, isDialect, isProvable, PROVABLE, type Provable } from '../core/dialect/index.ts'
import type { Dialect } from '../core/dialect/dialect.ts'
import { draw, DRAW_OPTIONS, isPicture, PICTURES, type DrawOptions } from './draw.ts'
import { fonts } from './picture.ts'
import { OUTPUTS, outputsOf } from '../core/definitions/outputs.ts'
import { stateWords } from '../core/definitions/state-words.ts'
import { shapeChanges } from '../core/definitions/shape-changes.ts'
import { shapeOf } from '../core/definitions/shape.ts'
import { TYPESCRIPT } from '../core/definitions/typescript-names.ts'
import type { Design } from '../core/design/model.ts'
import { violations } from '../core/design/violations.ts'
import { sayEfforts } from '../core/dialect/effort.ts'
import { compareBeside, compareDesigns } from '../core/version/compare.ts'
import { hindrances } from '../core/version/hindered.ts'
import { chainOf } from '../core/version/chain.ts'
import { planMigration, type MigrationPlan } from '../core/version/plan.ts'
import { proveDesign, proveMigration, sayTrouble } from '../core/version/proof.ts'
import {
  effortsIn,
  migrationScript,
  setAside,
  type WayEnds,
  type Way,
  whyNothing
} from '../core/version/script.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { openDesign, openState, put } from './files.ts'
import { CannotDo, type Outcome } from './outcome.ts'
import { flawOfWritten } from '../core/design/place.ts'
import { inWords, refuseLinks } from './tree.ts'
import { passwordFor, type PasswordOptions } from './password.ts'
import type { Proof } from '../core/version/proof-step.ts'

/** Writes the demo, with its versions, or one of its versions as a design of its own. */
export function demo({ output, version }: { output?: string; version?: string }): Outcome {
  const file = fernhollow()
  let text = writeDesignFile(file.design, file.versions)
  if (version !== undefined) {
    const found = file.versions.find((each) => String(each.number) === version)
    if (!found)
      throw new CannotDo(
        `The demo has no version ${version}; it has ${file.versions.map((each) => each.number).join(' and ')}.`
      )
    text = writeDesignFile(found.design)
  }
  put(text, output)
  return {
    status: 0,
    json: { written: output ?? null },
    words: output ? [`${output}: the demo, ${file.design.name}`] : []
  }
}

/** Writes one output of a design. */
export async function write(
  path: string,
  {
    as,
    output,
    rows = false,
    views = false,
    ...drawn
  }: { as: string; output?: string; rows?: boolean; views?: boolean } & DrawOptions
): Promise<Outcome> {
  const { design, versions } = openDesign(path)
  const found = outputsOf(design).find((each) => each.name === as)
  const title = isPicture(as) ? PICTURES[as] : found?.title
  if (title === undefined)
    throw new CannotDo(
      `There is no output called “${as}”. There are: ${outputs(design)
        .map(([name]) => name)
        .join(', ')}.`
    )
  const isTables = found !== undefined && isDialect(found.name)
  if (rows && !isTables) throw new CannotDo(`${title} is written without rows: leave --rows out.`)
  if (views && !isTables) throw new CannotDo(`${title} has no views of figures: leave --views out.`)
  if (views && rows) throw new CannotDo('Views have no rows of their own: say --rows or --views, not both.')
  if (isPicture(as)) return draw(path, as, output, drawn)
  const drawing = DRAW_OPTIONS.find((option) => drawn[option] !== undefined)
  if (drawing) throw new CannotDo(`${title} is no diagram: leave --${drawing} out.`)
  const version = stateWords(design, versions.at(-1))
  const options = {
    rows,
    views,
    ...(found?.kind === 'page' && { fonts: fonts() }),
    ...(version !== undefined && { version })
  }
  inWords(path, () => {
    if (found?.files && output !== undefined)
      for (const file of found.files(design, options)) {
        const flaw = flawOfWritten(file.path)
        if (flaw !== undefined) throw new CannotDo(`${path}: nothing is written to ${file.path}: ${flaw}.`)
        refuseLinks(output, file.path)
        put(file.text, join(output, file.path))
      }
    else put(found?.write(design, options) ?? '', output)
  })
  return {
    status: 0,
    json: { written: output ?? null, as },
    words: output ? [`${output}: ${title} of ${design.name}`] : []
  }
}

/** The names and titles of all that a design can be written as. */
function outputs(design?: Design): [name: string, title: string][] {
  const texts = (design ? outputsOf(design) : OUTPUTS)
    .filter(({ kind }) => kind !== 'svg')
    .map(({ name, title }): [string, string] => [name, title])
  return [...texts, ...Object.entries(PICTURES)]
}

/** The outputs that there are, by name; of a design with those of its own templates. */
export function listOutputs(path?: string): Outcome {
  const all = outputs(path === undefined ? undefined : openDesign(path).design)
  const width = Math.max(...all.map(([name]) => name.length))
  return {
    status: 0,
    json: all.map(([name, title]) => ({ name, title })),
    words: all.map(([name, title]) => `${name.padEnd(width)} ${title}`)
  }
}

/**
 * What is wrong or doubtful in a design, for the dialects that it is written for or for one. Status 1
 * where an engine would refuse something, or something is wrong.
 */
export function check(path: string, { as }: { as?: string }): Outcome {
  if (as !== undefined && !isDialect(as))
    throw new CannotDo(`“${as}” is not one of ${Object.keys(DIALECTS).join(', ')}.`)
  const { design } = openDesign(path)
  const of = as === undefined ? design : { ...design, dialects: [as] }
  judgeAll(of)
  const findings = openFindings(of)
  const name = (id: string): string => design.tables.find((table) => table.id === id)?.name ?? ''
  const amiss = violations(design)
  const said = [
    ...findings.map(
      (finding) =>
        `${finding.severity}: ${name(finding.table)}: ${finding.message}${finding.fix ? ` (${finding.fix.label})` : ''}`
    ),
    ...amiss.map(({ message }) => `rows: ${message}`)
  ]
  const isWrong = amiss.length > 0 || findings.some((finding) => finding.severity !== 'doubtful')
  return {
    status: isWrong ? 1 : 0,
    json: [
      ...findings.map(({ fix, ...finding }) => ({
        ...finding,
        table: name(finding.table),
        ...(fix && { fix: fix.label })
      })),
      ...amiss.map(({ kind, table, rows, message }) => ({
        rule: `rows: ${kind}`,
        severity: 'wrong',
        table: name(table),
        rows: rows.map((at) => at + 1),
        message
      }))
    ],
    words: said.length === 0 ? [`${design.name}: nothing found`] : said
  }
}

/** Runs a design's SQL on an engine, reads it back, and reports every difference. */
export async function prove(
  path: string,
  { on, ...server }: { on: string } & PasswordOptions
): Promise<Outcome> {
  const dialect = needProvable(on)
  const { design } = openDesign(path)
  return withEngine(dialect, (query) => proveDesign(design, dialect, query), server)
}

async function withEngine(
  dialect: Provable,
  run: (query: Parameters<typeof proveDesign>[2]) => Promise<Proof>,
  server: PasswordOptions = {}
): Promise<Outcome> {
  // Loaded when needed: engines are large, and most commands do without.
  const { CannotOpen, openEngine } = await import('../server/engine/open.ts')
  const password = await passwordFor(server)
  const engine = await openEngine(dialect, server.url, password).catch((error: unknown) => {
    throw error instanceof CannotOpen ? new CannotDo(error.message) : error
  })
  try {
    return sayProof(await run(engine.query), engine.title)
  } finally {
    await engine.close()
  }
}

function sayProof(proof: Proof, title: string): Outcome {
  const steps = proof.steps.map(
    (step) => `  ${step.state === 'good' ? 'good  ' : step.state.padEnd(6)} ${step.name}`
  )
  return {
    status: proof.good ? 0 : 1,
    json: { ...proof, title },
    words: [
      `${title}: ${proof.good ? 'proven' : 'not proven'}`,
      ...steps,
      ...sayTrouble(proof).map((line) => `  ${line}`),
      ...(proof.good ? proof.unproven.map((line) => `  not tried: ${line}`) : [])
    ]
  }
}

/** Writes the migration between two design files into a folder; with `prove`, runs it there and back. */
export async function plan(
  from: string,
  to: string,
  { as, output, prove: wanted }: { as: string; output: string; prove?: boolean }
): Promise<Outcome> {
  const dialect = needDialect(as)
  const provable = wanted ? needProvable(as) : undefined
  const [before, after] = [openState(from), openState(to)]
  const made = planMigration(before.design, after.design, dialect)
  const changes = compareDesigns(before.design, after.design)
  const beside = compareBeside(before.design, after.design)
  const write = (way: Way, ends: WayEnds): void => {
    const text = migrationScript(made, way, ends)
    put(text === '' ? `-- ${whyNothing(changes, dialect)}\n` : text, join(output, `${way}.sql`))
  }
  write('up', { from: before.called, to: after.called })
  write('down', { from: after.called, to: before.called })
  const costsOf = (way: Way): string[] =>
    made[way].length === 0 ? [] : sayEfforts(effortsIn(made, way), dialect.effort)
  const { moves, input } = made.ways.up
  const stopsAt = hindrances(before.design, after.design, moves, input.to)
  const applications = shapeChanges(shapeOf(before.design, TYPESCRIPT), shapeOf(after.design, TYPESCRIPT))
  const json = {
    dialect: dialect.name,
    changes,
    beside,
    applications,
    warnings: made.warnings,
    keepsakes: {
      up: made.keepsakes.up.map((each) => each.name),
      down: made.keepsakes.down.map((each) => each.name)
    },
    costs: { up: costsOf('up'), down: costsOf('down') },
    stopsAt: stopsAt.map(({ message }) => message),
    up: made.up,
    down: made.down
  }
  put(`${JSON.stringify(json, null, 2)}\n`, join(output, 'plan.json'))
  const words = [
    `${output}: up.sql, down.sql and plan.json, for ${dialect.title}`,
    ...(made.up.length === 0 ? [`  ${whyNothing(changes, dialect)}`] : []),
    ...changes.map((change) => `  ${change.sentence}`),
    ...beside.map((change) => `  beside the schema: ${change.sentence}`),
    ...sayWarnings(made),
    ...stopsAt.map(({ message }) => `  of the rows of ${before.called}, up stops at: ${message}`),
    ...costsOf('up').map((sentence) => `  while up runs: ${sentence}`),
    ...applications.map(
      ({ breaks, says }) => `  ${breaks ? 'breaks applications' : 'for applications'}: ${says}`
    ),
    ...sayAside(made, before.design, after.design)
  ]
  if (!provable) return { status: 0, json, words }
  const proof = await withEngine(provable, (query) =>
    proveMigration(before.design, after.design, provable, query)
  )
  return { status: proof.status, json: { ...json, proof: proof.json }, words: [...words, ...proof.words] }
}

/** Writes all versions of a design into a folder, as scripts that look first where a database stands. */
export function planChain(path: string, { as, output }: { as: string; output: string }): Outcome {
  const dialect = needDialect(as)
  const { design, versions } = openDesign(path)
  const last = versions.at(-1)
  if (!last)
    throw new CannotDo(`${path}: ${design.name} has no version yet, so there is no chain. Save one first.`)
  const files = chainOf(versions, dialect)
  for (const file of files) put(file.text, join(output, ...file.path.split('/')))
  const since = [...compareDesigns(last.design, design), ...compareBeside(last.design, design)]
  return {
    status: 0,
    json: {
      dialect: dialect.name,
      versions: versions.map(({ number }) => number),
      files: files.map((file) => file.path),
      since
    },
    words: [
      `${output}: ${versions.length === 1 ? 'version 1' : `versions 1 to ${last.number}`} of ${design.name}, for ${dialect.title}; README.txt says how to run them`,
      ...(since.length === 0
        ? []
        : [
            `  the draft has ${since.length} ${since.length === 1 ? 'change' : 'changes'} since version ${last.number}, which ${since.length === 1 ? 'is' : 'are'} in no version yet, and so not in here`
          ])
    ]
  }
}

const sayWarnings = ({ warnings }: MigrationPlan): string[] => [
  ...warnings.up.map((each) => `  up: ${each.message}`),
  ...warnings.down.map((each) => `  down: ${each.message}`)
]

/** What each way leaves beside the tables, with how many of the design's own rows. */
const sayAside = (plan: MigrationPlan, before: Design, after: Design): string[] =>
  (['up', 'down'] as const).flatMap((way) =>
    setAside(plan, way, way === 'up' ? before : after).map(
      ({ name, says, rows }) => `  ${way}: sets aside ${says} in ${name} (${rows} of the design's own rows)`
    )
  )

const names = (dialects: readonly Dialect[]): string => dialects.map((each) => each.name).join(', ')

function needProvable(name: string): Provable {
  const found = isDialect(name) ? DIALECTS[name] : undefined
  if (!found || !isProvable(found))
    throw new CannotDo(
      found
        ? `No ${found.title} runs here, so nothing can be proven on it. It can be on: ${names(PROVABLE)}.`
        : `“${name}” is not one of ${names(PROVABLE)}.`
    )
  return found
}

function needDialect(name: string): Dialect {
  if (isDialect(name)) return DIALECTS[name]
  throw new CannotDo(`“${name}” is not one of ${names(Object.values(DIALECTS))}.`)
}
