import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync
} from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { Sequelize } from 'sequelize'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeDesignFile } from '../../core/design/file.ts'
import { newTable } from '../../core/relate/propose.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { copyFolder, Folders } from '../../tests/disk/disk.ts'
import { times } from '../../tests/times.ts'
import { BackupReading } from '../../core/design/backup.ts'
import { finish } from '../../core/design/paused.ts'
import { readDesignFile } from '../../core/design/file.ts'
import { backupOf } from './backup.ts'
import { openStore, openToRead } from './open.ts'
import type { Store } from './store.ts'
import type { NotWhole } from './tasks.ts'

const folders = new Folders()
afterAll(() => folders.remove())
const DATABASE = 'patient-key.sqlite'
const fixture = (name: string): string => new URL(`./fixtures/${name}`, import.meta.url).pathname

/** A design as a program of an earlier time wrote it, as it is written now. */
function fixtureText(name: string): string {
  const file = readDesignFile(readFileSync(fixture(`${name}.json`), 'utf8'))
  return file.ok ? writeDesignFile(file.value.design, file.value.versions) : expect.fail(file.message)
}

/** What a store shows: every design with its versions as a file, or what is said to be wrong with it. */
async function shows(store: Store): Promise<Map<string, string>> {
  const all = new Map<string, string>()
  for (const { id, damage } of await store.list()) {
    try {
      let text = ''
      if (damage === undefined) for await (const part of (await store.file(id)) ?? []) text += part
      all.set(id, damage === undefined ? text : `damaged: ${damage}`)
    } catch (error) {
      all.set(id, `damaged: ${(error as Error).message}`)
    }
  }
  return all
}

async function sql(folder: string, ...statements: string[]): Promise<void> {
  const raw = new Sequelize({ dialect: 'sqlite', storage: join(folder, DATABASE), logging: false })
  for (const statement of statements) await raw.query(statement)
  await raw.close()
}

/**
 * A folder with the demo and a small design with a log, closed or as a crash leaves it; and what it shows.
 */
async function filled(crashed: boolean): Promise<{ folder: string; before: Map<string, string> }> {
  const folder = folders.make('filled')
  const store = await openStore(folder)
  await store.create({ file: fernhollow() })
  const { design } = await store.create({ name: 'Ward book' })
  for (let n = 0; n < 40; n++)
    await store.submit(design.id, {
      revision: n,
      operationId: `operation-${n}`,
      client: 'test',
      operation: { kind: 'table.add', table: newTable(`table_${n}`) }
    })
  await store.saveVersion(design.id, { note: 'first', revision: 40 })
  const before = await shows(store)
  if (!crashed) {
    await store.close()
    return { folder, before }
  }
  const left = folders.make('crashed')
  for (const name of [DATABASE, `${DATABASE}-wal`, 'heads'])
    copyFileSync(join(folder, name), join(left, name))
  await store.close()
  return { folder: left, before }
}

describe('a store of an earlier format', () => {
  it('opens with the same bytes, and leaves a copy of itself as it was', async () => {
    const folder = folders.make('old')
    copyFileSync(fixture('format-1.sqlite'), join(folder, DATABASE))
    const was = readFileSync(join(folder, DATABASE))
    await expect(openToRead(folder)).rejects.toThrow('kept by an older Patient Key')
    const store = await openStore(folder)
    const now = await shows(store)
    const written = ['fernhollow', 'ward-book'].map(fixtureText)
    expect([...now.values()].sort()).toEqual(written.sort())
    const log = await store.operationsAfter([...now.keys()].find((id) => id !== 'd_fernhollow') ?? '', {
      revision: 1
    })
    expect(Array.isArray(log) && log.map(({ operationId }) => operationId)).toEqual(
      Array.from({ length: 134 }, (_, n) => `operation-${n + 1}`)
    )
    await store.close()
    const [copy = ''] = readdirSync(join(folder, 'backups'))
    expect(copy).toMatch(/^format-1-.*\.sqlite$/)
    const back = folders.make('back')
    copyFileSync(join(folder, 'backups', copy), join(back, DATABASE))
    const again = await openStore(back)
    expect(await shows(again)).toEqual(now)
    await again.close()
    expect(was.equals(readFileSync(fixture('format-1.sqlite')))).toBe(true)
  })

  it('and all that it keeps is for its owner alone', async () => {
    const { folder } = await filled(false)
    const open = readdirSync(folder).filter((name) => (statSync(join(folder, name)).mode & 0o077) !== 0)
    expect(open).toEqual([])
  })
})

describe('a damaged design', () => {
  it.each<[string, string[], RegExp]>([
    [
      'an unknown key in its snapshot',
      [
        'UPDATE snapshot SET design = replace(design, \'{"id"\', \'{"zzz":1,"id"\') WHERE designId <> \'d_fernhollow\''
      ],
      /no longer as it was written/
    ],
    [
      'a change of its log that is not as it was written',
      ["UPDATE operation SET operation = replace(operation, 'table_7', 'table_x') WHERE revision = 8"],
      /damaged after change 7: change 8 is not as it was written/
    ],
    ['a change of its log missing', ['DELETE FROM operation WHERE revision = 20'], /change 20 is missing/],
    [
      'the last changes of its log missing',
      ['DELETE FROM operation WHERE revision > 37'],
      /ends at change 37, and there were 3 more/
    ],
    [
      'two changes in each other’s place',
      [
        'UPDATE operation SET revision = -1 WHERE revision = 5',
        'UPDATE operation SET revision = 5 WHERE revision = 6',
        'UPDATE operation SET revision = 6 WHERE revision = -1'
      ],
      /change 5 is not as it was written/
    ]
  ])('with %s is said, hides no other, and what is sound of it can be had', async (_, statements, words) => {
    const { folder, before } = await filled(false)
    await sql(folder, ...statements)
    const store = await openStore(folder)
    const now = await shows(store)
    expect(now.get('d_fernhollow')).toBe(before.get('d_fernhollow'))
    const [id = '', said = ''] = [...now].find(([each]) => each !== 'd_fernhollow') ?? []
    expect(said).toMatch(words)
    await expect(store.draft(id)).rejects.toThrow('damaged')
    await expect(
      store.submit(id, {
        revision: 40,
        operationId: 'operation-x',
        client: 'test',
        operation: { kind: 'design.rename', name: 'x' }
      })
    ).rejects.toThrow('damaged')
    const sound = await store.soundFile(id)
    expect(sound?.design.name).toBe('Ward book')
    expect(sound?.versions).toHaveLength(1)
    expect(await store.remove(id)).toBe(true)
    expect((await store.list()).map((each) => each.id)).toEqual(['d_fernhollow'])
    await store.close()
  })

  it('with a version missing is said when it is asked for, and by everything that has it in it', async () => {
    const { folder } = await filled(false)
    await sql(folder, "DELETE FROM version WHERE designId = 'd_fernhollow' AND number = 2")
    const store = await openStore(folder)
    await expect(store.version('d_fernhollow', 2)).rejects.toThrow(
      'Version 2 is damaged: it is not there any more.'
    )
    const whole = async (): Promise<void> => {
      for await (const _ of (await store.file('d_fernhollow')) ?? []);
    }
    await expect(whole()).rejects.toThrow('Version 2 is damaged')
    expect(await store.version('d_fernhollow', 9)).toBeUndefined()
    expect(
      (await store.soundFile('d_fernhollow'))?.versions.map(({ number, note }) => [number, note])
    ).toEqual([
      [1, 'Front desk'],
      [2, 'Wards and pens (version 3)'],
      [3, 'People and pairs (version 4)']
    ])
    // A backup has it as far as it is sound, and says that it is not whole.
    const told: NotWhole[] = []
    let text = ''
    for await (const part of backupOf(store, (each) => told.push(each))) text += part
    const reading = new BackupReading()
    const backed: [string, number][] = []
    for (const line of text.trimEnd().split('\n')) {
      const piece = finish(reading.line(line))
      if (!piece.ok) expect.fail(piece.message)
      if (piece.value.kind === 'design') backed.push([piece.value.design.name, 0])
      const last = backed.at(-1)
      if (piece.value.kind === 'version' && last) last[1]++
    }
    expect(reading.flawAtEnd()).toBeUndefined()
    expect(told).toEqual([
      {
        name: 'Fernhollow Wildlife Hospital',
        why: 'Version 2 is damaged: it is not there any more.',
        soundPart: true
      }
    ])
    expect(backed).toEqual([
      ['Ward book', 1],
      ['Fernhollow Wildlife Hospital, what was sound', 3]
    ])
    await store.close()
  })

  it('that came before all was judged is opened as far as it holds together', async () => {
    const folder = folders.make('old')
    copyFileSync(fixture('format-1.sqlite'), join(folder, DATABASE))
    const bad = JSON.stringify({ kind: 'expression', expression: '"1)); create table pwned (x int); --"(1)' })
    await sql(
      folder,
      `UPDATE design SET snapshot = replace(snapshot, '"name":"weight_g",', '"name":"weight_g","default":${bad.replaceAll("'", "''")},') WHERE id = 'd_fernhollow'`
    )
    const store = await openStore(folder)
    await store.check()
    const [demo] = (await store.list()).filter(({ id }) => id === 'd_fernhollow')
    expect(demo?.damage).toContain('the default of admission.weight_g does not fit its type')
    const sound = await store.soundFile('d_fernhollow')
    expect(sound && writeDesignFile(sound.design, sound.versions)).toBe(fixtureText('fernhollow'))
    await store.close()
  })
})

describe('a bit that has turned over', () => {
  it.each([
    ['in the database', false, DATABASE],
    ['in the log that a crash left', true, `${DATABASE}-wal`]
  ])('%s changes nothing unnoticed', async (_, crashed, file) => {
    const { folder, before } = await filled(crashed)
    const size = statSync(join(folder, file)).size
    const seen = { same: 0, damaged: 0, noticed: 0, refused: 0 }
    await fc.assert(
      fc.asyncProperty(fc.nat(size - 1), fc.nat(7), async (at, bit) => {
        const copy = folders.make('flip')
        copyFolder(folder, copy)
        const bytes = readFileSync(join(copy, file))
        bytes[at] = (bytes[at] as number) ^ (1 << bit)
        writeFileSync(join(copy, file), bytes)
        try {
          const store = await openStore(copy)
          try {
            const now = await shows(store)
            for (const [id, text] of before) {
              const found = now.get(id)
              if (found === text) seen.same++
              else if (found?.startsWith('damaged: ')) seen.damaged++
              else if (store.notices.length > 0) seen.noticed++
              else throw new Error(`bit ${bit} of byte ${at} changed ${id} unnoticed`)
            }
            for (const id of now.keys())
              if (!before.has(id) && store.notices.length === 0)
                throw new Error(`bit ${bit} of byte ${at} made ${id}`)
          } finally {
            await store.close()
          }
        } catch (error) {
          expect((error as Error).name + (error as Error).message).toMatch(
            /^Error.*(damaged|disk|database|newer)/
          )
          seen.refused++
        }
        rmSync(copy, { recursive: true })
      }),
      { numRuns: times(60) }
    )
    expect(seen.same).toBeGreaterThan(10)
    expect(seen.damaged + seen.noticed + seen.refused).toBeGreaterThan(5)
  })
})

describe('a page of the database that is gone', () => {
  it('hides no design but what was on it', async () => {
    const { folder, before } = await filled(false)
    const size = statSync(join(folder, DATABASE)).size
    const PAGE = 4096
    const seen = { listed: 0, refused: 0 }
    for (let page = 0; page < size / PAGE; page += 1) {
      const copy = folders.make('page')
      copyFolder(folder, copy)
      const bytes = readFileSync(join(copy, DATABASE))
      bytes.fill(0, page * PAGE, (page + 1) * PAGE)
      writeFileSync(join(copy, DATABASE), bytes)
      try {
        const store = await openStore(copy)
        const ids = (await store.list()).map(({ id }) => id)
        for (const id of before.keys()) expect([page, ids]).toEqual([page, expect.arrayContaining([id])])
        await shows(store)
        await store.close()
        seen.listed++
      } catch (error) {
        // The first page says what the others are: without it there is no database, which is said.
        expect([page, (error as Error).message]).toEqual([0, expect.stringContaining('damaged')])
        seen.refused++
      }
      rmSync(copy, { recursive: true })
    }
    expect(seen.listed).toBeGreaterThan(30)
    expect(seen.refused).toBeLessThanOrEqual(1)
  })
})

describe('an older entry of the log that is damaged', () => {
  const REVISIONS = 260
  let folder = ''
  let id = ''
  let whole: string[] = []
  beforeAll(async () => {
    folder = folders.make('older')
    const store = await openStore(folder)
    id = (await store.create({ name: 'Ward book' })).design.id
    await store.submit(id, {
      revision: 0,
      operationId: 'operation-first',
      client: 'test',
      operation: { kind: 'table.add', table: { ...newTable('ward'), id: 't_ward' } }
    })
    for (let n = 1; n < REVISIONS; n++)
      await store.submit(id, {
        revision: n,
        operationId: `operation-${n}`,
        client: 'test',
        operation: { kind: 'table.rename', table: 't_ward', name: `ward_${n}` }
      })
    const log = await store.operationsAfter(id, { revision: 1 })
    whole = Array.isArray(log) ? log.map((each) => JSON.stringify(each)) : expect.fail('no log')
    await store.close()
  })

  it('is never given out as sound, and whoever asks for it is told to load the design anew', async () => {
    const seen = { anew: 0, same: 0 }
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 2, max: 100 }),
        fc.constantFrom('operation', 'operationId', 'client', 'mark', 'at'),
        fc.nat(1000),
        async (revision, column, at) => {
          const copy = folders.make('entry')
          copyFolder(folder, copy)
          const place = `${at} % length(${column}) + 1`
          const other = `CASE substr(${column}, ${place}, 1) WHEN 'Z' THEN 'Y' ELSE 'Z' END`
          await sql(
            copy,
            `UPDATE operation SET ${column} = substr(${column}, 1, ${place} - 1) || ${other} || substr(${column}, ${place} + 1) WHERE revision = ${revision}`
          )
          const store = await openStore(copy)
          // What is newer than the last snapshots is as it was.
          expect((await store.draft(id))?.revision).toBe(REVISIONS)
          const log = await store.operationsAfter(id, { revision: 1 })
          expect(log).toBe('behind')
          const later = await store.operationsAfter(id, { revision: 150 })
          expect(Array.isArray(later) && later.map((each) => JSON.stringify(each))).toEqual(whole.slice(149))
          seen.anew++
          await store.close()
          rmSync(copy, { recursive: true })
        }
      ),
      { numRuns: times(40) }
    )
    expect(seen.anew).toBeGreaterThan(30)
  })
})

describe('a folder', () => {
  it('is one program’s, though its lock file is deleted', async () => {
    const folder = folders.make('locked')
    const store = await openStore(folder)
    rmSync(join(folder, 'lock'))
    await expect(openStore(folder)).rejects.toThrow('in use')
    await store.close()
    await (await openStore(folder)).close()
  })
})

describe('a database that has lost what was acknowledged', () => {
  let folder = ''
  beforeAll(async () => {
    folder = (await filled(true)).folder
  })
  const copied = (): string => {
    const copy = folders.make('lost')
    mkdirSync(copy, { recursive: true })
    return copyFolder(folder, copy)
  }

  it('is not taken for an empty shelf when it was emptied, or is gone', async () => {
    for (const lose of [(file: string) => writeFileSync(file, ''), (file: string) => rmSync(file)]) {
      const copy = copied()
      rmSync(join(copy, `${DATABASE}-wal`))
      lose(join(copy, DATABASE))
      await expect(openStore(copy)).rejects.toThrow('is empty or gone, though 2 designs were kept in it')
      // Nothing was made in its place, and what to do is what was said.
      await expect(openStore(copy)).rejects.toThrow('remove the file')
      rmSync(join(copy, 'heads'))
      await (await openStore(copy)).close()
    }
  })

  it('is said to be older, and copied aside before it is written to', async () => {
    const copy = copied()
    const wal = readFileSync(join(copy, `${DATABASE}-wal`))
    writeFileSync(join(copy, `${DATABASE}-wal`), wal.subarray(0, wal.length - 60_000))
    const store = await openStore(copy)
    expect(store.notices).toEqual([
      expect.stringMatching(
        /^The database is older than what was acknowledged: Ward book lacks its last \d+ changes?\./
      )
    ])
    const [aside = ''] = readdirSync(copy).filter((name) => name.startsWith('damaged-'))
    expect(existsSync(join(copy, aside, `${DATABASE}-wal`))).toBe(true)
    expect(statSync(join(copy, aside, `${DATABASE}-wal`)).size).toBe(wal.length - 60_000)
    await store.close()
    const again = await openStore(copy)
    expect(again.notices).toEqual([])
    await again.close()
  })

  it('is no database at all any more, and is said to be none', async () => {
    const copy = copied()
    rmSync(join(copy, `${DATABASE}-wal`))
    writeFileSync(join(copy, DATABASE), 'x'.repeat(8192))
    await expect(openStore(copy)).rejects.toThrow('cannot be read as a database')
  })
})
