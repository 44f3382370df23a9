import { createWriteStream, mkdtempSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { emptyDesign, type Version } from '../core/design/model.ts'
import { writeBackup, type BackedUp } from '../core/design/backup.ts'
import { districts } from '../demo/districts.ts'
import { backupOf, judgeBackup, restore } from '../server/store/backup.ts'
import { openStore } from '../server/store/open.ts'

/**
 * How large stores are carried: 2,000 tables with 135 versions, and 10,000 designs. Prints a line for each piece of work:
 * how long, the longest stretch that nothing else was done in, and the most memory by then.
 * Run with `npx tsx bench/many.ts`; in `docs/benchmarks.md` stands what it said.
 */
const delay = monitorEventLoopDelay({ resolution: 1 })
let most = 0
const watch = setInterval(() => (most = Math.max(most, process.memoryUsage().rss)), 20)

async function measured<T>(what: string, work: () => Promise<T>): Promise<T> {
  delay.enable()
  delay.reset()
  const start = performance.now()
  const result = await work()
  const seconds = ((performance.now() - start) / 1000).toFixed(1)
  const stretch = Math.round(delay.max / 1e6)
  console.log(`| ${what} | ${seconds} s | ${stretch} ms | ${Math.round(most / 1e6)} MB |`)
  return result
}

const folder = mkdtempSync(join(tmpdir(), 'patient-key-many-'))
try {
  console.log('| what | time | longest stretch | most memory so far |\n|---|---|---|---|')
  const large = districts(2000)
  const versions = Array.from({ length: 135 }, (_, at): Version => ({
    number: at + 1,
    note: '',
    savedAt: '2026-05-03T07:40:00Z',
    design: {
      ...large,
      tables: large.tables.map((table, place) => (place === at ? { ...table, name: `renamed_${at}` } : table))
    }
  }))
  const [from, to] = [await openStore(join(folder, 'from')), await openStore(join(folder, 'to'))]
  await measured('taking in 2,000 tables with 135 versions', () =>
    from.create({ file: { design: large, versions } })
  )
  const path = join(folder, 'backup')
  await measured('backing them up', () => pipeline(Readable.from(backupOf(from)), createWriteStream(path)))
  console.log(`(the backup has ${(statSync(path).size / 1e6).toFixed(1)} MB)`)
  await measured('judging that backup', () => judgeBackup(path))
  await measured('restoring it', () => restore(to, path))
  await from.close()
  await to.close()

  async function* many(): AsyncGenerator<BackedUp> {
    for (let n = 0; n < 10_000; n++)
      yield {
        design: { ...emptyDesign(`Design ${n}`, `d_n${n}`), tables: districts(4).tables },
        versions: []
      }
  }
  await pipeline(Readable.from(writeBackup(many(), '2026-05-03T07:40:00Z')), createWriteStream(path))
  const store = await openStore(join(folder, 'many'))
  await measured('restoring 10,000 designs', () => restore(store, path))
  await store.close()
  const again = await measured('opening their store', () => openStore(join(folder, 'many')))
  await measured('the first shelf of 10,000 designs', () => again.list())
  await measured('looking at all of them for damage', () => again.check())
  await again.close()
} finally {
  clearInterval(watch)
  rmSync(folder, { recursive: true, force: true })
}
