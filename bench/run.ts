import { readFileSync, writeFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { flawsOf } from '../core/design/integrity.ts'
import { emptyDesign, type Design } from '../core/design/model.ts'
import { script } from '../core/dialect/dialect.ts'
import { DIALECTS, isProvable } from '../core/dialect/index.ts'
import { apply } from '../core/edit/apply.ts'
import { districts } from '../demo/districts.ts'
import { App } from '../e2e/app.ts'
import { Browser } from '../e2e/browser.ts'
import { openSqlite } from '../server/engine/sqlite.ts'
import { measure, spread, type Spread } from './measure.ts'
import { planMigration } from '../core/version/plan.ts'
import { benchCascade } from './cascade.ts'
import { benchDrawing } from './drawing.ts'
import { benchGrid } from './grid.ts'
import { benchMinds } from './minds.ts'
import { benchRows } from './rows.ts'
import { operationsPerSecond } from './throughput.ts'

/**
 * Benchmarks: each a ratio to a yardstick that is measured in the same run. `--write` puts them into
 * docs/benchmarks.md.
 */
interface Line {
  what: string
  measured: Spread
  yardstick: string
  against: Spread
}
const lines: Line[] = []
/** Bytes of JavaScript in the page: with an empty design, with 100 tables, with 1,000. */
const heaps: number[] = []

/**
 * Changes the note of the line that the keyboard is at, again and again, and gives the milliseconds of
 * each.
 */
const EDITS = `
  const done = arguments[0];
  (async () => {
    const field = document.activeElement.closest('[role=row]').querySelector('input[data-cell=note]');
    const times = [];
    for (let run = 0; run < 60; run++) {
      field.focus();
      field.value = 'note ' + run;
      field.dispatchEvent(new Event('input', { bubbles: true }));
      await new Promise((resolve) => setTimeout(resolve, 120));
      const start = performance.now();
      field.dispatchEvent(new Event('change', { bubbles: true }));
      await new Promise((resolve) => { const channel = new MessageChannel(); channel.port1.onmessage = resolve; channel.port2.postMessage(0); });
      times.push(performance.now() - start);
    }
    done(times.slice(10));
  })()`
const YARDSTICK = `
  const [text, done] = arguments;
  const times = [];
  for (let run = 0; run < 60; run++) { const start = performance.now(); JSON.parse(text); times.push(performance.now() - start); }
  done(times.slice(10))`

/** Renames a table: a name that must not be doubled is looked up among all of them. */
function oneOperation(design: Design): (run: number) => void {
  let current = design
  const table = design.tables.at(-1)?.id ?? ''
  return (run) => {
    const result = apply(current, { kind: 'table.rename', table, name: `renamed_${run}` })
    if (!result.ok) throw new Error(result.refusal.message)
    current = result.design
  }
}

const [hundred, thousand] = [districts(100), districts(1000)]
for (const design of [hundred, thousand]) {
  const [flaw] = flawsOf(design)
  if (flaw) throw new Error(`${design.name}: ${flaw.message}`)
}
const small = await measure(300, oneOperation(hundred))
const large = await measure(300, oneOperation(thousand))
lines.push({
  what: 'one operation, a rename, on a design of 1,000 tables',
  measured: large,
  yardstick: 'the same on 100 tables',
  against: small
})

const engine = await openSqlite()
const statements = DIALECTS.sqlite.create(DIALECTS.sqlite.catalog(thousand).catalog)
const running = await measure(5, async () => {
  if (isProvable(DIALECTS.sqlite)) await DIALECTS.sqlite.engine.reset(engine.query)
  for (const { sql } of statements) await engine.query(sql)
})
await engine.close()
// What was worked out for a design is kept with it, so each run writes a copy that nothing is known of.
const copies = Array.from({ length: 25 }, () => structuredClone(thousand))
for (const dialect of Object.values(DIALECTS)) {
  const writing = await measure(20, (run) =>
    script(dialect.create(dialect.catalog(copies[run % copies.length] as Design).catalog))
  )
  lines.push({
    what: `writing 1,000 tables for ${dialect.title}`,
    measured: writing,
    yardstick: 'SQLite making them',
    against: running
  })
}

// Planning a migration against writing the SQL of the same tables once, each on a copy that nothing is known of.
const renamed = (design: Design, tables: number): Design => ({
  ...design,
  tables: design.tables.map((table, at) =>
    at < tables
      ? {
          ...table,
          columns: table.columns.map((column, no) =>
            no === 1 ? { ...column, name: `${column.name}_too` } : column
          )
        }
      : table
  )
})
for (const [size, changed] of [
  [100, 1],
  [1000, 1],
  [5000, 1],
  [1000, 1000]
] as const) {
  const design = districts(size)
  const runs = size === 5000 ? 3 : 7
  const fresh = Array.from({ length: runs * 4 }, () => structuredClone(design))
  const next = (): Design => fresh.pop() ?? structuredClone(design)
  const dialect = DIALECTS.postgresql
  const planning = await measure(runs, () => {
    const from = next()
    return planMigration(from, renamed(from, changed), dialect)
  })
  const writing = await measure(runs, () => script(dialect.create(dialect.catalog(next()).catalog)))
  const what =
    changed === 1 ? 'one column renamed' : `a column renamed in each of ${changed.toLocaleString('en-GB')}`
  lines.push({
    what: `planning the migration of ${size.toLocaleString('en-GB')} tables, ${what}`,
    measured: planning,
    yardstick: 'writing their SQL once',
    against: writing
  })
}
const cascade = await benchCascade()
const grid = await benchGrid(3)
const drawing = await benchDrawing()
lines.push(...(await benchMinds()), ...(await benchRows()), ...cascade.lines, ...drawing.lines)

// Each number of designs three times in turn, so that a busy minute of the machine touches all of them.
const writers = [1, 5, 20, 50]
const rates = new Map(writers.map((designs) => [designs, [] as number[]]))
for (let round = 0; round < 3; round++) {
  for (const designs of writers) {
    const server = await new App().start()
    rates.get(designs)?.push(await operationsPerSecond(server, designs))
    await server.stop()
  }
}
const throughput = writers.map((designs) => ({ designs, rate: spread(rates.get(designs) ?? []).median }))

const app = await new App({ demo: true }).start()
const browser = await new Browser().start()
try {
  const health = await measure(10, async () => {
    await browser.open(`${app.address}/api/health`)
  })
  const first = await measure(10, async () => {
    await browser.open(`${app.address}/d/d_fernhollow/bench/t_admission`)
    await browser.see('.sheet')
  })
  await benchEdits()
  lines.push({
    what: 'first screen: the bench, from the address to the sheet',
    measured: first,
    yardstick: 'the smallest page that this server has',
    against: health
  })
} finally {
  await browser.stop()
  await app.stop()
}

/**
 * One edit typed in the ledger, with the SQL strip pulled up: from the moment that the cell is left to the
 * moment that the design, what was found, the lines and the SQL are new and the page is free again.
 */
async function benchEdits(): Promise<void> {
  const spreads: Spread[] = []
  for (const design of [emptyDesign('Nothing yet'), hundred, thousand]) {
    await browser.open(`${await app.put(design)}/ledger/${design.tables[50]?.id ?? ''}`)
    await browser.says('SQL of this table')
    await new Promise((resolve) => setTimeout(resolve, 3000))
    if (design.tables.length > 0) {
      await browser.type('q')
      await browser.see('.strip .cm-line')
      spreads.push(spread(await browser.driver.executeAsyncScript<number[]>(EDITS)))
    }
    heaps.push(await browser.heap())
  }
  const [few, many] = spreads as [Spread, Spread]
  const yardstick = spread(
    await browser.driver.executeAsyncScript<number[]>(YARDSTICK, JSON.stringify(hundred))
  )
  lines.push({
    what: 'one edit in the ledger of 100 tables, with checks and the SQL of its table',
    measured: few,
    yardstick: 'the page reading those 100 tables from JSON',
    against: yardstick
  })
  lines.push({
    what: 'the same in the ledger of 1,000 tables',
    measured: many,
    yardstick: 'the same on 100 tables',
    against: few
  })
}

const ms = (value: number): string => (value < 10 ? value.toFixed(2) : value.toFixed(0))
const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(0)} MB`
const table = [
  '| what | median | 95th percentile | yardstick | its median | ratio |',
  '|---|---|---|---|---|---|',
  ...lines.map(
    ({ what, measured, yardstick, against }) =>
      `| ${what} | ${ms(measured.median)} ms | ${ms(measured.p95)} ms | ${yardstick} | ${ms(against.median)} ms | ${(measured.median / against.median).toPrecision(2)} |`
  )
].join('\n')
const memory = `Memory of the page (its JavaScript, after the garbage was collected) with the ledger open: ${megabytes(heaps[0] ?? 0)} with nothing in the design, ${megabytes(heaps[1] ?? 0)} with 100 tables, ${megabytes(heaps[2] ?? 0)} with 1,000. ${cascade.memory}`
const blocked = [
  'The longest that the page was busy at a stretch (tasks over 50 ms, as the browser tells of them; 0 where there was none; the middle of three rounds) with 100,000 rows of a table in the grid, judged, and held to rulings that reach thousands of them:',
  '',
  '| what is done | longest |',
  '|---|---|',
  ...grid.map(({ what, blocked: longest }) => `| ${what} | ${longest.toFixed(0)} ms |`)
].join('\n')
const oneWriter = throughput[0]?.rate ?? NaN
const written = [
  'Operations that the server acknowledges in a second, each on disk before it is answered, where several designs are written at once, each by one client that waits for its answers:',
  '',
  '| designs written at once | operations a second | ratio to one |',
  '|---|---|---|',
  ...throughput.map(
    ({ designs, rate }) => `| ${designs} | ${rate.toFixed(0)} | ${(rate / oneWriter).toPrecision(2)} |`
  )
].join('\n')
console.log([table, memory, drawing.page, blocked, written].join('\n\n'))

if (process.argv.includes('--write')) {
  writeFileSync(
    new URL('../docs/benchmarks.md', import.meta.url),
    `# Benchmarks

Each line is a ratio to a yardstick that was measured in the same run, so that a slower or busier machine
tells the same story; the times are there to give the ratios a size.

Repeat them with \`npm run bench\` (it needs the built pages and Chromium: run \`bin/test\` once before);
\`npm run bench -- --write\` writes this page. The large designs are made by \`demo/districts.ts\`, those of the
drawings by \`demo/lifelike.ts\`.

${table}

${memory}

${drawing.page}

${blocked}

${written}

Measured on ${new Date().toISOString().slice(0, 10)} with Node ${process.versions.node}, ${cpus().length} cores.

${largeStores()}`
  )
}

/** What bench/many.ts has said stays in the page: it takes minutes, and is run by itself. */
function largeStores(): string {
  const page = readFileSync(new URL('../docs/benchmarks.md', import.meta.url), 'utf8')
  const at = page.indexOf('## Large stores')
  return at < 0 ? '' : page.slice(at)
}
