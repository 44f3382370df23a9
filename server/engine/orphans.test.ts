import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tableOf } from '../../core/design/directory.ts'
import type { Design, Row, Table } from '../../core/design/model.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import { mendingsFor, mendOrphans, orphansOf, orphansSql, type Orphaned } from '../../core/rows/orphans.ts'
import { compareRows, insertRows, selectRows } from '../../core/rows/statements.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** The demo without what another system has, with rows that point at nothing: by a reference, and by what only looks like one. */
function astray(): Design {
  const { design } = fernhollow()
  const tables = design.tables.filter(({ external }) => !external)
  const own = new Set(tables.map(({ id }) => id))
  const lost = (table: Table): readonly Row[] => {
    if (table.id === 't_admission')
      return table.rows.map((row, at) => (at < 4 ? { ...row, c_admission_finder_id: 90 + (at % 2) } : row))
    if (table.id === 't_release')
      return table.rows.map((row, at) => ({ ...row, c_release_volunteer_id: at < 2 ? 1 : 77 }))
    if (table.id === 't_stay')
      return table.rows.map((row, at) => (at < 2 ? { ...row, c_stay_pen_no: 40 + at } : row))
    return table.rows
  }
  return {
    ...design,
    tables: tables.map((table) => ({
      ...table,
      rows: [...lost(table)],
      foreignKeys: table.foreignKeys.filter((key) => own.has(key.table))
    }))
  }
}

const found = (design: Design): Orphaned[] =>
  design.tables.flatMap((table) => orphansOf(design, table)).filter(({ rows }) => rows.length > 0)

describe('rows that point at nothing', () => {
  const design = astray()

  it('are found by references that are declared, and by columns that only look like one', () => {
    const all = found(design).map(({ table, parent, foreignKey, rows }) => [
      table.name,
      parent.name,
      foreignKey !== undefined,
      rows.length
    ])
    expect(all).toEqual([
      ['admission', 'finder', true, 4],
      ['stay', 'pen', true, 2],
      ['release', 'volunteer', false, (tableOf(design, 't_release')?.rows.length ?? 0) - 2]
    ])
  })

  it('are none any longer when they are mended, whichever way', () => {
    let tried = 0
    for (const each of found(design))
      for (const mending of mendingsFor(each)) {
        const result = apply(design, mendOrphans(design, each, mending))
        const after = result.ok ? result.design : expect.fail(result.refusal.message)
        const left = orphansOf(after, tableOf(after, each.table.id) ?? expect.fail())
        const same = left.find(
          ({ parent, pairs }) => parent.id === each.parent.id && pairs.length === each.pairs.length
        )
        expect([mending, each.table.name, same?.rows]).toEqual([mending, each.table.name, []])
        tried++
      }
    expect(tried).toBeGreaterThan(9)
  })

  it('are told of before a reference is declared over them, with what mends them', () => {
    const release = tableOf(design, 't_release') ?? expect.fail()
    const result = apply(design, {
      kind: 'relationship.add',
      parent: 't_volunteer',
      child: release.id,
      foreignKey: 'f_new',
      columns: [{ id: 'c_release_volunteer_id', name: 'volunteer_id' }],
      required: false,
      onDelete: 'SET NULL',
      onUpdate: 'CASCADE'
    })
    if (result.ok) return expect.fail('it was declared')
    expect(result.refusal.message).toMatch(/refer by volunteer_id to nothing that is in volunteer/)
    expect(result.refusal.offers.length).toBeGreaterThan(1)
    for (const { operation } of result.refusal.offers) expect(apply(design, operation).ok).toBe(true)
  })
})

async function build(design: Design, dialect: Provable, engine: Engine): Promise<void> {
  const { catalog } = dialect.catalog(design)
  await dialect.engine.reset(engine.query)
  for (const sql of dialect.engine.onConnect) await engine.query(sql)
  // Rows that point at nothing are there where nothing has held them.
  const bare = {
    ...catalog,
    tables: catalog.tables.map((table) => ({ ...table, foreignKeys: [], triggers: [] }))
  }
  for (const { sql } of dialect.create(bare)) await engine.query(sql)
  for (const { sql } of insertRows(design, catalog, dialect)) await engine.query(sql)
}

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('rows that point at nothing, on %s', (name) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  it('are found and mended by SQL as they are here', async () => {
    const design = astray()
    const { catalog } = dialect.catalog(design)
    for (const each of found(design))
      for (const mending of mendingsFor(each)) {
        await build(design, dialect, engine)
        expect(await engine.query(orphansSql(design, dialect, each, 'look'))).toHaveLength(each.rows.length)
        const result = apply(design, mendOrphans(design, each, mending))
        const after = result.ok ? result.design : expect.fail()
        await engine.query(orphansSql(design, dialect, each, mending))
        expect(await engine.query(orphansSql(design, dialect, each, 'look'))).toEqual([])
        for (const id of [each.table.id, each.parent.id]) {
          const table = tableOf(after, id) ?? expect.fail()
          const target = catalog.tables.find((one) => one.id === id) ?? expect.fail()
          const rows = await engine.query(selectRows(table, target, dialect))
          const told = [mending, table.name, compareRows(table, rows)]
          expect(told).toEqual([mending, table.name, { missing: 0, unexpected: 0 }])
        }
      }
  })
})
