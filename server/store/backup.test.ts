import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, describe, expect, it } from 'vitest'
import { parseDesignFile, writeDesignFile, type DesignFile } from '../../core/design/file.ts'
import { emptyDesign, type Version } from '../../core/design/model.ts'
import { apply } from '../../core/edit/apply.ts'
import { districts } from '../../demo/districts.ts'
import { choices, Maker } from '../../tests/designs.ts'
import { Folders } from '../../tests/disk/disk.ts'
import { times } from '../../tests/times.ts'
import { backupOf, judgeBackup, restore } from './backup.ts'
import { CannotTake } from './trouble.ts'
import { openStore } from './open.ts'
import type { Store } from './store.ts'

const folders = new Folders()
afterAll(() => folders.remove())

async function saved(store: Store, path: string): Promise<Buffer> {
  let text = ''
  for await (const part of backupOf(store)) text += part
  writeFileSync(path, text)
  return readFileSync(path)
}
async function shows(store: Store): Promise<string[]> {
  const all: string[] = []
  for (const { id } of await store.list()) {
    let text = ''
    for await (const part of (await store.file(id)) ?? []) text += part
    all.push(text)
  }
  return all.sort()
}

/** A design that has grown, with a version now and then. */
function grown(taken: Parameters<Maker['operation']>[1][], id: string): DesignFile {
  const maker = new Maker()
  const versions: Version[] = []
  let design = emptyDesign('Grown', id)
  for (const [at, choice] of taken.entries()) {
    const result = apply(design, maker.operation(design, choice))
    if (result.ok) design = result.design
    if (at % 6 === 5)
      versions.push({ number: versions.length + 1, note: `é ${at}`, savedAt: '2026-05-03T07:40:00Z', design })
  }
  return { design, versions }
}

describe('a backup', () => {
  it('is restored as it was, and cut or changed anywhere it is refused in words and nothing is taken', async () => {
    const seen = { cut: 0, changed: 0, versions: 0 }
    await fc.assert(
      fc.asyncProperty(choices(30), choices(30), fc.nat(), fc.nat(255), async (one, other, at, byte) => {
        const [from, to] = [await openStore(folders.make('from')), await openStore(folders.make('to'))]
        const files = [grown(one, 'd_one'), grown(other, 'd_other')]
        for (const file of files) await from.create({ file })
        seen.versions += files.reduce((sum, { versions }) => sum + versions.length, 0)
        const path = join(folders.make('file'), 'all.json')
        const bytes = await saved(from, path)
        const place = at % bytes.length
        const changed = Buffer.from(bytes)
        changed[place] = byte
        for (const [broken, kind] of [
          [bytes.subarray(0, place), 'cut'],
          [changed, 'changed']
        ] as const) {
          if (broken.equals(bytes) || bytes.toString().trimEnd() === broken.toString().trimEnd()) continue
          writeFileSync(path, broken)
          await expect(judgeBackup(path)).rejects.toThrow(CannotTake)
          seen[kind]++
        }
        writeFileSync(path, bytes)
        await judgeBackup(path)
        expect((await restore(to, path)).came).toHaveLength(2)
        expect(await shows(to)).toEqual(await shows(from))
        expect(await restore(to, path)).toMatchObject({ came: [], beside: [], already: ['Grown', 'Grown'] })
        await from.close()
        await to.close()
      }),
      { numRuns: times(25) }
    )
    expect(Math.min(seen.cut, seen.changed)).toBeGreaterThan(15)
    expect(seen.versions).toBeGreaterThan(50)
  })

  it('of many versions of a large design is as large as what is otherwise in them', async () => {
    const [from, to] = [await openStore(folders.make('from')), await openStore(folders.make('to'))]
    const large = districts(300)
    const versions = Array.from({ length: 40 }, (_, at): Version => ({
      number: at + 1,
      note: '',
      savedAt: '2026-05-03T07:40:00Z',
      design: {
        ...large,
        tables: large.tables.map((table, place) =>
          place === at ? { ...table, name: `renamed_${at}` } : table
        )
      }
    }))
    await from.create({ file: { design: large, versions } })
    const path = join(folders.make('file'), 'all.json')
    const bytes = await saved(from, path)
    expect(bytes.length).toBeLessThan(4 * JSON.stringify(large).length)
    await restore(to, path)
    expect(await shows(to)).toEqual(await shows(from))
    await from.close()
    await to.close()
  })

  it('of the first format is read as well', async () => {
    const store = await openStore(folders.make('first'))
    const path = new URL('../../tests/fixtures/backup-of-1.json', import.meta.url).pathname
    expect((await restore(store, path)).came).toEqual(['Fernhollow Wildlife Hospital', 'Ward book'])
    const { designs } = JSON.parse(readFileSync(path, 'utf8')) as { designs: { file: unknown }[] }
    const files = designs.map(({ file }) => {
      const read = parseDesignFile(file)
      return read.ok ? writeDesignFile(read.value.design, read.value.versions) : expect.fail(read.message)
    })
    expect(await shows(store)).toEqual(files.sort())
    await store.close()
  })
})
