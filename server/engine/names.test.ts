import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { apply } from '../../core/edit/apply.ts'
import { emptyDesign, type Column, type Design } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { newTable } from '../../core/relate/propose.ts'
import { proveDesign, proveMigration, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** Names that some engine keeps for itself, as names of everything that has one. */
const KEPT = [
  'primary',
  'PRIMARY',
  'gen_clust_index',
  'db_row_id',
  'DB_TRX_ID',
  'fts_doc_id',
  'xmin',
  'ctid',
  'tableoid',
  'sqlite_stat1',
  'SQLite_x',
  '#sql-1',
  '#mysql50#a',
  'pg_toast',
  'information_schema',
  'public',
  'text',
  'int4',
  '_text',
  'own_text',
  'own_primary'
]

function everythingCalled(names: readonly string[]): Design {
  const columns = names.map((name, at): Column => ({
    id: `c_${at}`,
    name,
    type: { kind: 'integer', size: 'normal' },
    required: true
  }))
  const tables = names.map((name, at) => ({
    ...newTable(name),
    id: `t_${at}`,
    schema: `s_${at}`,
    primaryKey: { id: `k_${at}`, columns: [`c_${at}`, `c_${at}_list`], name },
    columns: [
      { ...(columns[at] as Column) },
      {
        id: `c_${at}_list`,
        name: `${name}_list`,
        type: { kind: 'enum' as const, enum: `e_${at}` },
        required: true
      }
    ],
    checks: [{ id: `x_${at}`, name: names[(at + 1) % names.length] as string, condition: `{c_${at}} > 0` }],
    indexes: [
      {
        id: `i_${at}`,
        name: names[(at + 2) % names.length] as string,
        columns: [{ column: `c_${at}_list`, descending: false }],
        unique: false
      }
    ],
    rows: [{ [`c_${at}`]: 1, [`c_${at}_list`]: 'one' }]
  }))
  const apart = names.filter(
    (name, at) => names.findIndex((other) => other.toLowerCase() === name.toLowerCase()) === at
  )
  return {
    ...emptyDesign('Kept', 'd_kept'),
    schemas: apart.map((name) => ({ id: `s_${names.indexOf(name)}`, name })),
    enums: names.map((name, at) => ({ id: `e_${at}`, name, values: ['one', 'two'] })),
    tables: tables
      .filter(({ name }) => apart.includes(name))
      .map((table) => ({
        ...table,
        columns: [
          ...table.columns,
          ...columns
            .filter((column) => apart.includes(column.name) && column.name !== table.name)
            .map((column) => ({ ...column, id: `${table.id}_${column.id}`, required: false }))
        ]
      }))
  }
}

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('names on %s', (name) => {
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(DIALECTS[name])
  })
  afterAll(() => engine.close())

  it('may be what an engine keeps for itself: they are written otherwise, and that is said', async () => {
    const design = everythingCalled(KEPT)
    const bare = {
      ...design,
      schemas: [],
      tables: design.tables.map((table) => ({ ...table, schema: undefined }))
    }
    for (const each of [design, bare])
      expect(sayTrouble(await proveDesign(each, DIALECTS[name], engine.query))).toEqual([])
    const said = DIALECTS[name]
      .catalog(bare)
      .remarks.map((remark) => remark.message)
      .join('\n')
    expect(said).toContain(
      `${DIALECTS[name].title} keeps the name ${{ sqlite: 'sqlite_stat1', postgresql: 'xmin', mariadb: 'db_row_id' }[name]} for itself`
    )
  })

  it('may be the same in two schemas, and in the one that is there already', async () => {
    const schemas = ['staff', 'public'].map((each) => ({ id: `s_${each}`, name: each }))
    const tables = [undefined, ...schemas].map((schema) => ({ ...newTable('person'), schema: schema?.id }))
    const design = { ...emptyDesign('Schemas', 'd_schemas'), schemas, tables }
    expect(sayTrouble(await proveDesign(design, DIALECTS[name], engine.query))).toEqual([])
    const { catalog, remarks } = DIALECTS[name].catalog(design)
    expect(catalog.tables.map((table) => [table.name, table.primaryKey?.name])).toEqual(
      name === 'postgresql'
        ? [
            ['person', 'person_pk'],
            ['staff\u0000person', 'person_pk'],
            ['person_2', 'person_pk_2']
          ]
        : [
            ['person', 'person_pk'],
            ['staff_person', 'person_pk_2'],
            ['public_person', 'person_pk_3']
          ].map(([table, key]) => [table, name === 'mariadb' ? 'PRIMARY' : key])
    )
    expect(remarks.length).toBe(name === 'postgresql' ? 1 : 2)
  })
})

it('on postgresql, tables of one name that change places between schemas take their keys, indexes and rows along', async () => {
  const engine = await openEngine(DIALECTS.postgresql)
  const schemas = ['staff', 'birds', 'seals'].map((each) => ({ id: `s_${each}`, name: each }))
  const tables = schemas.map((schema, at) => {
    const table = newTable(at === 2 ? 'keeper' : 'person')
    const column: Column = {
      id: `c_${at}_name`,
      name: 'name',
      type: { kind: 'text', length: 20 },
      required: true
    }
    return {
      ...table,
      id: `t_${at}`,
      schema: schema.id,
      columns: [...table.columns, column],
      indexes: [{ id: `i_${at}`, columns: [{ column: column.id, descending: false }], unique: true }],
      rows: [{ [table.columns[0]?.id as string]: 1, [column.id]: `number ${at}` }]
    }
  })
  const from: Design = { ...emptyDesign('Places', 'd_places'), schemas, tables }
  const result = apply(from, {
    kind: 'batch',
    label: 'all change',
    operations: [
      { kind: 'table.setSchema', table: 't_0', schema: null },
      { kind: 'table.setSchema', table: 't_1', schema: 's_staff' },
      { kind: 'table.rename', table: 't_2', name: 'person' },
      { kind: 'table.setSchema', table: 't_2', schema: 's_birds' },
      { kind: 'table.rename', table: 't_0', name: 'keeper' },
      { kind: 'table.setSchema', table: 't_0', schema: 's_seals' }
    ]
  })
  if (!result.ok) throw new Error(result.refusal.message)
  expect(sayTrouble(await proveMigration(from, result.design, DIALECTS.postgresql, engine.query))).toEqual([])
  await engine.close()
})

it('on postgresql, every type of its own is known as a name that no list of values can have', async () => {
  const engine = await openEngine(DIALECTS.postgresql)
  const rows = await engine.query(
    "SELECT typname AS name FROM pg_type WHERE typnamespace = 'pg_catalog'::regnamespace"
  )
  expect(rows.length).toBeGreaterThan(100)
  expect(
    rows.map((row) => String(row.name)).filter((type) => !DIALECTS.postgresql.facts.kept?.list?.test(type))
  ).toEqual([])
  await engine.close()
})

it.each([
  ['a name that another gives away', { t_dose: 'ward', t_ward: 'pen_2' }, {}],
  ['names that two exchange', { t_dose: 'ward', t_ward: 'dose' }, {}],
  ['a name that another takes along to a schema', { t_dose: 'ward' }, { t_ward: 's_staff' }]
] as [string, Record<string, string>, Record<string, string>][])(
  'on postgresql, tables get %s, and their keys with them',
  async (_, names, schemas) => {
    const demo = fernhollow().design
    const operations: Operation[] = [
      ...Object.keys(names).map((table, at): Operation => ({
        kind: 'table.rename',
        table,
        name: `gone_${at}`
      })),
      ...Object.entries(schemas).map(([table, schema]): Operation => ({
        kind: 'table.setSchema',
        table,
        schema
      })),
      ...Object.entries(names).map(([table, name]): Operation => ({ kind: 'table.rename', table, name }))
    ]
    const result = apply(demo, { kind: 'batch', label: 'all change', operations })
    if (!result.ok) throw new Error(result.refusal.message)
    const engine = await openEngine(DIALECTS.postgresql)
    const proof = await proveMigration(demo, result.design, DIALECTS.postgresql, engine.query)
    expect(sayTrouble(proof)).toEqual([])
    await engine.close()
  }
)
