import { once } from 'node:events'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  acknowledgedBefore,
  afterPowerCut,
  buildFaults,
  Folders,
  readTrace,
  run
} from '../../tests/disk/disk.ts'
import { times } from '../../tests/times.ts'
import { openStore } from './open.ts'

const folders = new Folders()
let library = ''
beforeAll(() => {
  library = buildFaults(folders.make('faults'))
})
afterAll(() => folders.remove())

/** The lines that a program says until it ends, or until it is told enough. */
async function lines(
  child: ReturnType<typeof run>,
  until: (line: string) => boolean = () => false
): Promise<string[]> {
  const said: string[] = []
  const ended = once(child, 'exit')
  for await (const line of createInterface({ input: child.stdout as NodeJS.ReadableStream })) {
    said.push(line)
    if (until(line)) child.kill('SIGKILL')
  }
  await ended
  return said
}

/**
 * What a folder holds, held to what was acknowledged: nothing lost, nothing doubled, nothing out of order.
 */
async function holds(folder: string, acknowledged: readonly string[]): Promise<number> {
  const store = await openStore(folder)
  try {
    const designs = await store.list()
    expect(designs.flatMap(({ damage }) => damage ?? [])).toEqual([])
    expect(store.notices).toEqual([])
    let operations = 0
    const ids = new Set(designs.map(({ id }) => id))
    for (const line of acknowledged) expect(ids).toContain(line.split(' ')[0])
    for (const { id } of designs) {
      const log = await store.operationsAfter(id, {
        revision: Math.max(0, ((await store.draft(id))?.revision ?? 0) - 1000)
      })
      if (!Array.isArray(log)) throw new Error('there is no log')
      operations += log.length
      expect(log.map(({ revision }) => revision)).toEqual(log.map((_, at) => (log[0]?.revision ?? 1) + at))
      const kept = new Map(log.map(({ operationId, revision }) => [operationId, revision]))
      expect(kept.size).toBe(log.length)
      for (const line of acknowledged) {
        const [design, revision, operationId = ''] = line.split(' ')
        if (design === id)
          expect([operationId, kept.get(operationId)]).toEqual([operationId, Number(revision)])
      }
    }
    return operations
  } finally {
    await store.close()
  }
}

const operationsIn = (said: readonly string[]): string[] => said.filter((line) => /^d_\w+ \d+ /.test(line))

describe('a program that is killed while it writes', () => {
  it('has lost, doubled or mixed up nothing that it acknowledged', async () => {
    const rounds = times(12)
    let folder = ''
    let acknowledged: string[] = []
    let all = 0
    for (let round = 0; round < rounds; round++) {
      // Killed twenty times over the same designs, and then over new ones: what grows without end is
      // another test's.
      if (round % 20 === 0) [folder, acknowledged] = [folders.make('kill'), []]
      const child = run('writer.ts', [folder, 'Infinity', `r${round}`])
      const enough = 1 + ((round * 7) % 23)
      let heard = 0
      // Killed at once after some acknowledgement, while others are being written.
      const said = operationsIn(await lines(child, (line) => line.startsWith('d_') && ++heard >= enough))
      expect(child.signalCode).toBe('SIGKILL')
      acknowledged.push(...said)
      all += said.length
      if (round % 5 === 4 || round === rounds - 1) await holds(folder, acknowledged)
    }
    expect(all).toBeGreaterThan(rounds * 5)
  })
})

describe('a power cut', () => {
  it('takes away nothing that was acknowledged, whatever of the rest reached the disk, and in whatever order', async () => {
    const folder = folders.make('power')
    const trace = join(folders.make('trace'), 'trace')
    const said = await lines(
      run('writer.ts', [folder, '150'], { LD_PRELOAD: library, FAULT_FOLDER: folder, FAULT_TRACE: trace })
    )
    const changes = readTrace(trace)
    const synced = changes.filter(({ kind }) => kind === 's').length
    expect(operationsIn(acknowledgedBefore(changes, changes.length))).toEqual(operationsIn(said))
    expect(synced).toBeGreaterThan(50)
    const ready = changes.findIndex((change) => change.kind === 'w' && change.path.endsWith('acknowledged'))
    let cut = 0
    let missing = 0
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: ready + 1, max: changes.length }),
        fc.infiniteStream(fc.double({ min: 0, max: 1, maxExcluded: true, noNaN: true })),
        async (before, stream) => {
          const numbers = stream[Symbol.iterator]()
          const found = folders.make('cut')
          afterPowerCut(changes, before, folder, found, () => numbers.next().value as number)
          const acknowledged = operationsIn(acknowledgedBefore(changes, before))
          const operations = await holds(found, acknowledged)
          cut++
          if (operations < said.length) missing++
        }
      ),
      { numRuns: times(12), endOnFailure: true }
    )
    // Most cuts come before the end, so that the test does look at disks that lack something.
    expect(missing).toBeGreaterThan(cut / 2)
  })

  it('would be noticed if it took away what was acknowledged', async () => {
    const folder = folders.make('power')
    const trace = join(folders.make('trace'), 'trace')
    await lines(
      run('writer.ts', [folder, '40'], { LD_PRELOAD: library, FAULT_FOLDER: folder, FAULT_TRACE: trace })
    )
    const changes = readTrace(trace)
    // As a disk that says that it has synced, and has not.
    const lying = changes.filter(({ kind }, at) => kind !== 's' || at < changes.length / 3)
    const found = folders.make('cut')
    afterPowerCut(lying, lying.length, folder, found, () => 0.99)
    await expect(holds(found, operationsIn(acknowledgedBefore(changes, changes.length)))).rejects.toThrow()
  })
})

interface Report {
  at: number
  acknowledged: string[]
  errors: string[]
  opened: boolean
  wentOn: boolean
  found: string[]
  damage: string[]
  notices: string[]
}

describe('a disk that fails', () => {
  it.each([
    ['is full from one write on', 1, 28, 0, 'The disk is full'],
    ['fails at one write', 1, 5, 1, 'The disk reports an error'],
    ['fails to sync once', 2, 5, 1, 'The disk reports an error'],
    ['fails at one read', 3, 5, 1, 'The disk reports an error']
  ])(
    'and %s loses nothing acknowledged, is said in words, and is gone on with when it is well',
    async (_, kind, error, often, words) => {
      const base = folders.make('base')
      const work = folders.make('work')
      const control = join(folders.make('control'), 'control')
      writeFileSync(control, new Uint8Array(20))
      const store = await openStore(base)
      const { design } = await store.create({ name: 'Ward book' })
      await store.submit(design.id, {
        revision: 0,
        operationId: 'operation-0',
        client: 'test',
        operation: { kind: 'design.rename', name: 'Ward ledger' }
      })
      await store.close()
      const child = run(
        'faulty.ts',
        [base, work, control, String(kind), String(error), String(often), '0', String(times(16))],
        { LD_PRELOAD: library, FAULT_FOLDER: work, FAULT_CONTROL: control }
      )
      const reports = (await lines(child)).map((line) => JSON.parse(line) as Report)
      expect(reports).toHaveLength(times(16))
      for (const report of reports) {
        const { acknowledged, found, damage, opened, wentOn, errors } = report
        expect(damage).toEqual([])
        for (const name of acknowledged) expect(found.filter((each) => each === name)).toEqual([name])
        // What was not acknowledged may be there, once; it is never half there.
        expect(new Set(found).size).toBe(found.length)
        if (opened) expect([report.at, wentOn, errors]).toEqual([report.at, true, errors])
        for (const said of errors) expect(said).toMatch(/^(NotKept|Error|CannotOpenStore|Damaged): [A-Z/]/)
      }
      // The fault was met, when opening and when writing, and was called what it is.
      expect(reports.filter(({ errors }) => errors.length > 0).length).toBeGreaterThan(4)
      expect(reports.flatMap(({ errors }) => errors).join('\n')).toContain(words)
    }
  )
})
