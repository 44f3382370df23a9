import { describe, expect, it } from 'vitest'
import { emptyDesign } from '../../design/model.ts'
import { bareTable, type Catalog, type CatalogColumn, type CatalogTable } from '../catalog.ts'
import type { Keepsake, MigrationInput } from '../migration.ts'
import { prepare } from './prepare.ts'

const column = (
  id: string,
  name: string,
  type = 'integer',
  rest: Partial<CatalogColumn> = {}
): CatalogColumn => ({
  id,
  name,
  type: { sql: type },
  required: true,
  default: undefined,
  generated: false,
  computed: undefined,
  note: undefined,
  ...rest
})
const table = (id: string, name: string, ...columns: CatalogColumn[]): CatalogTable => ({
  ...bareTable(id, name),
  columns
})
const catalog = (...tables: CatalogTable[]): Catalog => ({ schemas: [], enums: [], tables })
const input = (from: Catalog, to: Catalog, rest: Partial<MigrationInput>): MigrationInput => ({
  from,
  to,
  keep: [],
  restore: [],
  flow: { results: [], adds: [], fills: [], requires: [] },
  state: emptyDesign('Ward book', 'd_book'),
  early: [],
  ...rest
})
const WARD = table(
  't_ward',
  'ward',
  column('c_code', 'ward_code', 'char(3)'),
  column('c_name', 'name', 'varchar(40)')
)
const PEN = table('t_pen', 'pen', column('c_pen_ward', 'ward', 'char(3)'))

describe('the first steps of a migration', () => {
  it('are none where nothing comes early', () => {
    const given = input(catalog(WARD, PEN), catalog(WARD, PEN), {})
    expect(prepare(given)).toEqual({ steps: [], input: given })
  })

  it('count a new column under another name while its own is still in use', () => {
    const to = catalog(WARD, table('t_pen', 'pen', column('c_new', 'Ward', 'integer', { generated: true })))
    const { steps, input: after } = prepare(
      input(catalog(WARD, PEN), to, { early: [{ table: 't_pen', column: 'c_new' }] })
    )
    expect(steps.map(({ sql }) => sql)).toEqual([
      'ALTER TABLE pen ADD COLUMN "Ward_2" integer',
      'UPDATE pen AS own SET "Ward_2" = counted.n\n  FROM (SELECT rowid AS r, row_number() OVER (ORDER BY rowid) AS n FROM pen) AS counted\n  WHERE counted.r = own.rowid'
    ])
    // The rest goes on as if it had always been.
    expect(after.from.tables[1]?.columns.map(({ name }) => name)).toEqual(['ward', 'Ward_2'])
  })

  it('quote every name, whatever it is and wherever it stands', () => {
    const odd = 'a"b; --'
    const from = catalog(table('t_ward', odd, column('c_id', 'select')))
    const to = catalog(table('t_ward', odd, column('c_code', 'x; DROP TABLE y', 'char(3)')))
    const keepsake: Keepsake = {
      name: 'kept; 🦔',
      table: 't_ward',
      key: ['c_id'],
      columns: [{ id: 'c_code', name: 'x', why: 'dropped' }]
    }
    const { steps } = prepare(
      input(from, to, { early: [{ table: 't_ward', column: 'c_code' }], restore: [keepsake] })
    )
    expect(steps.map(({ sql }) => sql)).toEqual([
      'ALTER TABLE "a""b; --" ADD COLUMN "x; DROP TABLE y" char(3)',
      'UPDATE "a""b; --" AS own SET "x; DROP TABLE y" = kept.c_code\n  FROM "kept; 🦔" AS kept\n  WHERE kept.c_id = own."select"'
    ])
  })

  it('put back what was kept before anything is read of it', () => {
    const from = catalog(
      table('t_ward', 'ward', column('c_id', 'ward_id')),
      table('t_pen', 'pen', column('c_pen_ward_id', 'ward_id'))
    )
    const keepsake: Keepsake = {
      name: 'keepsake_ward',
      table: 't_ward',
      key: ['c_id'],
      columns: [{ id: 'c_code', name: 'ward_code', why: 'dropped' }]
    }
    const { steps } = prepare(
      input(from, catalog(WARD, PEN), {
        early: [{ table: 't_ward', column: 'c_code' }],
        restore: [keepsake]
      })
    )
    expect(steps.map(({ sql }) => sql)).toEqual([
      'ALTER TABLE ward ADD COLUMN ward_code char(3)',
      'UPDATE ward AS own SET ward_code = kept.c_code\n  FROM keepsake_ward AS kept\n  WHERE kept.c_id = own.ward_id'
    ])
  })
})
