import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { TYPES } from '../../tests/designs.ts'
import { emptyDesign, emptyTable, type Column, type Design, type Row } from '../../core/design/model.ts'
import { typeText, type Type } from '../../core/design/type.ts'
import { isWords, parseValue, type Value } from '../../core/design/value.ts'
import { parseDefault } from '../../core/design/default.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { proveDesign, sayTrouble } from '../../core/version/proof.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

/** Values at the edges of each type, as they are typed. */
const MOODS_TYPED = ['calm', "can't tell", 'back\\slash', 'wary; --']
const EDGES: Record<Type['kind'], string[]> = {
  integer: ['0', '-1', '32767', '-32768'],
  decimal: ['0', '-0.01', '999.99', '12345'],
  float: ['0', '-1.5', '1e-7', '123456.789'],
  boolean: ['true', 'false'],
  text: ['', "it's", 'a\\b', '"; DROP TABLE x; --', '🦔 قنفذ', 'line\nbreak', '%s $1 ?'],
  char: ['a', "'", 'é'],
  date: ['0001-01-01', '2028-02-29', '9999-12-31'],
  time: ['00:00:00', '23:59:59'],
  timestamp: ['1970-01-01 00:00:00', '2026-05-03 07:40:00'],
  uuid: ['00000000-0000-0000-0000-000000000000', 'ffffffff-ffff-4fff-bfff-ffffffffffff'],
  interval: ['PT0S', 'P2DT3H30M', 'PT45S'],
  enum: MOODS_TYPED,
  native: ['plain', "it's"],
  json: ['null', '{"a": [1, "it\'s", {}]}', '"x"', '[]'],
  binary: ['00', 'ff00ff', '27']
}

const MOODS = { id: 'e_mood', name: 'mood', values: MOODS_TYPED }
const ALL: Type[] = [
  ...TYPES,
  { kind: 'enum', enum: MOODS.id },
  { kind: 'native', spelled: { any: 'varchar(40)', sqlite: 'NVARCHAR(40)' } }
]

/** Defaults that are worked out. */
const EXPRESSIONS: Partial<Record<Type['kind'], string[]>> = {
  text: ["= upper('it''s') || lower('X')", '= current_user'],
  uuid: ['= new_uuid()'],
  integer: ['= 2 + 3 * -1'],
  decimal: ['= abs(-5) / 2'],
  timestamp: ['= now()'],
  date: ['= today()'],
  boolean: ['= 1 < 2']
}

function valuesOf(type: Type): Value[] {
  return EDGES[type.kind].flatMap((text) => {
    const parsed = parseValue(text, type)
    return parsed.ok ? [parsed.value] : []
  })
}

/** A table with one column of the type, a row for each edge value and one that is empty. */
function tableOfType(type: Type, column: Partial<Column> = {}): Design {
  const rows: Row[] = [...valuesOf(type), null].map((value, at) => ({
    c_id: at + 1,
    ...(value !== null && { c_v: value })
  }))
  return {
    ...emptyDesign('Types', 'd_types'),
    enums: [MOODS],
    tables: [
      {
        ...emptyTable('types', 't_types'),
        primaryKey: { id: 'k_types', columns: ['c_id'] },
        rows,
        columns: [
          { id: 'c_id', name: 'id', type: { kind: 'integer', size: 'normal' }, required: true },
          { id: 'c_v', name: 'v', type, required: false, ...column }
        ]
      }
    ]
  }
}

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('%s', (name) => {
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(DIALECTS[name])
  })
  afterAll(() => engine.close())

  it.each(ALL.map((type) => [typeText(type), type] as const))(
    'takes %s, gives every edge value back, and reads back every default',
    async (_, type) => {
      expect(valuesOf(type).length).toBeGreaterThan(1)
      expect(sayTrouble(await proveDesign(tableOfType(type), DIALECTS[name], engine.query))).toEqual([])
      const leftOut = new Set<string>()
      for (const text of [...EDGES[type.kind], 'now', ...(EXPRESSIONS[type.kind] ?? [])]) {
        const parsed = parseDefault(
          isWords(type) && !text.startsWith('=') ? `'${text.replaceAll("'", "''")}'` : text,
          type,
          [MOODS]
        )
        if (!parsed.ok || !parsed.value) continue
        const design = tableOfType(type, { required: true, default: parsed.value })
        // What an engine has no words for is left out, and told of; a row that leans on it is refused.
        const isTold = DIALECTS[name]
          .catalog(design)
          .remarks.some(({ finding }) => finding?.rule === 'function that is not there')
        if (isTold) {
          leftOut.add(text)
          continue
        }
        const bare = { ...design, tables: design.tables.map((table) => ({ ...table, rows: [{ c_id: 1 }] })) }
        expect(sayTrouble(await proveDesign(bare, DIALECTS[name], engine.query))).toEqual([])
      }
      expect([...leftOut].every((text) => name === 'sqlite' && text.includes('current_user'))).toBe(true)
    }
  )

  it('is caught by a proof when it has something else than the design', async () => {
    const query: Engine['query'] = async (sql) => {
      // An engine that drops a reference's action, as some do without a word.
      return engine.query(sql.replace('ON DELETE CASCADE', 'ON DELETE NO ACTION'))
    }
    const ward = tableOfType({ kind: 'text' }).tables[0] ?? expect.fail('no table')
    const pen = {
      ...ward,
      id: 't_pen',
      name: 'pen',
      primaryKey: { id: 'k_pen', columns: ['c_pen'] },
      columns: [{ ...(ward.columns[0] as Column), id: 'c_pen' }],
      rows: [{ c_pen: 1 }],
      foreignKeys: [
        {
          id: 'f_pen',
          table: ward.id,
          key: 'k_types',
          pairs: [{ column: 'c_pen', refersTo: 'c_id' }],
          onDelete: 'CASCADE' as const,
          onUpdate: 'CASCADE' as const
        }
      ]
    }
    const proof = await proveDesign({ ...emptyDesign('Wards'), tables: [ward, pen] }, DIALECTS[name], query)
    expect(proof.good).toBe(false)
    expect(sayTrouble(proof)).toEqual([
      expect.stringMatching(/pen: foreign key: expected .*on delete CASCADE.*found none/),
      expect.stringMatching(/found .*on delete NO ACTION/)
    ])
  })

  it('stops between two statements when it is told to, and says so', async () => {
    const signal = { aborted: false }
    const proof = await proveDesign(tableOfType({ kind: 'date' }), DIALECTS[name], engine.query, {
      signal,
      report: (now) => {
        signal.aborted ||= now.steps[1]?.state === 'good'
      }
    })
    expect(proof).toMatchObject({ good: false, cancelled: true })
    expect(proof.steps.map((step) => step.state)).toEqual(['good', 'good', 'cancelled', 'waiting'])
  })
})
