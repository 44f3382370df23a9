import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsIn } from '../../core/check/index.ts'
import {
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type ForeignKey,
  type Table
} from '../../core/design/model.ts'
import { DIALECTS, type Provable } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import { insertRows } from '../../core/rows/statements.ts'
import { proveDesign, sayTrouble } from '../../core/version/proof.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const column = (id: string, name: string): Column => ({
  id,
  name,
  type: { kind: 'integer', size: 'normal' },
  required: true
})
const reference = (id: string, table: string, own: string, its: string): ForeignKey => ({
  id,
  table: `t_${table}`,
  key: `k_${table}`,
  pairs: [{ column: own, refersTo: its }],
  onDelete: 'NO ACTION',
  onUpdate: 'NO ACTION'
})
const table = (name: string, other: string, n: number): Table => ({
  ...emptyTable(name, `t_${name}`),
  columns: [column(`c_${name}`, `${name}_id`), column(`c_${name}_${other}`, `${other}_id`)],
  primaryKey: { id: `k_${name}`, columns: [`c_${name}`] },
  foreignKeys: [reference(`f_${name}`, other, `c_${name}_${other}`, `c_${other}`)],
  rows: [{ [`c_${name}`]: n, [`c_${name}_${other}`]: n + 1 }]
})

/** A ward that must have a warden, who must be of a ward; one row of each, that need each other. */
const needing = (dialect: Provable): Design => {
  const ward = table('ward', 'warden', 1)
  const warden = table('warden', 'ward', 2)
  const rows = [{ c_warden: 2, c_warden_ward: 1 }]
  return { ...emptyDesign('Wards', 'd_w'), dialects: [dialect.name], tables: [ward, { ...warden, rows }] }
}

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('tables that need each other, on %s', (name) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  const failureOf = async (statements: readonly string[]): Promise<string> => {
    try {
      for (const sql of statements) await engine.query(sql)
      return ''
    } catch (error) {
      return String(error)
    }
  }

  it('get their rows in one transaction, which fails at its end where one is missing; or it is told', async () => {
    const design = needing(dialect)
    const found = [...findingsIn(design).values()].flat()
    const { catalog } = dialect.catalog(design)
    await dialect.engine.reset(engine.query)
    const made = [...dialect.engine.onConnect, ...dialect.create(catalog).map(({ sql }) => sql)]
    expect(await failureOf(made)).toBe('')
    const rows = insertRows(design, catalog, dialect).map(({ sql }) => sql)
    expect(rows).toHaveLength(2)
    const all = await failureOf(['BEGIN', ...rows, 'COMMIT'])
    // What it says to do about it is all that there is to do.
    const told = found.find(({ rule }) => rule === 'needed in a circle') ?? expect.fail('it is not told')
    const bare = { ...design, tables: design.tables.map((each) => ({ ...each, rows: [] })) }
    const mended = told.fix && apply(bare, told.fix.operation)
    expect(mended?.ok && [...findingsIn(mended.design).values()].flat()).toEqual([])
    if (!dialect.facts.deferrable) {
      expect(all).toMatch(/foreign key/i)
      expect(told.severity).toBe('wrong')
      return
    }
    expect(all).toBe('')
    expect(told.severity).toBe('doubtful')
    expect(mended?.ok && mended.design.tables.flatMap(({ foreignKeys }) => foreignKeys)).toContainEqual(
      expect.objectContaining({ deferrable: 'deferred' })
    )
    await failureOf(['DELETE FROM ward'])
    await dialect.engine.reset(engine.query)
    expect(await failureOf(made)).toBe('')
    expect(await failureOf(['BEGIN', rows[0] as string, 'COMMIT'])).toMatch(/foreign key/i)
    await failureOf(['ROLLBACK'])
  })

  it('are proven with rows where they can have any, and said to be without where not', async () => {
    const bare = needing(dialect)
    const design = { ...bare, tables: bare.tables.map((each) => ({ ...each, rows: [] })) }
    const proof = await proveDesign(design, dialect, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    expect(proof.good).toBe(true)
    const [unproven] = proof.unproven.filter((each) => each.includes('no row'))
    expect(unproven).toEqual(
      dialect.facts.deferrable ? undefined : expect.stringMatching(/ward and warden had no row/)
    )
    const counted = await engine.query('SELECT count(*) AS n FROM ward')
    expect(Number(counted[0]?.n) > 0).toBe(dialect.facts.deferrable)
  })
})
