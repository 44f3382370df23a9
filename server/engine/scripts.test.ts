import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../../core/design/directory.ts'
import { readDesignFile } from '../../core/design/file.ts'
import type { Design, Table } from '../../core/design/model.ts'
import { script } from '../../core/dialect/dialect.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { planMigration } from '../../core/version/plan.ts'
import { choices, grow } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'

const dialect = DIALECTS.sqlite
const start = fernhollow().versions[1]?.design as Design
const folder = mkdtempSync(join(tmpdir(), 'patient-key-scripts-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
let made = 0

/** What SQLite's own client says to a script that it reads from its input: it goes on after an error. */
function shell(file: string, sql: string, ...options: string[]): { out: string; err: string } {
  const done = spawnSync('sqlite3', [...options, file], { input: sql, encoding: 'utf8' })
  if (done.error) throw done.error
  return { out: done.stdout, err: done.stderr }
}

/** A database with the rows of a design. */
function database(design: Design): string {
  const file = join(folder, `${made++}.sqlite`)
  const { catalog } = dialect.catalog(design)
  const { err } = shell(file, script([...dialect.create(catalog), ...insertRows(design, catalog, dialect)]))
  expect(err).toBe('')
  return file
}

const tablesIn = (file: string): string[] =>
  shell(
    file,
    "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\';"
  )
    .out.split('\n')
    .filter((name) => name !== '')

const count = (file: string, table: string): number =>
  Number(shell(file, `SELECT count(*) FROM ${dialect.quote(table)};`).out)

/** The tables that have lost rows: neither they, nor what they are called now, nor a table aside or kept has them. */
function lost(file: string, from: Design, to: Design): string[] {
  const there = tablesIn(file)
  const most = (table: Table): number => {
    const names = [table.name, tableOf(to, table.id)?.name ?? '', `old_${table.name}`]
    const kept = there.filter((name) => name.includes(`keepsake_${table.name}_`))
    return Math.max(
      0,
      ...[...names, ...kept].filter((name) => there.includes(name)).map((name) => count(file, name))
    )
  }
  return from.tables.filter((table) => most(table) < table.rows.length).map((table) => table.name)
}

function changed(...operations: Operation[]): Design {
  const result = apply(start, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}
const bare = (design: Design): Design => ({
  ...design,
  tables: design.tables.map((table) => ({ ...table, rows: [] }))
})

it('an optional document may be empty in the SQLite that is installed, too', () => {
  const read = readDesignFile(
    readFileSync(join(import.meta.dirname, '../../tests/fixtures/faults/documents.json'), 'utf8')
  )
  if (!read.ok) expect.fail(read.message)
  expect(count(database(read.value.design), 'note')).toBe(1)
})

describe('a migration that SQLite’s own client runs', () => {
  const empty = start.tables
    .flatMap((table) => table.columns.map((column) => ({ table, column })))
    .find(
      ({ table, column }) =>
        !column.required &&
        column.computed === undefined &&
        table.foreignKeys.every((key) => key.pairs.every((pair) => pair.column !== column.id)) &&
        table.rows.some((row) => row[column.id] === undefined)
    )
  const at = { table: empty?.table.id ?? '', column: empty?.column.id ?? '' }

  it.each<[string, Operation[]]>([
    ['a column becomes required and a row has it empty', [{ kind: 'column.require', ...at, required: true }]],
    [
      'a row does not meet a new check',
      [
        {
          kind: 'check.add',
          table: 't_patient',
          check: { id: 'x_none', condition: '{c_patient_patient_id} < 0' }
        }
      ]
    ],
    [
      'a value becomes unique that is there twice',
      [
        {
          kind: 'index.add',
          table: 't_patient',
          index: {
            id: 'i_once',
            columns: [{ column: 'c_patient_species_code', descending: false }],
            unique: true
          }
        }
      ]
    ]
  ])('stops where %s, and has then done nothing', (_, operations) => {
    const to = apply(bare(start), { kind: 'batch', operations })
    const file = database(start)
    const before = shell(file, '.dump').out
    const { up } = planMigration(start, to.ok ? to.design : expect.fail(to.refusal.message), dialect)
    const { err } = shell(file, script(up))
    expect(err).not.toBe('')
    expect(shell(file, '.dump').out).toBe(before)
    // As the script's head says: the first error is the reason, and with -bail it is the only one.
    const { err: only } = shell(file, script(up), '-bail')
    expect(only).not.toBe('')
    expect(err.startsWith(only)).toBe(true)
    expect(only.length).toBeLessThan(err.length)
    expect(shell(file, '.dump').out).toBe(before)
  })

  it('loses no row, whichever of its statements fails', () => {
    let broken = 0
    fc.assert(
      fc.property(choices(8, 3), fc.nat(1000), (taken, place) => {
        const to = grow(taken, start)
        const { up } = planMigration(start, to, dialect)
        if (up.length === 0) return
        // BEGIN cannot fail: it takes no lock.
        const begins = up.findIndex(({ sql }) => sql === 'BEGIN')
        const at = begins + 1 + (place % (up.length - begins - 1))
        const file = database(start)
        const sabotaged = up.map((statement, n) =>
          n === at ? { ...statement, sql: 'SELECT no_such_function()' } : statement
        )
        const { err } = shell(file, script(sabotaged))
        expect(err).toContain('no_such_function')
        expect(lost(file, start, to)).toEqual([])
        broken++
        rmSync(file)
      }),
      { numRuns: times(60) }
    )
    expect(broken).toBeGreaterThan(40)
  })

  it('goes through where nothing is in its way, and back again', () => {
    const to = changed({ kind: 'column.remove', table: 't_patient', column: 'c_patient_sex' })
    const { up, down } = planMigration(start, to, dialect)
    const file = database(start)
    const before = shell(file, '.dump patient').out
    expect(shell(file, script(up)).err).toBe('')
    expect(shell(file, 'SELECT sex FROM patient;').err).toContain('no such column')
    expect(shell(file, script(down)).err).toBe('')
    expect(shell(file, '.dump patient').out).toBe(before)
  })
})
