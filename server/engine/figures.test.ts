import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { figureViews, writeViews } from '../../core/definitions/figure-views.ts'
import { createView } from '../../core/definitions/view-script.ts'
import { tableOf } from '../../core/design/directory.ts'
import { readExpression } from '../../core/design/expressions.ts'
import { figuresOf, standFigure, type StandingFigure } from '../../core/design/figure.ts'
import { MEASURES, type Design, type Figure, type Row, type Table } from '../../core/design/model.ts'
import { canonicalValue } from '../../core/design/same.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import { figureValue } from '../../core/rows/figures.ts'
import { apply } from '../../core/edit/apply.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { build } from '../../tests/built.ts'
import { times } from '../../tests/times.ts'
import { Draws, drawnDesign } from '../../tests/trials.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const numbers = fc.array(fc.nat(9999), { minLength: 500, maxLength: 500 })

/** A random figure over one of a design's references; nothing where what is drawn does not stand. */
function drawnFigure(draws: Draws, design: Design, n: number): Figure | undefined {
  const of = draws.pick(design.tables.filter(({ foreignKeys }) => foreignKeys.length > 0))
  const by = of && draws.pick(of.foreignKeys)
  if (!of || !by) return undefined
  const measure = draws.pick(MEASURES) ?? 'count'
  const far = draws.chance(measure === 'different' ? 100 : 40) ? draws.pick(of.foreignKeys) : undefined
  const said = far ? tableOf(design, far.table) : of
  const conditionOn = (table: Table): string | undefined => {
    const column = draws.pick(table.columns.filter(({ type }) => type.kind === 'integer'))
    const text = draws.chance(50) ? `${column?.name} > ${draws.below(4)}` : `${column?.name} is not null`
    const read = readExpression(text, { columns: table.columns, enums: [] })
    return column && read.ok ? read.value : undefined
  }
  const figure: Figure = {
    id: `g_${n}`,
    name: `figure ${n}`,
    table: by.table,
    of: of.id,
    by: by.id,
    ...(far && { far: far.id }),
    measure,
    column: draws.pick(said?.columns ?? [])?.id,
    order: draws.pick(of.columns)?.id,
    ...(draws.chance(40) && { where: conditionOn(of) }),
    ...(far && said && draws.chance(40) && { whereFar: conditionOn(said) })
  }
  return standFigure(design, figure).ok ? figure : undefined
}

/** Each row of a table with what it says, as one text, in no order. */
const worked = (design: Design, table: Table, figures: readonly StandingFigure[]): string[] =>
  table.rows
    .map((row) =>
      JSON.stringify([
        ...keyOf(table, row),
        ...figures.map((each) => canonicalValue(figureValue(design, each, row), each.type))
      ])
    )
    .sort()

const keyColumns = ({ primaryKey, columns }: Table): Table['columns'] =>
  columns.filter(({ id }) => primaryKey?.columns.includes(id))
const keyOf = (table: Table, row: Row): (string | null)[] =>
  keyColumns(table).map(({ id, type }) => canonicalValue(row[id], type))

/** The same read from the views; they are dropped again. */
async function read(design: Design, dialect: Provable, engine: Engine): Promise<Map<string, string[]>> {
  const found = new Map<string, string[]>()
  for (const view of figureViews(design, dialect)) {
    await engine.query(createView(view).sql)
    const columns = [
      ...keyColumns(view.table),
      ...figuresOf(design, view.table).map(({ figure, type }) => ({ name: figure.name, type }))
    ]
    const list = columns.map(({ name, type }, at) => `${dialect.engine.selectText(name, type)} AS v${at}`)
    const rows = await engine.query(`SELECT ${list.join(', ')} FROM ${view.name}`)
    await engine.query(`DROP VIEW ${view.name}`)
    const texts = rows.map((row) =>
      JSON.stringify(columns.map(({ type }, at) => canonicalValue(row[`v${at}`], type)))
    )
    found.set(view.table.id, texts.sort())
  }
  return found
}

describe.each([
  ['sqlite', 150],
  ['postgresql', 40],
  ['mariadb', 40]
] as const)('what rows say by figures, on %s', (name, often) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  it(`is what their views say, over ${often} random designs`, async () => {
    const seen = new Map<string, number>()
    await fc.assert(
      fc.asyncProperty(numbers, async (drawn) => {
        const draws = new Draws(drawn)
        const drawnOne = drawnDesign(draws, dialect.facts)
        // What refers, and is not held to it, is as good here.
        const tables = drawnOne.tables.map((table) => ({
          ...table,
          foreignKeys: table.foreignKeys.map((key) => ({
            ...key,
            onDelete: 'NO ACTION' as const,
            onUpdate: 'NO ACTION' as const
          }))
        }))
        const bare = { ...drawnOne, tables, dialects: [dialect.name] }
        const figures = Array.from({ length: 8 }, (_, n) => drawnFigure(draws, bare, n) ?? [])
        const design = { ...bare, figures: figures.flat() }
        await build(design, dialect, engine)
        const views = await read(design, dialect, engine)
        for (const table of design.tables) {
          const standing = figuresOf(design, table)
          if (standing.length === 0) continue
          expect(worked(design, table, standing)).toEqual(views.get(table.id))
          for (const each of standing)
            for (const row of table.rows) {
              const value = figureValue(design, each, row)
              const isTelling = value !== null && value !== 0 && value !== undefined
              const { measure } = each.figure
              if (isTelling) seen.set(measure, (seen.get(measure) ?? 0) + 1)
            }
        }
      }),
      { numRuns: times(often) }
    )
    for (const measure of MEASURES) expect([measure, seen.get(measure) ?? 0]).not.toEqual([measure, 0])
  })

  it('is the same for the demo, whose shifts say who came', async () => {
    const { design: demo } = fernhollow()
    // What another system has is not there.
    const tables = demo.tables.filter(({ external }) => !external)
    const own = new Set(tables.map(({ id }) => id))
    const design = {
      ...demo,
      tables: tables.map((table) => ({
        ...table,
        foreignKeys: table.foreignKeys.filter((key) => own.has(key.table))
      }))
    }
    await build(design, dialect, engine)
    const views = await read(design, dialect, engine)
    expect(views.size).toBeGreaterThan(1)
    for (const table of design.tables)
      if (views.has(table.id))
        expect(worked(design, table, figuresOf(design, table))).toEqual(views.get(table.id))
  })
})

describe('a figure', () => {
  const { design } = fernhollow()
  const [figure] = design.figures ?? []

  it('goes and comes back byte for byte, at its place', () => {
    const gone = apply(design, { kind: 'figure.remove', figure: figure?.id ?? '' })
    const back = gone.ok && apply(gone.design, gone.inverse)
    expect(back && back.ok && JSON.stringify(back.design)).toBe(JSON.stringify(design))
  })

  it('is refused where it stands on nothing, or is called as a column is', () => {
    const shift = tableOf(design, 't_shift') ?? expect.fail()
    const bad: Partial<Figure>[] = [
      { by: 'f_none' },
      { of: 't_none' },
      { measure: 'sum', column: 'c_none' },
      { measure: 'different' },
      { where: '{c_none} > 1' },
      { name: shift.columns[0]?.name ?? '' }
    ]
    for (const change of bad) {
      const wrong = { ...(figure as Figure), id: 'g_wrong', name: 'another', ...change }
      const result = apply(design, { kind: 'figure.add', figure: wrong })
      expect([change, result.ok]).toEqual([change, false])
    }
  })

  it('has views in every dialect, and they say where they go', () => {
    for (const dialect of Object.values(DIALECTS)) {
      const script = writeViews(design, dialect)
      expect(script.match(/CREATE VIEW/g)?.length).toBe(figureViews(design, dialect).length)
      expect(script.indexOf('DROP VIEW')).toBeLessThan(script.indexOf('CREATE VIEW'))
    }
  })
})
