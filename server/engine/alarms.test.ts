import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readExpression } from '../../core/design/expressions.ts'
import { emptyDesign, emptyTable, type Column, type Design, type Table } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { proveDesign, sayTrouble } from '../../core/version/proof.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'
import { column } from '../../tests/columns.ts'

const LIST = { id: 'e_temper', name: 'temper', values: ['calm', 'wary'] }
const COLUMNS = [
  column('id', 'integer', { required: true }),
  column('weight', 'decimal(8,2)'),
  column('ratio', 'float'),
  column('doses', 'integer'),
  column('name', 'text(40)'),
  column('code', 'char(6)'),
  column('body', 'native sqlite: text'),
  column('seen', 'timestamp zone'),
  column('day', 'date'),
  column('temper', 'integer', { type: { kind: 'enum', enum: LIST.id } }),
  column('held', 'boolean')
]
const kept = (text: string, wanted?: Column['type'], columns: readonly Column[] = COLUMNS): string => {
  const read = readExpression(text, { columns, enums: [LIST], ...(wanted && { wanted }) })
  return read.ok ? read.value : expect.fail(`${text}: ${read.message}`)
}

/** Conditions that engines print otherwise than they were written, or mean otherwise where nothing is said. */
const CONDITIONS = [
  'round(weight) = 3 or weight is null',
  'doses % 2 = 1 or doses is null',
  'ratio % 2 < 2',
  'weight % 0.5 < 1',
  'doses / 2 >= 0',
  "name <> '🦔'",
  "name not like '100\\%' escape '\\'",
  "name not like 'B\\%'",
  "code like 'A__' or code is null",
  "coalesce(temper, 'calm') in ('calm', 'wary')",
  'seen > day or day is null',
  'case when held then doses > 1 else true end',
  '(doses > 1) = held or held is null or doses is null',
  'coalesce(held, true)'
]

const table = (more: Partial<Table> = {}): Table => ({
  ...emptyTable('stay', 't_stay'),
  columns: COLUMNS,
  primaryKey: { id: 'k_stay', columns: ['c_id'] },
  checks: CONDITIONS.map((text, at) => ({ id: `x_${at}`, condition: kept(text) })),
  ...more
})

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('on %s', (name) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  const troubleWith = async (tables: Table[]): Promise<string[]> => {
    const design: Design = { ...emptyDesign('Stays', 'd_s'), enums: [LIST], tables }
    return sayTrouble(await proveDesign(design, dialect, engine.query))
  }

  it('nothing that is only spelled otherwise is taken for a difference', async () => {
    expect(await troubleWith([table()])).toEqual([])
  })

  it.each([
    ['doses', 'doses / 2', 'integer'],
    ['rest', 'ratio % doses', 'float'],
    ['rounded', 'round(weight)', 'integer'],
    ['twice', 'weight * ratio', 'decimal(12,2)'],
    ['label', "upper(name) || '-' || code", 'text(60)'],
    ['on_day', 'coalesce(day, seen)', 'date'],
    ['mood', "case when doses > 1 then 'wary' else temper end", 'enum temper'],
    ['late', "seen > '2026-05-03 07:40:00'", 'boolean']
  ])('a column is computed as %s = %s, and from that another', async (_, text, type) => {
    const parsed = type === 'enum temper' ? COLUMNS[9]?.type : undefined
    const made = column('made', parsed ? 'integer' : type, { ...(parsed && { type: parsed }) })
    const first = { ...made, computed: kept(text, made.type) }
    const again = column('again', 'boolean')
    const second = {
      ...again,
      computed: kept('made is not null and id > 0', again.type, [...COLUMNS, first])
    }
    expect(await troubleWith([table({ columns: [...COLUMNS, first, second] })])).toEqual([])
  })

  it('a computed column refers, and its rows lead somewhere', async () => {
    const ward: Table = {
      ...emptyTable('ward', 't_ward'),
      columns: [{ ...column('ward', 'text(40)', { required: true }), id: 'c_ward' }],
      primaryKey: { id: 'k_ward', columns: ['c_ward'] },
      rows: [{ c_ward: 'A1' }]
    }
    const made = { ...column('ward_code', 'text(40)'), id: 'c_code' }
    const pen: Table = {
      ...emptyTable('pen', 't_pen'),
      columns: [
        column('id', 'integer', { required: true }),
        column('name', 'text(40)'),
        { ...made, computed: kept('upper(name)', made.type) }
      ],
      primaryKey: { id: 'k_pen', columns: ['c_id'] },
      foreignKeys: [
        {
          id: 'f_pen',
          table: ward.id,
          key: 'k_ward',
          pairs: [{ column: 'c_code', refersTo: 'c_ward' }],
          onDelete: 'NO ACTION',
          onUpdate: 'NO ACTION'
        }
      ],
      rows: [{ c_id: 1, c_name: 'a1' }, { c_id: 2 }]
    }
    expect(await troubleWith([ward, pen])).toEqual([])
  })
})

describe('what others have made is read as it is', () => {
  it('in SQLite: a reference without columns, checks without names, an index on an expression', async () => {
    const dialect = DIALECTS.sqlite
    const engine = await openEngine(dialect)
    await engine.query('CREATE TABLE a (x INTEGER, y TEXT, PRIMARY KEY (y, x))')
    await engine.query(
      'CREATE TABLE b (x INTEGER CHECK (x > 0), y TEXT, CHECK (y <> x), CONSTRAINT b_fk FOREIGN KEY (y, x) REFERENCES a DEFERRABLE INITIALLY DEFERRED)'
    )
    await engine.query('CREATE INDEX b_i ON b (lower(y), x DESC)')
    const { tables } = await dialect.engine.read(engine.query)
    const b = tables.find(({ name }) => name === 'b')
    expect(b?.foreignKeys).toMatchObject([{ name: 'b_fk', refersTo: ['y', 'x'], deferrable: 'deferred' }])
    expect(b?.checks.map(({ condition }) => condition)).toEqual([['x > 0'], ['y <> x']])
    expect(b?.indexes).toMatchObject([{ columns: ['lower(y)', 'x'], descending: [false, true] }])
    await engine.close()
  })

  it('in PostgreSQL: columns that are only carried along, deferred references, partitioned tables', async () => {
    const dialect = DIALECTS.postgresql
    const engine = await openEngine(dialect)
    await engine.query('CREATE TABLE a (x integer PRIMARY KEY)')
    await engine.query(
      'CREATE TABLE b (x integer CONSTRAINT b_fk REFERENCES a DEFERRABLE INITIALLY DEFERRED, y text)'
    )
    await engine.query('CREATE UNIQUE INDEX b_i ON b (x) INCLUDE (y)')
    await engine.query('CREATE TABLE c (x integer, day date) PARTITION BY RANGE (day)')
    await engine.query("CREATE TABLE c_1 PARTITION OF c FOR VALUES FROM ('2026-01-01') TO ('2027-01-01')")
    const { tables } = await dialect.engine.read(engine.query)
    const b = tables.find(({ name }) => name === 'b')
    expect(b?.foreignKeys).toMatchObject([{ name: 'b_fk', deferrable: 'deferred' }])
    expect(b?.indexes).toMatchObject([{ columns: ['x'], descending: [false] }])
    expect(tables.map(({ name }) => name)).toEqual(['a', 'b', 'c'])
    await engine.close()
  })
})
