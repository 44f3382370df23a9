import { describe, expect, it } from 'vitest'
import { findingsIn } from '../../check/index.ts'
import type { Finding } from '../../check/finding.ts'
import { writeSql } from '../../definitions/create-script.ts'
import { readExpression } from '../../design/expressions.ts'
import {
  emptyDesign,
  emptyTable,
  type Column,
  type Design,
  type ForeignKey,
  type Table
} from '../../design/model.ts'
import { apply } from '../../edit/apply.ts'
import type { DialectName } from '../dialect.ts'
import { DIALECTS } from '../index.ts'
import { column } from '../../../tests/columns.ts'

/** What was found by reading what is written for engines that do not run here, against their manuals. */

const COLUMNS = [
  column('pen_id', 'integer', { required: true }),
  column('name', 'text(20)'),
  column('ward', 'char(3)'),
  column('door', 'text(20)')
]
const kept = (text: string, wanted?: Column['type']): string => {
  const read = readExpression(text, { columns: COLUMNS, enums: [], ...(wanted && { wanted }) })
  return read.ok ? read.value : expect.fail(read.message)
}
const pens = (dialect: DialectName, more: Partial<Table>): Design => ({
  ...emptyDesign('Pens', 'd_pens'),
  dialects: [dialect],
  tables: [
    {
      ...emptyTable('pen', 't_pen'),
      columns: COLUMNS,
      primaryKey: { id: 'k_pen', columns: ['c_pen_id'] },
      ...more
    }
  ]
})
const refersTo = (id: string, key: string): ForeignKey => ({
  id,
  table: 't_pen',
  key,
  pairs: [{ column: 'c_door', refersTo: 'c_name' }],
  onDelete: 'NO ACTION',
  onUpdate: 'NO ACTION'
})
const all = (design: Design): Finding[] => [...findingsIn(design).values()].flat()

describe('read, and not run', () => {
  it('Oracle takes one reference of the same columns to the same key (ORA-02274)', () => {
    const more = {
      uniques: [{ id: 'k_name', columns: ['c_name'] }],
      foreignKeys: ['f_one', 'f_two', 'f_three'].map((id) => refersTo(id, 'k_name'))
    }
    const [twice] = all(pens('oracle', more)).filter(({ rule }) => rule === 'reference that is there already')
    expect(twice?.message).toBe('Oracle takes one reference of door of pen to pen, and there are 3.')
    const mended = twice?.fix && apply(pens('oracle', more), twice.fix.operation)
    expect(mended?.ok && mended.design.tables[0]?.foreignKeys.map(({ id }) => id)).toEqual(['f_one'])
    for (const name of ['postgresql', 'sqlserver', 'mysql'] as const)
      expect(all(pens(name, more)).map(({ rule }) => rule)).not.toContain('reference that is there already')
  })

  it('what is told twice in one dialect is told once', () => {
    const more = {
      uniques: [{ id: 'k_name', columns: ['c_name'] }],
      columns: COLUMNS.map((each) => (each.id === 'c_door' ? column('door', 'text(30)') : each)),
      foreignKeys: ['f_one', 'f_two'].map((id) => refersTo(id, 'k_name'))
    }
    const said = all(pens('sqlserver', more)).map(({ message }) => message)
    const types = said.filter((message) => message.includes('of another type'))
    expect(types).toEqual([
      'door of pen refers to name of pen, which is of another type (text(30) to text(20)): SQL Server refuses the reference.'
    ])
    const head = writeSql(pens('sqlserver', more), DIALECTS.sqlserver).split(types[0] as string)
    expect(head).toHaveLength(2)
  })

  it('SQL Server keeps a key that is referred to, by whichever of two keys on its columns', () => {
    const written = writeSql(
      pens('sqlserver', {
        uniques: ['k_name', 'k_again'].map((id) => ({ id, columns: ['c_name'] })),
        foreignKeys: [refersTo('f_one', 'k_again')]
      }),
      DIALECTS.sqlserver
    )
    expect(written).toContain('CONSTRAINT pen_name_uq UNIQUE (name)')
    expect(written).not.toContain('CREATE UNIQUE INDEX')
  })

  it.each([
    ['pen_id = 2', true],
    ['pen_id in (1, 2)', true],
    ['pen_id < 2.5', false],
    ["name = 'a' and pen_id <> -1.5", false],
    ['pen_id in (1, 2.5)', false]
  ])('SQL Server takes an index on the rows with %s: %s (Msg 10611)', (where, taken) => {
    const index = {
      id: 'i_pen',
      columns: [{ column: 'c_name', descending: false }],
      unique: true,
      where: kept(where)
    }
    const design = pens('sqlserver', { indexes: [index] })
    const lost = all(design).filter(({ rule }) => rule === 'unique in some rows, and lost')
    expect(lost).toHaveLength(taken ? 0 : 1)
    expect(/CREATE UNIQUE INDEX .* WHERE/.test(writeSql(design, DIALECTS.sqlserver))).toBe(taken)
  })

  it.each(['sqlserver', 'oracle'] as const)(
    '%s cuts no text that is computed: it is checked before',
    (name) => {
      const label = column('label', 'text(12)')
      const made = { ...label, computed: kept("upper(name) || '-' || ward", label.type) }
      const written = writeSql(pens(name, { columns: [...COLUMNS, made] }), DIALECTS[name])
      expect(written).toMatch(
        name === 'oracle'
          ? /label .* \(CAST\(upper\(name\) .* AS varchar2\(12 char\)\)\) VIRTUAL/
          : /label .*\(CAST\(upper\(name\) .* AS nvarchar\(12\)\)\) PERSISTED/
      )
      expect(written).toMatch(
        name === 'oracle'
          ? /CHECK \(length\(upper\(name\) \|\| '-' \|\| rtrim\(ward\)\) <= 12\)/
          : /CHECK \(len\(upper\(name\) \+ N'-' \+ rtrim\(ward\) \+ N'\.'\) - 1 <= 12\)/
      )
    }
  )
})
