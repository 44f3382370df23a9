import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readDesignFile } from '../../core/design/file.ts'
import { findingsIn } from '../../core/check/index.ts'
import type { Design, Table } from '../../core/design/model.ts'
import { PROVABLE, type Provable } from '../../core/dialect/index.ts'
import { generateRows } from '../../core/rows/generate.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { planMigration } from '../../core/version/plan.ts'
import { testEngine } from '../../tests/engines.ts'
import { Numbers } from '../../tests/queries.ts'
import { Writes } from '../../tests/writes.ts'
import type { Engine } from './engine.ts'

/** Designs on which rows were lost, or an engine refused what was written, each held to what is right. */

const FOLDER = join(import.meta.dirname, '../../tests/fixtures/faults')
function designOf(name: string): Design {
  const read = readDesignFile(readFileSync(join(FOLDER, `${name}.json`), 'utf8'))
  return read.ok ? read.value.design : expect.fail(read.message)
}

const tableNamed = (design: Design, name: string): Table =>
  design.tables.find((table) => table.name === name) ?? expect.fail(`no table ${name}`)

describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))(
  'on %s',
  (_, dialect: Provable) => {
    let engine: Engine
    beforeAll(async () => {
      engine = await testEngine(dialect)
    })
    afterAll(() => engine.close())

    const run = async (statements: readonly { sql: string }[]): Promise<void> => {
      for (const { sql } of statements) await engine.query(sql)
    }
    const make = async (design: Design): Promise<void> => {
      await dialect.engine.reset(engine.query)
      for (const sql of dialect.engine.onConnect) await engine.query(sql)
      const { catalog } = dialect.catalog(design)
      await run([...dialect.create(catalog), ...insertRows(design, catalog, dialect)])
    }
    const rowsOf = (design: Design, name: string): Promise<(string | null)[][]> =>
      new Writes(design, dialect, engine, new Numbers([1])).rows(tableNamed(design, name))

    it('rows that are numbered by facts which another table says have their numbers again', async () => {
      const [from, to] = [designOf('library'), designOf('facts-apart-split-off')]
      const { up, down } = planMigration(from, to, dialect)
      await make(from)
      await run(up)
      await engine.query('UPDATE author SET name_id = 1 WHERE id = 3')
      const [names, details] = [await rowsOf(to, 'name'), await rowsOf(to, 'name_detail')]
      await run(down)
      await run(up)
      expect((await rowsOf(to, 'name_detail')).sort()).toEqual(details.sort())
      expect((await rowsOf(to, 'name')).sort()).toEqual(names.sort())
      expect(details).toContainEqual(['3', 'Cy', 'FR'])
    })

    it('a pair that was in the column comes back into it, and one that was written into it since', async () => {
      const [from, to] = [designOf('library'), designOf('junction-down-first')]
      const { up, down } = planMigration(from, to, dialect)
      const authorOf = async (isbn: string): Promise<unknown> =>
        (await rowsOf(from, 'book')).find(([own]) => own?.trim() === isbn)?.[2]
      await make(from)
      await run(up)
      await engine.query("INSERT INTO book_author (isbn, author_id) VALUES ('B1', 1)")
      const pairs = await rowsOf(to, 'book_author')
      await run(down)
      expect(await authorOf('B1')).toBe('2')
      await run(up)
      expect((await rowsOf(to, 'book_author')).sort()).toEqual(pairs.sort())
      await run(down)
      await engine.query("UPDATE book SET author_id = 4 WHERE isbn = 'B1'")
      await run(up)
      await run(down)
      expect(await authorOf('B1')).toBe('4')
      await run(up)
      await engine.query("DELETE FROM book_author WHERE isbn = 'B1' AND author_id = 4")
      await run(down)
      expect(await authorOf('B1')).toBe('1')
    })

    it('a list of values changes under a check and an index with a condition, there and back', async () => {
      for (const name of ['value-added', 'value-gone']) {
        const [from, to] = [designOf(`${name}.from`), designOf(`${name}.to`)]
        const { up, down } = planMigration(from, to, dialect)
        await make(from)
        await run(up)
        await run(down)
        await run(up)
      }
    })

    it('rows of tables that refer to each other in circles, where they may be empty, go in', async () => {
      const design = designOf('rows-in-circles')
      await make(design)
      for (const table of design.tables) {
        const found = await rowsOf(design, table.name)
        const wanted = table.rows.map((row) => table.columns.map(({ id }) => row[id]?.toString() ?? null))
        expect(found.sort()).toEqual(wanted.sort())
      }
    })

    it('a table that others say in part comes back with what was kept of it', async () => {
      const [from, to] = [designOf('merge-each-down.from'), designOf('merge-each-down.to')]
      const { up, down } = planMigration(from, to, dialect)
      await make(from)
      const before = await rowsOf(from, 'vehicle')
      await run(up)
      await run(down)
      expect((await rowsOf(from, 'vehicle')).sort()).toEqual(before.sort())
    })

    it('what stops a change of mind on rows is told beforehand', () => {
      const [from, to] = [designOf('library'), designOf('columns-up-unsaid-stop')]
      const { warnings } = planMigration(from, to, dialect)
      const stops = warnings.up.filter(({ effect }) => effect === 'stops').map(({ message }) => message)
      expect(stops).toEqual([expect.stringContaining('The copies of one book differ in state')])
    })

    it('takes an optional document that is empty, a number within its digits, and made-up uuids', async () => {
      await make(designOf('documents'))
      const extremes = designOf('extremes')
      await make(extremes)
      await engine.query('INSERT INTO x (id, a, i) VALUES (1, 0.5, 12345678901234567890)')
      await expect(engine.query('INSERT INTO x (id, a) VALUES (2, 1)')).rejects.toThrow()
      const uuids = designOf('uuids')
      const parts = tableNamed(uuids, 'p')
      const empty = { ...uuids, tables: uuids.tables.map((table) => ({ ...table, rows: [] })) }
      const making = generateRows(empty, { seed: 7, rows: new Map([[parts.id, 200]]) })
      let step = making.next()
      while (!step.done) step = making.next()
      await make(step.value.design)
      expect(await rowsOf(uuids, 'p')).toHaveLength(200)
    })

    it('what it refuses of rows and lists is found', async () => {
      const uuids = { ...designOf('uuids'), dialects: [dialect.name] }
      const found = [...findingsIn(uuids).values()].flat().map(({ rule }) => rule)
      const refused = await make(uuids).then(
        () => false,
        () => true
      )
      expect(found.includes('rows that an engine refuses')).toBe(refused)
      const long = { ...designOf('long-values'), dialects: [dialect.name] }
      const isFound = [...findingsIn(long).values()].flat().some(({ severity }) => severity === 'refused')
      const isRefused = await make(long).then(
        () => false,
        () => true
      )
      expect(isFound).toBe(isRefused)
    })

    it('a carry of an earlier form gives back what it took where another column is empty', async () => {
      const [staff, to] = [designOf('staff'), designOf('earlier-carry')]
      const rows = [...Array(14).keys()].map((no) => ({
        c_emp_id: no + 1,
        c_emp_name: `n${no}`,
        c_emp_street: no % 3 === 0 ? null : `s${no}`,
        c_emp_city: no % 4 === 0 ? null : 'Oxlea'
      }))
      const from = { ...staff, tables: staff.tables.map((table) => ({ ...table, rows })) }
      const { up, down } = planMigration(from, to, dialect)
      await make(from)
      const before = await rowsOf(from, 'emp')
      await run(up)
      await run(down)
      expect((await rowsOf(from, 'emp')).sort()).toEqual(before.sort())
    })
  }
)
