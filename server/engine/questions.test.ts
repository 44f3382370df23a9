import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tableOf } from '../../core/design/directory.ts'
import type { Design, Row, Table } from '../../core/design/model.ts'
import { canonicalValue } from '../../core/design/same.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import {
  answer,
  changeSql,
  pathsFrom,
  questionSql,
  QUESTIONS,
  turned,
  type Path
} from '../../core/rows/questions.ts'
import { compareRows, selectRows } from '../../core/rows/statements.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { build } from '../../tests/built.ts'
import { times } from '../../tests/times.ts'
import { Draws, drawnDesign } from '../../tests/trials.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const numbers = fc.array(fc.nat(9999), { minLength: 500, maxLength: 500 })

/** The demo without what another system has. */
function ownDemo(): Design {
  const { design } = fernhollow()
  const tables = design.tables.filter(({ external }) => !external)
  const own = new Set(tables.map(({ id }) => id))
  const held = (table: Table): Table => ({
    ...table,
    foreignKeys: table.foreignKeys.filter((key) => own.has(key.table))
  })
  return { ...design, tables: tables.map(held) }
}

const keyOf = ({ primaryKey, columns }: Table): Table['columns'] =>
  (primaryKey?.columns ?? []).flatMap((id) => columns.find((each) => each.id === id) ?? [])
const PLAIN = new Set(['integer', 'text', 'char'])
const isPlain = (table: Table): boolean => keyOf(table).every(({ type }) => PLAIN.has(type.kind))

/** Asks everything that can be asked of a path for a pair of rows, here and on the engine. */
async function compare(
  design: Design,
  dialect: Provable,
  engine: Engine,
  path: Path,
  asked: { row: number; other: number }
): Promise<number> {
  let told = 0
  for (const question of QUESTIONS) {
    const { of, rows } = answer(design, path, question, asked)
    const found = await engine.query(questionSql(design, dialect, path, question, asked))
    const key = question === 'is there' ? [] : keyOf(of)
    const here = rows.map(({ place, says }) => {
      const row = of.rows[place] as Row
      return [
        ...key.map(({ id, type }) => canonicalValue(row[id], type)),
        ...(says === undefined ? [] : [Number(says)])
      ]
    })
    const there = found.map((row) => {
      const values = Object.values(row)
      const last = question === 'has' || question === 'none' ? [] : [Number(values.at(-1))]
      return [...key.map(({ type }, at) => canonicalValue(values[at], type)), ...last]
    })
    const texts = (list: unknown[][]): string[] => list.map((each) => JSON.stringify(each)).sort()
    expect([question, texts(there)]).toEqual([question, texts(here)])
    told += rows.length
  }
  return told
}

describe.each([
  ['sqlite', 40],
  ['postgresql', 12],
  ['mariadb', 12]
] as const)('what is asked both ways, on %s', (name, often) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  it(`is answered by SQL as by the design's rows, over ${often} random designs`, async () => {
    const seen = new Map<string, number>()
    await fc.assert(
      fc.asyncProperty(numbers, async (drawn) => {
        const draws = new Draws(drawn)
        const bare = drawnDesign(draws, dialect.facts)
        const calm = (table: Table): Table => ({
          ...table,
          foreignKeys: table.foreignKeys.map((key) => ({
            ...key,
            onDelete: 'NO ACTION',
            onUpdate: 'NO ACTION'
          }))
        })
        const design = { ...bare, tables: bare.tables.map(calm), dialects: [dialect.name] }
        await build(design, dialect, engine)
        for (const table of design.tables)
          for (const path of pathsFrom(design, table)) {
            if (path.from.rows.length === 0 || path.to.rows.length === 0) continue
            const asked = { row: draws.below(path.from.rows.length), other: draws.below(path.to.rows.length) }
            const told = await compare(design, dialect, engine, path, asked)
            if (told > 0) seen.set(path.kind, (seen.get(path.kind) ?? 0) + 1)
          }
      }),
      { numRuns: times(often) }
    )
    for (const kind of ['up', 'down']) expect([kind, (seen.get(kind) ?? 0) > 10]).toEqual([kind, true])
  })

  it('is answered from either side of the demo, and read by labels', async () => {
    const design = ownDemo()
    await build(design, dialect, engine)
    let through = 0
    for (const table of design.tables)
      for (const path of pathsFrom(design, table)) {
        if (!isPlain(path.from) || !isPlain(path.to)) continue
        if (path.from.rows.length === 0 || path.to.rows.length === 0) continue
        await compare(design, dialect, engine, path, { row: 0, other: 0 })
        await compare(design, dialect, engine, turned(path), { row: 0, other: 0 })
        if (path.kind === 'through') through++
      }
    expect(through).toBeGreaterThan(5)
    const shift = tableOf(design, 't_shift') ?? expect.fail()
    const path = pathsFrom(design, shift).find(
      ({ kind, to }) => kind === 'through' && to.id === 't_volunteer'
    )
    const rows = await engine.query(questionSql(design, dialect, path as Path, 'has', { row: 0, other: 0 }))
    expect(rows.map((row) => row.name).sort()).toEqual([
      'Dov Arkwright',
      'Lin Mossgrove',
      'Osric Pell',
      'Yusra Banning'
    ])
  })

  it('attaches, detaches and sets just these, safe to run again', async () => {
    const design = ownDemo()
    const shift = tableOf(design, 't_shift') ?? expect.fail()
    const junction = tableOf(design, 't_shift_volunteer') ?? expect.fail()
    const target =
      dialect.catalog(design).catalog.tables.find(({ id }) => id === junction.id) ?? expect.fail()
    const volunteers = pathsFrom(design, shift).find(
      ({ to, kind }) => kind === 'through' && to.id === 't_volunteer'
    )
    const path = volunteers ?? expect.fail()
    const pairs = (places: readonly number[]): Row[] =>
      places.map((place) => ({
        c_shift_volunteer_shift_id: shift.rows[4]?.c_shift_shift_id ?? null,
        c_shift_volunteer_volunteer_id: path.to.rows[place]?.c_volunteer_volunteer_id ?? null
      }))
    const others = junction.rows.filter(
      (row) => row.c_shift_volunteer_shift_id !== shift.rows[4]?.c_shift_shift_id
    )
    const has = async (places: readonly number[]): Promise<void> => {
      const bare = junction.columns.filter(({ name: called }) => called !== 'came')
      const table = { ...junction, columns: bare, rows: [...others, ...pairs(places)] }
      const found = await engine.query(selectRows(table, target, dialect))
      expect(compareRows(table, found)).toEqual({ missing: 0, unexpected: 0 })
    }
    const run = async (change: 'attach' | 'detach' | 'set', places: readonly number[]): Promise<void> => {
      const { statements, remarks } = changeSql(design, dialect, path, change, 4, places)
      expect(remarks).toEqual([])
      for (let twice = 0; twice < 2; twice++) for (const sql of statements) await engine.query(sql)
    }
    await build(design, dialect, engine)
    await run('set', [0, 1])
    await has([0, 1])
    await run('attach', [2, 1])
    await has([0, 1, 2])
    await run('detach', [0])
    await has([1, 2])
    await run('set', [])
    await has([])
  })

  it('lets what may be empty go, and copies what a pair is to hold', async () => {
    const design = ownDemo()
    await build(design, dialect, engine)
    const finder = tableOf(design, 't_finder') ?? expect.fail()
    const admissions = pathsFrom(design, finder).find(
      ({ kind, to }) => kind === 'down' && to.id === 't_admission'
    )
    const down = admissions ?? expect.fail()
    const { statements } = changeSql(design, dialect, down, 'set', 0, [2, 3])
    for (const sql of statements) await engine.query(sql)
    const found = await engine.query(questionSql(design, dialect, down, 'has', { row: 0, other: 0 }))
    expect(found.map((row) => Number(Object.values(row)[0])).sort()).toEqual([3, 4])
    const held = pathsFrom(design, tableOf(design, 't_patient') ?? expect.fail()).find(
      ({ kind, to }) => kind === 'down' && to.id === 't_admission'
    )
    const refused = changeSql(design, dialect, held ?? expect.fail(), 'detach', 0, [0])
    expect(refused.statements).toEqual([])
    expect(refused.remarks[0]).toContain('patient_id of admission is required')
  })
})
