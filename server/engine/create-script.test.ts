import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeSql } from '../../core/definitions/create-script.ts'
import type { Design } from '../../core/design/model.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { mariadbClient, postgresqlClient, sqliteClient, type OwnClient } from '../../tests/clients.ts'

/** The demo without what other systems have, whose notes hold what clients take for their own. */
function demo(): Design {
  const last = fernhollow().versions[2]?.design as Design
  const odd = "it's; -- a note\n\nGO\n/\n&name ?:x $1 %s\n*/ \\q\n.quit\nDELIMITER //\n;"
  return {
    ...last,
    tables: last.tables.map((table) => ({
      ...table,
      note: odd,
      columns: table.columns.map((column) => ({ ...column, note: odd }))
    }))
  }
}

describe.each([
  ['sqlite', sqliteClient],
  ['postgresql', postgresqlClient],
  ['mariadb', mariadbClient]
] as const)('what is written for %s', (_, open) => {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-create-'))
  let client: OwnClient
  beforeAll(async () => {
    client = await open()
  })
  afterAll(async () => {
    await client.close()
    rmSync(folder, { recursive: true, force: true })
  })
  const design = demo()

  const run = (sql: string): { status: number; err: string } => {
    writeFileSync(join(folder, 'create.sql'), sql)
    return client.run(folder, 'create.sql')
  }
  const tablesThere = async (): Promise<number> => {
    let there = 0
    for (const { name } of design.tables) {
      try {
        await rowsOf(name)
        there++
      } catch {
        // It is not there.
      }
    }
    return there
  }
  const rowsOf = async (name: string): Promise<number> => {
    const [row] = await client.query(`SELECT count(*) AS n FROM ${client.dialect.quote(name)}`)
    return Number(row?.n)
  }

  it('runs in its own client as it stands, with rows, whatever notes hold', async () => {
    await client.begin()
    const { err } = run(writeSql(design, client.dialect, { rows: true }))
    expect(err).toBe('')
    for (const table of design.tables) expect(await rowsOf(table.name), table.name).toBe(table.rows.length)
  })

  it('says why it stops when it is run again, and changes nothing', async () => {
    const { err } = run(writeSql(design, client.dialect, { rows: true }))
    expect(err).toMatch(/already exists/)
    for (const table of design.tables) expect(await rowsOf(table.name), table.name).toBe(table.rows.length)
  })

  it('leaves nothing half done where a statement fails and the engine can take it back', async () => {
    await client.begin()
    const sql = writeSql(design, client.dialect, { rows: true })
    const at = sql.indexOf('CREATE TABLE', sql.length / 6)
    const { err } = run(
      `${sql.slice(0, at)}CREATE TABLE broken (x nowhere nowhere, PRIMARY;\n${sql.slice(at)}`
    )
    expect(err).not.toBe('')
    // A line that fails may be one too many for a client that goes on: then what is there is all of it.
    const there = await tablesThere()
    if (client.dialect.facts.rollsBack) expect([0, design.tables.length]).toContain(there)
    else expect(there).toBeLessThan(design.tables.length)
    await client.begin()
    const spoilt = sql.replace(/CREATE TABLE (\w+) \(/, 'CREATE TABLE $1_other (')
    expect(run(spoilt).err).not.toBe('')
    if (client.dialect.facts.rollsBack) expect(await tablesThere()).toBe(0)
  })
})
