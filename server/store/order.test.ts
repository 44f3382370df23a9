import fc, { type Scheduler } from 'fast-check'
import { afterAll, describe, expect, it } from 'vitest'
import { join } from 'node:path'
import { writeDesignFile } from '../../core/design/file.ts'
import { newTable } from '../../core/relate/propose.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { Folders } from '../../tests/disk/disk.ts'
import { times } from '../../tests/times.ts'
import { openStore } from './open.ts'
import { connect, SqliteRecords, type Change, type Records } from './records.ts'
import { Store } from './store.ts'
import { Closing } from './trouble.ts'

const folders = new Folders()
afterAll(() => folders.remove())

/** The records as they are, each call of which waits for its turn before it begins and before it answers. */
function scheduled(records: Records, scheduler: Scheduler): Records {
  const waiting =
    <A extends unknown[], R>(name: string, work: (...given: A) => Promise<R>) =>
    async (...given: A): Promise<R> => {
      await scheduler.schedule(Promise.resolve(), `${name} begins`)
      const answer = await work.apply(records, given)
      await scheduler.schedule(Promise.resolve(), `${name} answers`)
      return answer
    }
  return {
    heads: waiting('heads', records.heads),
    lastNotes: waiting('lastNotes', records.lastNotes),
    head: waiting('head', records.head),
    kept: waiting('kept', records.kept),
    operationsAfter: waiting('operationsAfter', records.operationsAfter),
    lengthAfter: waiting('lengthAfter', records.lengthAfter),
    operation: waiting('operation', records.operation),
    markAt: waiting('markAt', records.markAt),
    versions: waiting('versions', records.versions),
    version: waiting('version', records.version),
    write: waiting('write', records.write),
    close: () => records.close()
  }
}

const ACTIONS = [
  'submit',
  'submit',
  'submit',
  'load',
  'list',
  'version',
  'remove',
  'import',
  'file',
  'stop'
] as const

describe('whatever comes at once, in whatever order the disk answers', () => {
  it('nothing acknowledged is lost, nothing removed comes back, and nothing fails but what came too late', async () => {
    const small = fernhollow().versions[0]?.design ?? expect.fail('no version')
    const file = { design: small, versions: [] }
    const seen = {
      submit: 0,
      load: 0,
      list: 0,
      version: 0,
      remove: 0,
      import: 0,
      file: 0,
      stop: 0,
      removed: 0,
      late: 0
    }
    await fc.assert(
      fc.asyncProperty(
        fc.scheduler(),
        fc.array(fc.tuple(fc.constantFrom(...ACTIONS), fc.nat(1)), { minLength: 4, maxLength: 14 }),
        async (scheduler, actions) => {
          const folder = folders.make('order')
          const before = await openStore(folder)
          const made = [
            (await before.create({ file })).design.id,
            (await before.create({ name: 'Ward book' })).design.id
          ]
          await before.close()
          const database = join(folder, 'patient-key.sqlite')
          const store = new Store(
            scheduled(
              new SqliteRecords(
                await connect(database, 'read'),
                await connect(database, 'write'),
                () => undefined
              ),
              scheduler
            )
          )
          const acknowledged: { id: string; operationId: string }[] = []
          const removed: string[] = []
          const imported: string[] = []
          let stopped: Promise<void> | undefined
          const act = async ([action, which]: (typeof actions)[number], at: number): Promise<void> => {
            const id = made[which] as string
            seen[action]++
            switch (action) {
              case 'submit': {
                const operationId = `operation-${at}`
                const answer = await store.submit(id, {
                  revision: 0,
                  operationId,
                  client: 'test',
                  operation: { kind: 'table.add', table: newTable(`table_${at}`) }
                })
                if (answer?.kind === 'taken') acknowledged.push({ id, operationId })
                return
              }
              case 'load':
                return void (await store.draft(id))
              case 'list':
                return void (await store.list())
              case 'version':
                return void (await store.saveVersion(id, { note: '', revision: 0 }))
              case 'remove':
                if (await store.remove(id)) removed.push(id)
                return
              case 'import':
                return void imported.push((await store.create({ file })).design.id)
              case 'file':
                return void (await store.file(id))
              case 'stop':
                return void (await (stopped ??= store.close()))
            }
          }
          const all = actions.map((action, at) =>
            act(action, at).catch((error: unknown) => {
              expect(error).toBeInstanceOf(Closing)
              seen.late++
            })
          )
          await scheduler.waitFor(Promise.all(all))
          const shown = new Map<string, string>()
          if (!stopped)
            for (const { id } of await scheduler.waitFor(store.list()))
              shown.set(id, writeDesignFile((await scheduler.waitFor(store.draft(id)))?.design ?? small))
          await scheduler.waitFor(stopped ?? store.close())

          const after = await openStore(folder)
          const summaries = await after.list()
          expect(summaries.flatMap(({ damage }) => damage ?? [])).toEqual([])
          const there = new Set(summaries.map(({ id }) => id))
          for (const [id, text] of shown)
            expect(writeDesignFile((await after.draft(id))?.design ?? small)).toBe(text)
          if (!stopped) expect([...there].sort()).toEqual([...shown.keys()].sort())
          expect(new Set(imported).size).toBe(imported.length)
          for (const id of imported) if (!removed.includes(id)) expect(there).toContain(id)
          for (const id of removed) if (!imported.includes(id)) expect(there).not.toContain(id)
          for (const { id, operationId } of acknowledged.filter((each) => !removed.includes(each.id))) {
            const log = await after.operationsAfter(id, { revision: 0 })
            expect(Array.isArray(log) && log.filter((each) => each.operationId === operationId)).toHaveLength(
              1
            )
          }
          seen.removed += removed.length
          await after.close()
        }
      ),
      { numRuns: times(60) }
    )
    expect(Object.entries(seen).filter(([, count]) => count < 5)).toEqual([])
  })
})

describe('changes of many designs at once', () => {
  it('go to disk together, each whole, and one that fails takes no other with it', async () => {
    const folder = folders.make('together')
    await (await openStore(folder)).close()
    const database = join(folder, 'patient-key.sqlite')
    const commits: number[] = []
    const records = new SqliteRecords(
      await connect(database, 'read'),
      await connect(database, 'write'),
      (changes) => commits.push(changes.length)
    )
    const create = (id: string): Change => {
      const head = {
        id,
        name: id,
        revision: 0,
        mark: 'm',
        versions: 0,
        createdAt: '',
        changedAt: '',
        tables: 0
      }
      return {
        kind: 'create',
        head,
        snapshot: { designId: id, revision: 0, mark: 'm', design: '{}', checksum: '' },
        versions: []
      }
    }
    await Promise.all(Array.from({ length: 40 }, (_, n) => records.write(create(`d_${n}`))))
    expect(commits.reduce((sum, count) => sum + count, 0)).toBe(40)
    // One sync for the first and one for all that came while it was written.
    expect(commits.length).toBeLessThan(4)
    const outcomes = await Promise.allSettled([
      records.write(create('d_a')),
      records.write(create('d_7')),
      records.write(create('d_b')),
      records.write(create('d_c'))
    ])
    expect(outcomes.map(({ status }) => status)).toEqual(['fulfilled', 'rejected', 'fulfilled', 'fulfilled'])
    expect((await records.heads()).map(({ id }) => id)).toEqual(expect.arrayContaining(['d_a', 'd_b', 'd_c']))
    await records.close()
  })
})
