import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import type { Design, Row, Table } from '../design/model.ts'
import { parseType } from '../design/type.ts'
import { fits } from '../design/value.ts'
import { DIALECTS } from '../dialect/index.ts'
import { writeSql } from '../definitions/create-script.ts'
import { rowLabel } from '../relate/label.ts'
import { sameValue } from '../design/same.ts'
import { evaluate } from '../design/evaluate.ts'
import { withSampleRows } from './sample.ts'
import { compareRows, insertRows } from './statements.ts'
import { times } from '../../tests/times.ts'

const { design } = fernhollow()
const need = (id: string, of: Design = design): Table => tableOf(of, id) ?? expect.fail(id)

describe('one spelling for values', () => {
  it.each([
    ['0.20', '0.2', 'decimal(8,2)', true],
    ['-0.00', '0', 'decimal(8,2)', true],
    ['10', '1', 'decimal(8,2)', false],
    ['0007', 7, 'integer', true],
    ['9007199254740993', '9007199254740992', 'bigint', false],
    [true, 1, 'boolean', true],
    ['f', false, 'boolean', true],
    ['ROAD  ', 'ROAD', 'char(6)', true],
    ['a ', 'a', 'text', false],
    ['2026-05-03 07:40:00+00', '2026-05-03 07:40:00', 'timestamp zone', true],
    ['{"a": 1, "b": [2]}', '{"b":[2],"a":1}', 'json', true],
    ['{"a":1}', '{"a":2}', 'json', false],
    ['00FF', '00ff', 'binary', true],
    [null, '', 'text', false],
    [null, undefined, 'text', true],
    ['1e3', 1000, 'float', true]
  ] as const)('%s and %s as %s: %s', (a, b, type, same) => {
    const parsed = parseType(type)
    expect(parsed.ok && sameValue(a, b, parsed.value)).toBe(same)
  })
})

describe('sample rows', () => {
  it('fit their columns, keep their keys and point at rows that are there, for any design', () => {
    fc.assert(
      fc.property(choices(40, 10), (taken) => {
        const filled = withSampleRows(grow(taken))
        for (const table of filled.tables) {
          for (const row of table.rows) {
            for (const column of table.columns) {
              const value = row[column.id] ?? null
              expect(fits(value, column.type)).toBe(true)
              if (column.required && column.computed === undefined) expect(value).not.toBeNull()
            }
            for (const { table: parent, pairs } of table.foreignKeys) {
              const values = pairs.map((pair) => row[pair.column] ?? null)
              if (values.every((value) => value !== null))
                expect(
                  need(parent, filled).rows.some((other) =>
                    pairs.every((pair, at) => other[pair.refersTo] === values[at])
                  )
                ).toBe(true)
            }
          }
          for (const key of [table.primaryKey, ...table.uniques]) {
            const full = table.rows.filter((row) => key?.columns.every((id) => (row[id] ?? null) !== null))
            if (key)
              expect(new Set(full.map((row) => JSON.stringify(key.columns.map((id) => row[id])))).size).toBe(
                full.length
              )
          }
        }
      }),
      { numRuns: times(150) }
    )
  })

  it('meet every check, and leave what is computed to the engine', () => {
    let checks = 0
    fc.assert(
      fc.property(choices(60, 20), (taken) => {
        for (const table of withSampleRows(grow(taken)).tables) {
          checks += table.checks.length * table.rows.length
          for (const row of table.rows) {
            for (const check of table.checks) expect(evaluate(check.condition, table, row)).not.toBe(false)
            for (const column of table.columns)
              if (column.computed !== undefined) expect(row[column.id]).toBeUndefined()
          }
        }
      })
    )
    expect(checks).toBeGreaterThan(20)
  })

  it('leave alone what has rows already', () => {
    expect(withSampleRows(design).tables.map((table) => table.rows.length)).toEqual(
      design.tables.map((table) => table.rows.length)
    )
  })
})

describe('INSERT', () => {
  it('puts parents first, also among rows of a table that refers to itself', () => {
    const note: Table = {
      id: 't_note',
      name: 'note',
      uniques: [],
      checks: [],
      indexes: [],
      rowPolicies: [],
      primaryKey: { id: 'k_note', columns: ['c_id'] },
      columns: [
        { id: 'c_id', name: 'id', type: { kind: 'integer', size: 'normal' }, required: true },
        { id: 'c_up', name: 'reply_to', type: { kind: 'integer', size: 'normal' }, required: false }
      ],
      foreignKeys: [
        {
          id: 'f_up',
          table: 't_note',
          key: 'k_note',
          pairs: [{ column: 'c_up', refersTo: 'c_id' }],
          onDelete: 'CASCADE',
          onUpdate: 'CASCADE'
        }
      ],
      rows: [{ c_id: 3, c_up: 2 }, { c_id: 2, c_up: 1 }, { c_id: 1 }]
    }
    const replies: Design = { ...design, tables: [note] }
    const [insert] = insertRows(replies, DIALECTS.sqlite.catalog(replies).catalog, DIALECTS.sqlite)
    expect(insert?.sql.match(/\((\d), (\w+)\)/g)).toEqual(['(1, NULL)', '(2, 1)', '(3, 2)'])
    const order = insertRows(design, DIALECTS.postgresql.catalog(design).catalog, DIALECTS.postgresql)
      .map((statement) => /INSERT INTO (\w+)/.exec(statement.sql)?.[1])
      .filter(Boolean)
    expect(order.indexOf('patient')).toBeLessThan(order.indexOf('admission'))
    expect(order.indexOf('medicine')).toBeLessThan(order.indexOf('dose'))
  })

  it('give SQL Server numbers of their own table by table, and Oracle when all rows are kept', () => {
    const said = (name: 'sqlserver' | 'oracle'): string[] =>
      insertRows(design, DIALECTS[name].catalog(design).catalog, DIALECTS[name]).map(({ sql }) => sql)
    let open = ''
    let counted = 0
    for (const sql of said('sqlserver')) {
      const [, table, on] = /^SET IDENTITY_INSERT (\S+) (ON|OFF)$/.exec(sql) ?? []
      // One table at a time.
      if (table !== undefined) expect(open).toBe(on === 'ON' ? '' : table)
      if (table !== undefined) open = on === 'ON' ? table : ''
      const into = /^INSERT INTO (\S+) \((\w+)/.exec(sql)
      if (into?.[2] === `${into?.[1]}_id` && open !== '') counted++
    }
    expect(open).toBe('')
    expect(counted).toBeGreaterThan(5)
    const oracle = said('oracle')
    const kept = oracle.indexOf('COMMIT')
    expect(oracle.slice(0, kept).every((sql) => sql.startsWith('INSERT INTO'))).toBe(true)
    expect(oracle.slice(kept + 1).every((sql) => sql.startsWith('ALTER TABLE'))).toBe(true)
    expect(oracle.slice(0, kept)).toHaveLength(design.tables.reduce((sum, { rows }) => sum + rows.length, 0))
    const script = writeSql(design, DIALECTS.oracle, { rows: true })
    expect(script).toContain('INSERT INTO patient ')
    expect(script).not.toContain('INSERT INTO staff.person')
  })

  it('are no longer on a line than the client of Oracle takes, whatever is in them', () => {
    const type = { kind: 'text' as const }
    fc.assert(
      fc.property(fc.string({ unit: 'binary', minLength: 0, maxLength: 4000 }), (given) => {
        const text = given.replaceAll(/[\0\r\n]/g, "'")
        const sql = DIALECTS.oracle.literal(text, type)
        for (const line of sql.split('\n')) expect(line.length).toBeLessThan(2400)
        const pieces = [...sql.matchAll(/'((?:[^']|'')*)'/g)].map(([, piece = '']) =>
          piece.replaceAll("''", "'")
        )
        expect(pieces.join('')).toBe(text)
        expect(sql.includes('to_clob')).toBe([...text].length > 1000)
      }),
      { numRuns: times(100) }
    )
  })

  it('counts rows that are missing and rows that should not be there, in whatever order', () => {
    const reason = need('t_reason')
    const found = reason.rows.map((row) => ({
      v0: `${String(row.c_reason_reason_code)} `,
      v1: row.c_reason_description
    }))
    expect(compareRows(reason, [...found].reverse())).toEqual({ missing: 0, unexpected: 0 })
    expect(compareRows(reason, found.slice(1))).toEqual({ missing: 1, unexpected: 0 })
    expect(compareRows(reason, [...found, found[0] as never])).toEqual({ missing: 0, unexpected: 1 })
    expect(
      compareRows(
        reason,
        found.map((row, at) => (at === 0 ? { ...row, v1: 'other' } : row))
      )
    ).toEqual({ missing: 1, unexpected: 1 })
  })
})

describe('a label', () => {
  const row = (table: string, at = 0): Row => need(table).rows[at] ?? expect.fail(table)
  it('is what a person would call the row, never a bare number where there is better', () => {
    expect(rowLabel(design, need('t_patient'), row('t_patient'))).toBe('Bramble')
    expect(rowLabel(design, need('t_admission'), row('t_admission', 1))).toBe('Bramble, 2026-05-03 07:40')
    expect(rowLabel(design, need('t_dose'), row('t_dose', 3))).toBe(
      'Bramble, 2026-05-03 07:40, meloxicam, 2026-05-03 07:40'
    )
    expect(rowLabel(design, need('t_reason'), row('t_reason'))).toBe('Struck by a vehicle')
    const bare: Table = {
      ...need('t_finder'),
      columns: [columnOf(need('t_finder'), 'c_finder_finder_id') as never]
    }
    expect(rowLabel(design, bare, { c_finder_finder_id: 9 })).toBe('9')
  })
})
