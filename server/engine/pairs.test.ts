import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tableOf } from '../../core/design/directory.ts'
import { readExpression } from '../../core/design/expressions.ts'
import { apply } from '../../core/edit/apply.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { missingPairs, pairsSql, type PairQuestion } from '../../core/rows/pairs.ts'
import { compareRows, insertRows, selectRows } from '../../core/rows/statements.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const { design: demo } = fernhollow()
const shifts = tableOf(demo, 't_shift_volunteer')
const side = (table: string): string => shifts?.foreignKeys.find((key) => key.table === table)?.id ?? ''
const volunteerSkill = tableOf(demo, 't_volunteer_skill')
const by = (table: string): string => volunteerSkill?.foreignKeys.find((key) => key.table === table)?.id ?? ''
const skilled = { junction: 't_volunteer_skill', by: by('t_volunteer'), far: by('t_skill'), place: 0 }
const named = (text: string): string => {
  const read = readExpression(text, {
    columns: tableOf(demo, 't_volunteer')?.columns ?? [],
    enums: demo.enums
  })
  return read.ok ? read.value : expect.fail(read.message)
}

const QUESTIONS: [string, PairQuestion][] = [
  [
    'everybody for every shift',
    {
      junction: 't_shift_volunteer',
      sides: [{ foreignKey: side('t_shift') }, { foreignKey: side('t_volunteer') }]
    }
  ],
  [
    'every volunteer with the skill for this shift',
    {
      junction: 't_shift_volunteer',
      sides: [
        { foreignKey: side('t_shift'), places: [4] },
        { foreignKey: side('t_volunteer'), has: skilled }
      ]
    }
  ],
  [
    'those whose name meets a condition',
    {
      junction: 't_shift_volunteer',
      sides: [
        { foreignKey: side('t_shift'), places: [0, 1] },
        { foreignKey: side('t_volunteer'), where: named("name like '%a%'") }
      ]
    }
  ]
]

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)(
  'the missing pairs of a junction, on %s',
  (name) => {
    const dialect = DIALECTS[name]
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
    let engine: Engine
    beforeAll(async () => {
      engine = await openEngine(dialect)
    })
    afterAll(() => engine.close())

    it.each(QUESTIONS)('are the same by SQL: %s; run again, it puts none in', async (_, question) => {
      const { catalog } = dialect.catalog(design)
      await dialect.engine.reset(engine.query)
      for (const sql of dialect.engine.onConnect) await engine.query(sql)
      for (const { sql } of dialect.create(catalog)) await engine.query(sql)
      for (const { sql } of insertRows(design, catalog, dialect)) await engine.query(sql)
      const pairs = missingPairs(design, question)
      expect(pairs.rows.length).toBeGreaterThan(0)
      expect(pairs.rows.length + pairs.there).toBe(pairs.wanted)
      for (let twice = 0; twice < 2; twice++) await engine.query(pairsSql(design, question, dialect))
      const table = tableOf(design, 't_shift_volunteer') ?? expect.fail()
      const target = catalog.tables.find(({ id }) => id === table.id) ?? expect.fail()
      const found = await engine.query(selectRows(table, target, dialect))
      expect(compareRows({ ...table, rows: [...table.rows, ...pairs.rows] }, found)).toEqual({
        missing: 0,
        unexpected: 0
      })
      const come = pairs.rows.map((row, at) => ({ at: table.rows.length + at, row }))
      const filled = apply(design, { kind: 'rows.change', table: table.id, changed: [], gone: [], come })
      expect(filled.ok && missingPairs(filled.design, question).rows).toEqual([])
    })
  }
)
