import { fork, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { writeDesignFile } from '../core/design/file.ts'
import type { Design } from '../core/design/model.ts'
import { deltaOf } from '../core/version/delta.ts'
import { districts } from '../demo/districts.ts'
import { serve } from '../server/serve.ts'

/**
 * How long a server that holds a design of 5,000 tables does nothing else for one request: each of those that a page or
 * a backup makes, asked for by a process of its own. Prints a line for each: how long the answer took, and the longest
 * stretch in which nobody else was served, each the middle of three rounds.
 * Run with `npx tsx bench/stretches.ts`; in `docs/benchmarks.md` stands what it said.
 */
const TABLES = 5000
const ROUNDS = 3

interface Said {
  name: string
  phase: 'begin' | 'end'
  milliseconds: number
}

/** What a round has measured: milliseconds. */
interface Measured {
  name: string
  took: number
  stretch: number
}

const parent = process as unknown as ChildProcess
const [, , part, ...given] = process.argv
if (part === 'ask') await ask(given[0] ?? '', given[1] ?? '')
else if (part === 'serve') await measure((measured) => parent.send(measured))
else await measureInRounds()

/** Each round has a process of its own, as a server that was just started. */
async function measureInRounds(): Promise<void> {
  const all: Measured[] = []
  for (let round = 0; round < ROUNDS; round++) {
    const serving = fork(import.meta.filename, ['serve'], { execArgv: process.execArgv })
    serving.on('message', (measured: Measured) => all.push(measured))
    await once(serving, 'exit')
  }
  console.log('| what | time | longest stretch |\n|---|---|---|')
  for (const name of new Set(all.map((each) => each.name))) {
    const own = all.filter((each) => each.name === name)
    const took = middle(own.map((each) => each.took))
    const stretch = middle(own.map((each) => each.stretch))
    console.log(`| ${name} | ${took} ms | ${stretch} ms |`)
  }
}

function middle(figures: readonly number[]): number {
  return Math.round([...figures].sort((a, b) => a - b)[Math.floor(figures.length / 2)] ?? 0)
}

async function measure(tell: (measured: Measured) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-stretches-'))
  const file = join(folder, 'design.json')
  const data = join(folder, 'data')
  writeFileSync(file, writeDesignFile(districts(TABLES)))
  const delay = monitorEventLoopDelay({ resolution: 1 })
  delay.enable()
  try {
    const first = await serve({ port: 0, host: '127.0.0.1', data })
    const asking = fork(import.meta.filename, ['ask', first.address, file], { execArgv: process.execArgv })
    asking.on('message', ({ name, phase, milliseconds }: Said) => {
      if (phase === 'begin') delay.reset()
      else tell({ name, took: milliseconds, stretch: delay.max / 1e6 })
      // What the last request left to do is not counted with the next.
      setTimeout(() => asking.send('go on'), 50)
    })
    await once(asking, 'exit')
    await first.stop()
    delay.reset()
    const begun = performance.now()
    const again = await serve({ port: 0, host: '127.0.0.1', data })
    await fetch(`${again.address}api/designs`)
    await new Promise((resolve) => setTimeout(resolve, 3000))
    const name = 'being started on it, and looking for damage'
    tell({ name, took: performance.now() - begun, stretch: delay.max / 1e6 })
    await again.stop()
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  process.exit()
}

/** What is asked of the server, one request after the other. */
async function ask(address: string, file: string): Promise<void> {
  const measured = async <T>(name: string, path: string, init: RequestInit = {}): Promise<T> => {
    const say = async (phase: Said['phase'], milliseconds = 0): Promise<void> => {
      const goOn = once(parent, 'message')
      parent.send({ name, phase, milliseconds } satisfies Said)
      await goOn
    }
    await say('begin')
    const begun = performance.now()
    const answer = await fetch(`${address}api/${path}`, init)
    const text = await answer.text()
    await say('end', performance.now() - begun)
    if (!answer.ok) throw new Error(`${name}: ${text.slice(0, 200)}`)
    return (text === '' ? undefined : JSON.parse(text)) as T
  }
  const headers = { 'Content-Type': 'application/json' }
  const post = (body: string | Uint8Array<ArrayBuffer>): RequestInit => ({ method: 'POST', headers, body })
  const taken = await measured<{ design: Design }>(
    'a design file is taken in',
    'files',
    post(readFileSync(file))
  )
  const { id, tables } = taken.design
  let revision = 0
  const rename = (name: string): RequestInit => {
    const operation = { kind: 'table.rename', table: tables[7]?.id, name }
    return post(
      JSON.stringify({ revision: revision++, operationId: `bench-${name}`, client: 'bench', operation })
    )
  }
  await measured('the shelf', 'designs')
  await measured('the design is opened', `designs/${id}`)
  await measured('a first change', `designs/${id}/operations`, rename('first'))
  for (let n = 0; n < 97; n++) await fetch(`${address}api/designs/${id}/operations`, rename(`renamed_${n}`))
  await measured('another change', `designs/${id}/operations`, rename('another'))
  await measured('the hundredth, with a snapshot', `designs/${id}/operations`, rename('hundredth'))
  await measured('a version is saved', `designs/${id}/versions`, post(JSON.stringify({ note: '', revision })))
  const version = await measured<{ design: Design }>('a version is read', `designs/${id}/versions/1`)
  await measured('a change more', `designs/${id}/operations`, rename('more'))
  const draft = await measured<{ design: Design }>('the design is opened again', `designs/${id}`)
  const only = deltaOf(version.design, draft.design).map(({ key }) => key)
  const some = post(JSON.stringify({ note: '', revision, only }))
  await measured('a version of some of the changes', `designs/${id}/versions`, some)
  await measured('the design as a file', `designs/${id}/file`)
  const backup = await fetch(`${address}api/backup`)
  const all = new Uint8Array(await backup.arrayBuffer())
  await measured('a backup of what is there is restored', 'backup', post(all))
  await measured('the design is removed', `designs/${id}`, { method: 'DELETE', headers })
  await measured('the backup is restored', 'backup', post(all))
  process.exit()
}
