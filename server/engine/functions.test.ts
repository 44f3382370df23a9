import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsIn } from '../../core/check/index.ts'
import { evaluate } from '../../core/design/evaluate.ts'
import { readExpression } from '../../core/design/expressions.ts'
import {
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type Row,
  type Table
} from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { proveDesign, sayTrouble } from '../../core/version/proof.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'
import { column } from '../../tests/columns.ts'

const OWN = [
  column('visit_id', 'integer', { required: true }),
  column('day', 'date'),
  column('seen', 'timestamp zone'),
  column('noted', 'timestamp')
]
const OWN_TEXT = column('said', 'text(20)')
const kept = (text: string, wanted?: Column['type']): string => {
  const read = readExpression(text, { columns: OWN, enums: [], ...(wanted && { wanted }) })
  return read.ok ? read.value : expect.fail(`${text}: ${read.message}`)
}

/** What is told of a day and of moments, as columns that are computed. */
const TOLD: [name: string, type: string, expression: string][] = [
  ['of_year', 'integer', 'year(day)'],
  ['of_month', 'integer', 'month(seen)'],
  ['of_day', 'integer', 'day(noted)'],
  ['of_week', 'integer', 'weekday(day)'],
  ['of_week_seen', 'integer', 'weekday(seen)'],
  ['of_hour', 'integer', 'hour(seen)'],
  ['of_minute', 'integer', 'minute(noted)'],
  ['midnight', 'integer', 'hour(day)'],
  ['on_the_door', 'text(40)', "date_text(day, 'DD.MM.YYYY')"],
  ['at_the_desk', 'text(40)', "date_text(seen, 'YYYY-MM-DD hh:mm:ss')"],
  ['for_a_file', 'text(40)', "date_text(noted, 'YYYYMMDD')"],
  ['odd', 'text(40)', "date_text(noted, '100% ''DD'' \\ [MM]')"]
]
const told = TOLD.map(([name, type, text]) => {
  const made = column(name, type)
  return { ...made, computed: kept(text, made.type) }
})

const ROWS: Row[] = [
  { c_visit_id: 1, c_day: '2026-05-03', c_seen: '2026-05-03 23:59:59', c_noted: '2026-05-04 00:05:00' },
  { c_visit_id: 2, c_day: '2024-02-29', c_seen: '2023-12-31 00:00:00', c_noted: '1999-12-31 12:34:56' },
  { c_visit_id: 3, c_day: '1970-01-01', c_seen: '2026-11-01 07:40:00' },
  { c_visit_id: 4 }
]

const visits = (more: Partial<Table> = {}): Design => ({
  ...emptyDesign('Visits', 'd_visits'),
  tables: [
    {
      ...emptyTable('visit', 't_visit'),
      columns: [...OWN, ...told],
      primaryKey: { id: 'k_visit', columns: ['c_visit_id'] },
      checks: [
        { id: 'x_week', condition: kept('weekday(noted) <= 7 and year(day) > 1900 or day is null') },
        { id: 'x_text', condition: kept("date_text(day, 'MM') <> '13'") }
      ],
      rows: ROWS,
      ...more
    }
  ]
})

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('on %s', (name) => {
  const dialect = DIALECTS[name]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  it('parts and formats of days and moments are what is worked out without an engine', async () => {
    const design = visits()
    expect(sayTrouble(await proveDesign(design, dialect, engine.query))).toEqual([])
    const [table] = design.tables
    const names = told.map((each) => dialect.quote(each.name)).join(', ')
    const found = await engine.query(`SELECT ${names} FROM visit ORDER BY visit_id`)
    const wanted = ROWS.map((row) =>
      Object.fromEntries(
        told.map((each) => [each.name, table ? evaluate(each.computed, table, row) : undefined])
      )
    )
    expect(found).toEqual(wanted)
    expect(Object.values(wanted[0] ?? {})).toEqual([
      2026,
      5,
      4,
      7,
      7,
      23,
      5,
      0,
      '03.05.2026',
      '2026-05-03 23:59:59',
      '20260504',
      "100% '04' \\ [05]"
    ])
  })

  it('are the same whatever zone the session is in', async () => {
    if (name === 'sqlite') return
    await proveDesign(visits(), dialect, engine.query)
    const zone = name === 'postgresql' ? "SET TIME ZONE 'Pacific/Auckland'" : "SET time_zone = '+13:00'"
    const said = async (): Promise<unknown> =>
      engine.query('SELECT of_hour, of_week_seen, at_the_desk FROM visit ORDER BY visit_id')
    const before = await said()
    await engine.query(zone)
    expect(await said()).toEqual(before)
    await engine.query('INSERT INTO visit (visit_id, seen) SELECT 9, seen FROM visit WHERE visit_id = 1')
    expect(await engine.query('SELECT of_hour FROM visit WHERE visit_id = 9')).toEqual([{ of_hour: 23 }])
  })

  it('letters beyond A to Z are made small, or the checks say that they are not', async () => {
    const column = {
      ...OWN_TEXT,
      default: { kind: 'expression' as const, expression: kept("lower('ÄÖ')", OWN_TEXT.type) }
    }
    const plain = {
      ...column,
      id: 'c_plain',
      name: 'plain',
      default: { kind: 'expression' as const, expression: kept("lower('AB')", OWN_TEXT.type) }
    }
    const design: Design = {
      ...emptyDesign('Signs', 'd_signs'),
      dialects: [name],
      tables: [
        {
          ...emptyTable('sign', 't_sign'),
          columns: [OWN[0] as Column, column, plain],
          primaryKey: { id: 'k_sign', columns: ['c_visit_id'] }
        }
      ]
    }
    expect(sayTrouble(await proveDesign(design, dialect, engine.query))).toEqual([])
    await engine.query('INSERT INTO sign (visit_id) VALUES (90001)')
    const found = await engine.query('SELECT said, plain FROM sign WHERE visit_id = 90001')
    const isKept = found[0]?.said === 'ÄÖ'
    expect(found).toEqual([{ said: isKept ? 'ÄÖ' : 'äö', plain: 'ab' }])
    const told = [...findingsIn(design).values()]
      .flat()
      .filter(({ rule }) => rule === 'letters that stay as they are')
    expect(told.map(({ column: id }) => id)).toEqual(isKept ? ['c_said'] : [])
  })
})
