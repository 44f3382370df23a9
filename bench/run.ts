import { writeFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { flawsOf } from '../core/design/integrity.ts'
import type { Design } from '../core/design/model.ts'
import { script } from '../core/dialect/dialect.ts'
import { DIALECTS, isProvable } from '../core/dialect/index.ts'
import { apply } from '../core/edit/apply.ts'
import { districts } from '../demo/districts.ts'
import { App } from '../e2e/app.ts'
import { Browser } from '../e2e/browser.ts'
import { openSqlite } from '../server/engine/sqlite.ts'
import { measure, type Spread } from './measure.ts'

/** Benchmarks: each a ratio to a yardstick that is measured in the same run. `--write` puts them into docs/benchmarks.md. */
interface Line { what: string; measured: Spread; yardstick: string; against: Spread }
const lines: Line[] = []

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
lines.push({ what: 'one operation, a rename, on a design of 1,000 tables', measured: large, yardstick: 'the same on 100 tables', against: small })

const engine = await openSqlite()
const statements = DIALECTS.sqlite.create(DIALECTS.sqlite.catalog(thousand).catalog)
const running = await measure(5, async () => {
  if (isProvable(DIALECTS.sqlite)) await DIALECTS.sqlite.engine.reset(engine.query)
  for (const { sql } of statements) await engine.query(sql)
})
await engine.close()
for (const dialect of Object.values(DIALECTS)) {
  const writing = await measure(20, () => script(dialect.create(dialect.catalog(thousand).catalog)))
  lines.push({ what: `writing 1,000 tables for ${dialect.title}`, measured: writing, yardstick: 'SQLite making them', against: running })
}

const app = await App.start({ demo: true })
const browser = await Browser.start()
try {
  const health = await measure(10, async () => { await browser.open(`${app.address}/api/health`) })
  const first = await measure(10, async () => {
    await browser.open(`${app.address}/d/d_fernhollow/bench/t_admission`)
    await browser.see('.sheet')
  })
  lines.push({ what: 'first screen: the bench, from the address to the sheet', measured: first, yardstick: 'the smallest page that this server has', against: health })
} finally {
  await browser.stop()
  await app.stop()
}

const ms = (value: number): string => (value < 10 ? value.toFixed(2) : value.toFixed(0))
const table = [
  '| what | median | 95th percentile | yardstick | its median | ratio |', '|---|---|---|---|---|---|',
  ...lines.map(({ what, measured, yardstick, against }) => `| ${what} | ${ms(measured.median)} ms | ${ms(measured.p95)} ms | ${yardstick} | ${ms(against.median)} ms | ${(measured.median / against.median).toPrecision(2)} |`)
].join('\n')
console.log(table)

if (process.argv.includes('--write')) {
  writeFileSync(new URL('../docs/benchmarks.md', import.meta.url), `# Benchmarks

Each line is a ratio to a yardstick that was measured in the same run, so that a slower or busier machine
tells the same story; the times are there to give the ratios a size.

Repeat them with \`npm run bench\` (it needs the built pages and Chromium: run \`bin/test\` once before);
\`npm run bench -- --write\` writes this page. The large designs are made by \`demo/districts.ts\`.

${table}

Measured on ${new Date().toISOString().slice(0, 10)} with Node ${process.versions.node}, ${cpus().length} cores.
`)
}
