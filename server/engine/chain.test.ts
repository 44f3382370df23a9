import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { Design, Table, Version } from '../../core/design/model.ts'
import { script } from '../../core/dialect/dialect.ts'
import { apply } from '../../core/edit/apply.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { chainOf } from '../../core/version/chain.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { withoutOthers } from '../../tests/alone.ts'
import { mariadbClient, postgresqlClient, sqliteClient, type OwnClient } from '../../tests/clients.ts'
import type { Said } from '../../tests/postgresql.ts'
import { choices, grow } from '../../tests/designs.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { Writes } from '../../tests/writes.ts'

const { versions } = fernhollow()
const first = versions[0] as Version
const designs = versions.map(({ design }) => design)
const VERSIONS = [1, 2, 3, 4]

/** Roles belong to the server, and not to a database. */
const ROLE = `DO $$ BEGIN CREATE ROLE ward_staff; EXCEPTION WHEN duplicate_object THEN NULL; END $$`

/** What a script ends with that did nothing: SQLite's shell can only stop. */
const STOPPED: Record<string, number> = { sqlite: 1, postgresql: 0, mariadb: 0 }

describe.each([
  ['SQLite', sqliteClient],
  ['PostgreSQL', postgresqlClient],
  ['MariaDB', mariadbClient]
])('the chain of the demo, run by the client of %s', (_, open) => {
  let client: OwnClient
  const folders = mkdtempSync(join(tmpdir(), 'patient-key-chain-'))
  let folder = ''
  beforeAll(async () => {
    client = await open()
    folder = written('chain', versions)
  })
  afterAll(async () => {
    await client.close()
    rmSync(folders, { recursive: true, force: true })
  })
  beforeEach(async () => {
    await client.begin()
    // Another system has made its table before.
    client.tell(script(client.dialect.create(others(client))))
    if (client.dialect.facts.rowPolicies) client.tell(ROLE)
  })

  function written(name: string, chain: readonly Version[]): string {
    for (const { path, text } of chainOf(chain, client.dialect)) {
      const place = join(folders, name, path)
      mkdirSync(dirname(place), { recursive: true })
      writeFileSync(place, text)
    }
    return join(folders, name)
  }
  const run = (way: string, version: number): Said =>
    client.run(folder, `${String(version).padStart(4, '0')}/${way}.sql`)
  const done = (said: Said, words: string): void => {
    expect(said.err).toBe('')
    expect(said.out).toContain(words)
    expect(said.status).toBe(0)
  }
  const nothing = (said: Said, words: string): void => {
    expect(said.out).toContain(words)
    expect(said.out).not.toContain('Done')
    expect(said.status).toBe(STOPPED[client.dialect.name])
  }
  const rows = (version: number): Promise<Map<string, string[]>> =>
    new Writes(designs[version - 1] as Design, client.dialect, client, new Numbers([])).everything()
  const fill = (version: number): void => {
    const design = designs[version - 1] as Design
    client.tell(script(insertRows(design, client.dialect.catalog(design).catalog, client.dialect)))
  }
  /** All that there is, but for when versions were run. */
  const everything = async (version: number): Promise<unknown> => {
    const { tables } = await client.dialect.engine.read(client.query)
    return [
      tables.map(({ name }) => name).sort(),
      await rows(version),
      await client.query('SELECT design, version, checksum FROM patient_key_versions ORDER BY version')
    ]
  }

  it('goes up and down a version at a time, and each script that was run says so the second time', async () => {
    done(run('up', 1), 'Done: this database is at version 1.')
    fill(1)
    const begun = await rows(1)
    for (const version of VERSIONS.slice(1)) {
      done(run('up', version), `Done: this database is at version ${version}.`)
      const before = await everything(version)
      nothing(run('up', version), `Nothing to do: this database is at version ${version} already.`)
      expect(await everything(version)).toEqual(before)
    }
    const top = await rows(4)
    for (const version of [4, 3, 2]) {
      done(run('down', version), `Done: this database is at version ${version - 1} again.`)
      nothing(run('down', version), `Nothing to do: this database is at version ${version - 1} already.`)
    }
    expect(await rows(1)).toEqual(begun)
    done(client.run(folder, 'up-to-date.sql'), 'at version 4.')
    expect(await rows(4)).toEqual(top)
    for (const version of [4, 3, 2, 1]) run('down', version)
    const left = (await client.dialect.engine.read(client.query)).tables.map(({ name }) => name)
    expect(left.filter((name) => !/^keepsake_|^patient_key_versions$|person$/.test(name))).toEqual([])
    done(client.run(folder, 'up-to-date.sql'), 'at version 4.')
    expect(await rows(4)).toEqual(top)
  })

  it('says of a script that is out of order what comes first, and does nothing', async () => {
    run('up', 1)
    run('up', 2)
    const before = await everything(2)
    nothing(run('up', 4), 'this database is at version 2, not at version 3. Run up of version 3 first.')
    nothing(run('down', 1), 'this database is at version 2, not at version 1. Run down of version 2 first.')
    nothing(run('down', 3), 'Nothing to do: this database is at version 2 already.')
    expect(await everything(2)).toEqual(before)
  })

  it('brings up to date from anywhere, and has then nothing more to do', async () => {
    run('up', 1)
    run('up', 2)
    done(client.run(folder, 'up-to-date.sql'), 'Done: this database is at version 4.')
    const again = client.run(folder, 'up-to-date.sql')
    expect(again.err + String(again.status)).toBe('0')
    expect(again.out).toMatch(/this database is at version 4/i)
    expect(again.out).not.toContain('Done')
  })

  it('finds a version that was changed after it was run', async () => {
    run('up', 1)
    run('up', 2)
    const changed = apply(designs[1] as Design, {
      kind: 'column.require',
      table: 't_dose',
      column: 'c_dose_unit_cost',
      required: true
    })
    if (!changed.ok) expect.fail(changed.refusal.message)
    const other = versions.map((each) => (each.number === 2 ? { ...each, design: changed.design } : each))
    const before = await everything(2)
    const said = client.run(written('changed', other), '0003/up.sql')
    nothing(said, 'Nothing was done: version 2 was changed after it was run here.')
    nothing(client.run(join(folders, 'changed'), '0002/down.sql'), 'version 2 was changed')
    expect(client.run(join(folders, 'changed'), 'up-to-date.sql').out).toContain('version 2 was changed')
    expect(await everything(2)).toEqual(before)
  })

  it('does nothing half, or says how far it came: and when what was in the way is gone, it goes through', async () => {
    run('up', 1)
    run('up', 2)
    fill(2)
    const admission = client.dialect.quote('admission')
    const [first] = await client.query(
      `SELECT admission_id AS id, weight_g AS g FROM ${admission} WHERE weight_g IS NOT NULL ORDER BY 1`
    )
    const weigh = (g: unknown): void =>
      client.tell(`UPDATE ${admission} SET weight_g = ${String(g)} WHERE admission_id = ${String(first?.id)}`)
    weigh(-5)
    const stopped = run('up', 3)
    expect(stopped.status).not.toBe(0)
    expect(stopped.err).not.toBe('')
    expect(stopped.out).not.toContain('Done')
    nothing(run('up', 4), 'this database is at version 2, not at version 3')
    weigh(first?.g)
    const again = run('up', 3)
    done(again, 'Done: this database is at version 3.')
    if (client.dialect.restart) expect(again.out).toMatch(/it was stopped after \d+ of \d+ statements/)
    expect((await rows(3)).get('t_admission')).toHaveLength(
      designs[1]?.tables.find(({ id }) => id === 't_admission')?.rows.length ?? 0
    )
  })

  it('takes a database that was made otherwise as being at a version, once', async () => {
    const design = designs[2] as Design
    client.tell(script(client.dialect.create(client.dialect.catalog(design).catalog)))
    fill(3)
    const before = await rows(3)
    done(run('is-here', 3), 'This database counts as being at version 3 from now on.')
    const noted = await everything(3)
    expect(run('is-here', 4).out).toContain('Nothing was done: this database is at version 3 already.')
    expect(await everything(3)).toEqual(noted)
    done(run('up', 4), 'Done: this database is at version 4.')
    done(run('down', 4), 'Done: this database is at version 3 again.')
    expect(await rows(3)).toEqual(before)
  })

  it('goes up and all the way back whatever the versions are, and whatever things are called', async () => {
    let run = 0
    await fc.assert(
      fc.asyncProperty(choices(9, 5), choices(6, 3), async (one, other) => {
        const states = [grow(one), grow(other, grow(one))].map((design) => withoutOthers(design, isOther))
        const chain = [first, ...states.map((design, at) => ({ ...first, number: at + 2, design }))].slice(1)
        const numbered = chain.map((version, at) => ({
          ...version,
          number: at + 1,
          note: `it's -- a "note" // \\gset :fits\n${at}`
        }))
        const place = written(`random_${run}`, numbered)
        await client.begin()
        const said = client.run(place, 'up-to-date.sql')
        expect([said.err, said.status]).toEqual(['', 0])
        expect(said.out).toContain('at version 2')
        for (const version of [2, 1]) {
          const back = client.run(place, `000${version}/down.sql`)
          expect([back.err, back.status]).toEqual(['', 0])
        }
        const { tables } = await client.dialect.engine.read(client.query)
        expect(
          tables.filter(({ name }) => !/^keepsake_|^patient_key_versions$/.test(name)).map(({ name }) => name)
        ).toEqual([])
        run++
      }),
      { numRuns: times(5) }
    )
    expect(run).toBeGreaterThan(4)
  })

  it('drops everything only where that is meant, and only once', async () => {
    client.run(folder, 'up-to-date.sql')
    fill(4)
    const before = await everything(4)
    const refused = client.run(folder, 'drop-all-and-run.sql')
    expect(refused.out + refused.err).toContain('Nothing was done. This drops every table of the design')
    expect(await everything(4)).toEqual(before)
    client.tell('CREATE TABLE drop_everything (yes int)')
    done(client.run(folder, 'drop-all-and-run.sql'), 'Done: this database is at version 4.')
    expect([...(await rows(4)).values()].flat()).toEqual([])
    expect(client.run(folder, 'drop-all-and-run.sql').status).not.toBe(0)
  })
})

/** Another system's tables; and those without columns of their own, which not every engine has. */
const isOther = ({ external, columns }: Table): boolean =>
  external === true || columns.every((column) => column.computed !== undefined)

/** The tables that another system keeps, as if they were the design's own. */
function others(client: OwnClient): ReturnType<OwnClient['dialect']['catalog']>['catalog'] {
  const { catalog } = client.dialect.catalog(designs.at(-1) as Design)
  const tables = catalog.tables.filter((table) => table.external)
  return { ...catalog, enums: [], tables: tables.map((table) => ({ ...table, external: false })) }
}
