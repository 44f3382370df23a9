import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { Sequelize } from 'sequelize'
import { afterAll, beforeEach, describe, expect, it } from 'vitest'
import { choices, Maker } from '../../tests/designs.ts'
import { tableOf } from '../../core/design/directory.ts'
import { writeDesignFile } from '../../core/design/file.ts'
import type { Design, Version } from '../../core/design/model.ts'
import { newTable } from '../../core/relate/propose.ts'
import { deltaOf } from '../../core/version/delta.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { openStore, openToRead } from './open.ts'
import type { Store } from './store.ts'
import { times } from '../../tests/times.ts'

const folders: string[] = []
const newFolder = (): string => {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-store-'))
  folders.push(folder)
  return folder
}
afterAll(() => folders.forEach((folder) => rmSync(folder, { recursive: true, force: true })))

let count = 0
const submission = (
  revision: number,
  operation: Parameters<Store['submit']>[1]['operation']
): Parameters<Store['submit']>[1] => ({
  revision,
  operationId: `operation-${count++}`,
  client: 'test',
  operation
})

describe('the store', () => {
  let folder: string
  let store: Store
  beforeEach(async () => {
    folder = newFolder()
    store = await openStore(folder)
    return () => store.close()
  })
  const reopen = async (): Promise<void> => {
    await store.close()
    store = await openStore(folder)
  }

  it('is read from elsewhere as it was at one moment, while it changes', async () => {
    const { design } = await store.create({ name: 'Ward book' })
    let [revision, seen, isOver] = [0, 0, false]
    const write = async (): Promise<void> => {
      while (!isOver)
        await store.submit(
          design.id,
          submission(revision++, { kind: 'design.rename', name: `Ward book ${revision}` })
        )
    }
    const writing = write()
    for (let n = 0; n < 60; n++) {
      const elsewhere = await openToRead(folder)
      const [first, damage] = [await elsewhere.draft(design.id), await elsewhere.check()]
      expect(damage).toBeUndefined()
      expect((await elsewhere.list())[0]).toMatchObject({ revision: first?.revision, damage: undefined })
      seen = Math.max(seen, first?.revision ?? 0)
      await elsewhere.close()
    }
    isOver = true
    await writing
    expect(seen).toBeGreaterThan(20)
    expect(revision).toBeGreaterThan(seen - 1)
  })

  it('has after opening again what it had, however many operations there were, across snapshots', async () => {
    const { design } = await store.create({ name: 'Ward book' })
    for (let n = 0; n < 230; n++)
      await store.submit(
        design.id,
        submission(
          n,
          n % 3 === 0
            ? { kind: 'table.add', table: newTable(`table_${n}`) }
            : { kind: 'design.rename', name: `Ward book ${n}` }
        )
      )
    const before = await store.draft(design.id)
    await reopen()
    const after = await store.draft(design.id)
    expect(after?.revision).toBe(230)
    expect(after && writeDesignFile(after.design)).toBe(before && writeDesignFile(before.design))
    expect((await store.list())[0]).toMatchObject({ name: 'Ward book 229', tables: 77 })
  })

  it('keeps any designs that random clients make at once the same as their log says', async () => {
    await fc.assert(
      fc.asyncProperty(choices(25), choices(25), async (first, second) => {
        const { design } = await store.create({ name: 'Together' })
        const clients = [first, second].map(async (taken, client) => {
          const maker = new Maker()
          for (const choice of taken) {
            const seen = await store.draft(design.id)
            const operation = JSON.parse(
              JSON.stringify(maker.operation(seen?.design ?? design, choice)).replaceAll(
                /_x(\d+)"/g,
                `_${'ab'[client]}$1"`
              )
            ) as Parameters<Store['submit']>[1]['operation']
            await store.submit(design.id, submission(seen?.revision ?? 0, operation))
          }
        })
        await Promise.all(clients)
        const before = await store.draft(design.id)
        const log = await store.operationsAfter(design.id, { revision: 0 })
        if (!Array.isArray(log)) throw new Error('no log')
        expect(log.map((logged) => logged.revision)).toEqual(log.map((_, at) => at + 1))
        await reopen()
        const after = await store.draft(design.id)
        expect(after && writeDesignFile(after.design)).toBe(before && writeDesignFile(before.design))
      }),
      { numRuns: times(12) }
    )
  })

  it('hands nobody more of what came between than can be taken in at once', async () => {
    const { design } = await store.create({ name: 'Ward book' })
    const table = { ...newTable('ward'), id: 't_ward' }
    await store.submit(design.id, submission(0, { kind: 'table.add', table }))
    const column = (n: number): Parameters<typeof store.submit>[1]['operation'] => ({
      kind: 'column.add',
      table: 't_ward',
      column: {
        id: `c_${n}`,
        name: `note_${n}`,
        type: { kind: 'text' },
        required: false,
        default: { kind: 'value', value: 'x'.repeat(900_000) }
      }
    })
    for (let n = 0; n < 12; n++)
      expect(await store.submit(design.id, submission(n + 1, column(n)))).toMatchObject({
        kind: 'taken',
        between: []
      })
    for (const from of [0, 1])
      expect(await store.operationsAfter(design.id, { revision: from })).toBe('behind')
    expect(await store.submit(design.id, submission(1, { kind: 'design.rename', name: 'x' }))).toEqual({
      kind: 'behind'
    })
    // Near enough, it is told, from what is at hand and from the disk.
    for (const from of [5, 10, 13])
      expect(await store.operationsAfter(design.id, { revision: from })).toHaveLength(13 - from)
  })

  it('takes in a whole design file, and a second time as another design', async () => {
    const file = fernhollow()
    const first = await store.create({ file })
    const second = await store.create({ file })
    expect(first.design.id).toBe('d_fernhollow')
    expect(second.design.id).not.toBe(first.design.id)
    expect((await store.versions(second.design.id)).map((version) => version.note)).toEqual(
      file.versions.map((version) => version.note)
    )
    let text = ''
    for await (const part of (await store.file('d_fernhollow')) ?? []) text += part
    expect(text).toBe(writeDesignFile(file.design, file.versions))
  })

  it('changes the note of a version, and the last version alone', async () => {
    const { design } = await store.create({ file: fernhollow() })
    await store.submit(design.id, submission(0, { kind: 'table.rename', table: 't_reason', name: 'cause' }))
    const names = async (number: number): Promise<string[] | undefined> =>
      (await store.version(design.id, number))?.design.tables.map((table) => table.name)
    expect(await store.changeVersion(design.id, 2, { note: 'said otherwise' })).toMatchObject({
      note: 'said otherwise'
    })
    expect(await store.changeVersion(design.id, 3, { revision: 1 })).toBe('past')
    expect(await store.changeVersion(design.id, 4, { revision: 0 })).toBe('stale')
    expect(await store.changeVersion(design.id, 9, { note: 'x' })).toBeUndefined()
    expect(await names(4)).toContain('reason')
    expect(await store.changeVersion(design.id, 4, { revision: 1 })).toMatchObject({
      number: 4,
      note: 'People and pairs'
    })
    expect(await names(4)).toContain('cause')
    expect(await names(3)).toContain('reason')
    expect((await store.versions(design.id)).map(({ note }) => note)).toEqual([
      'Front desk',
      'said otherwise',
      'Wards and pens',
      'People and pairs'
    ])
    await store.close()
    store = await openStore(folder)
    expect(await names(4)).toContain('cause')
  })

  it('saves a version of some of what changed, with what hangs on it, and leaves the rest in the draft', async () => {
    const { design } = await store.create({ file: fernhollow() })
    await store.submit(design.id, submission(0, { kind: 'table.rename', table: 't_reason', name: 'cause' }))
    await store.submit(design.id, submission(1, { kind: 'table.rename', table: 't_ward', name: 'reason' }))
    await store.submit(design.id, submission(2, { kind: 'table.annotate', table: 't_ward', note: 'warm' }))
    const only = ['table t_ward name']
    expect(await store.saveVersion(design.id, { note: '', revision: 2, only })).toBe('stale')
    expect(await store.saveVersion(design.id, { note: '', revision: 3, only: ['table t_no name'] })).toBe(
      'unknown'
    )
    const version = (await store.saveVersion(design.id, { note: 'names', revision: 3, only })) as Version
    const ward = tableOf(version.design, 't_ward')
    expect([version.number, ward?.name, ward?.note]).toEqual([5, 'reason', tableOf(design, 't_ward')?.note])
    const draft = (await store.draft(design.id))?.design as Design
    expect(deltaOf(version.design, draft).map(({ key }) => key)).toContain('table t_ward note')
    await store.close()
    store = await openStore(folder)
    expect((await store.version(design.id, 5))?.design).toEqual(version.design)
  })

  it('saves versions that never change by themselves, and removes a design with all that is its own', async () => {
    const { design } = await store.create({ file: fernhollow() })
    expect(await store.saveVersion(design.id, { note: 'third', revision: 7 })).toBe('stale')
    expect(await store.saveVersion(design.id, { note: 'third', revision: 0 })).toMatchObject({
      number: 5,
      note: 'third'
    })
    await store.submit(design.id, submission(0, { kind: 'table.rename', table: 't_reason', name: 'cause' }))
    expect((await store.version(design.id, 5))?.design.tables.map((table) => table.name)).toContain('reason')
    expect(await store.version(design.id, 9)).toBeUndefined()
    expect(await store.remove(design.id)).toBe(true)
    expect(await store.remove(design.id)).toBe(false)
    expect(await store.draft(design.id)).toBeUndefined()
    expect(await store.submit(design.id, submission(0, { kind: 'design.rename', name: 'x' }))).toBeUndefined()
    expect(await store.versions(design.id)).toEqual([])
  })

  it('refuses data that a newer program has written', async () => {
    await store.close()
    const raw = new Sequelize({
      dialect: 'sqlite',
      storage: join(folder, 'patient-key.sqlite'),
      logging: false
    })
    await raw.query('PRAGMA user_version = 99')
    await raw.close()
    await expect(openStore(folder)).rejects.toThrow('written by a newer Patient Key')
    store = await openStore(newFolder())
  })
})
