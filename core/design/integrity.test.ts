import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { districts } from '../../demo/districts.ts'
import { FORMAT, parseDesignFile } from './file.ts'
import { flawsOf, newFlaw } from './integrity.ts'
import { columnsIn, keyOf, directory, referencesTo, sameSet, tableOf } from './directory.ts'
import type { Design, Table } from './model.ts'
import { emptyDesign, newId } from './model.ts'

const design = fernhollow().versions[1]?.design as Design

/** The demo with one table changed by hand, as somebody might in an editor. */
function torn(id: string, change: (table: Table) => Partial<Table>): Design {
  return {
    ...design,
    tables: design.tables.map((table) => (table.id === id ? { ...table, ...change(table) } : table))
  }
}

describe('a design that was changed by hand', () => {
  it.each<[string, Design, string, string]>([
    [
      'a table’s id twice',
      torn('t_dose', () => ({ id: 't_reason' })),
      'tables.6',
      'the id t_reason is used twice'
    ],
    [
      'a table’s name twice',
      torn('t_dose', () => ({ name: 'Reason' })),
      'tables.6.name',
      'two tables are called Reason'
    ],
    [
      'a column’s name twice',
      torn('t_reason', (table) => ({
        columns: table.columns.map((column) => ({ ...column, name: 'code' }))
      })),
      'tables.3.columns.1.name',
      'reason has two columns called code'
    ],
    [
      'a column’s id in two tables',
      torn('t_reason', (table) => ({
        columns: [
          ...table.columns,
          { ...(table.columns[1] as Table['columns'][number]), id: 'c_dose_quantity', name: 'x' }
        ]
      })),
      'tables.6.columns.3',
      'the id c_dose_quantity is used twice'
    ],
    [
      'a key of a column that is not there',
      torn('t_reason', () => ({ primaryKey: { id: 'k_reason', columns: ['c_nowhere'] } })),
      'tables.3.primaryKey',
      'reason has no column c_nowhere'
    ],
    [
      'a key with a column twice',
      torn('t_dose', () => ({ uniques: [{ id: 'k_u', columns: ['c_dose_quantity', 'c_dose_quantity'] }] })),
      'tables.6.uniques.0',
      'a key names a column twice'
    ],
    [
      'a key column that may be empty',
      torn('t_reason', (table) => ({
        columns: table.columns.map((column) => ({ ...column, required: false }))
      })),
      'tables.3.primaryKey',
      'reason_code is in the primary key and must be required'
    ],
    [
      'a reference to no table',
      torn('t_dose', (table) => ({
        foreignKeys: table.foreignKeys.map((key) => ({ ...key, table: 't_nowhere' }))
      })),
      'tables.6.foreignKeys.0',
      'dose refers to a table that is not there'
    ],
    [
      'a reference to no key',
      torn('t_dose', (table) => ({
        foreignKeys: table.foreignKeys.map((key) => ({ ...key, key: 'k_nowhere' }))
      })),
      'tables.6.foreignKeys.0',
      'dose refers to a key that admission does not have'
    ],
    [
      'a reference from no column',
      torn('t_dose', (table) => ({
        foreignKeys: table.foreignKeys.map((key) => ({
          ...key,
          pairs: [{ column: 'c_nowhere', refersTo: key.pairs[0]?.refersTo ?? '' }]
        }))
      })),
      'tables.6.foreignKeys.0',
      'uses a column that dose does not have'
    ],
    [
      'a reference to a part of a key',
      torn('t_admission', (table) => ({
        foreignKeys: table.foreignKeys.map((key) => ({
          ...key,
          pairs: [{ column: key.pairs[0]?.column ?? '', refersTo: 'c_patient_sex' }]
        }))
      })),
      'tables.5.foreignKeys.0',
      'must pair every column of its key once'
    ],
    [
      'a row of no column',
      torn('t_reason', () => ({ rows: [{}, { c_nowhere: 1 }] as Table['rows'] })),
      'tables.3.rows.1.c_nowhere',
      'reason has no column c_nowhere'
    ],
    [
      'a place of no table',
      { ...design, positions: { t_nowhere: { x: 0, y: 0 } } },
      'positions.t_nowhere',
      'there is no such table'
    ]
  ])('with %s is found out, and where', (_, broken, path, message) => {
    expect(flawsOf(broken).map((flaw) => [flaw.path.join('.'), flaw.message])).toContainEqual([
      path,
      expect.stringContaining(message)
    ])
    const read = parseDesignFile({ format: FORMAT, design: broken, versions: [] })
    expect(read.ok).toBe(false)
  })

  it('with versions out of number is refused', () => {
    const { versions } = fernhollow()
    expect(parseDesignFile({ format: FORMAT, design, versions: [...versions].reverse() })).toMatchObject({
      ok: false,
      message: expect.stringContaining('not numbered 1, 2, 3') as string
    })
  })

  it('that holds together has no flaw, however large', () => {
    for (const each of [design, emptyDesign('x'), districts(21), districts(400)])
      expect(flawsOf(each)).toEqual([])
    expect(districts(400).tables).toHaveLength(400)
    expect(districts(400)).toEqual(districts(400))
  })
})

describe('a change to a design that has a flaw', () => {
  const called = (...names: string[]): Partial<Table> => ({
    columns: names.map((name, at) => ({
      id: `c_${at}`,
      name,
      type: { kind: 'boolean' },
      required: false
    })),
    primaryKey: undefined,
    uniques: [],
    foreignKeys: [],
    indexes: [],
    checks: [],
    rows: []
  })
  const dose = (table: Partial<Table>): Design => torn('t_dose', () => table)

  it('has a flaw of its own where it makes another of the kind, and none where it leaves the one', () => {
    const two = dose(called('said', 'said', 'other'))
    expect(flawsOf(two).filter(({ message }) => message.includes('two columns called said'))).toHaveLength(1)
    expect(newFlaw(two, dose(called('said', 'said', 'else')))).toBeUndefined()
    const [, third] = flawsOf(dose(called('said', 'said', 'said'))).filter(({ message }) =>
      message.includes('called')
    )
    expect(third?.path).toContain(2)
    expect(newFlaw(two, dose(called('said', 'said', 'said')))).toEqual(third)
  })

  it('has none where the flaw only stands at another place', () => {
    const two = dose(called('said', 'said'))
    expect(newFlaw(two, { ...two, tables: [...two.tables].reverse() })).toBeUndefined()
  })
})

describe('look-ups', () => {
  it('are worked out once for each value, and find what they are asked', () => {
    expect(directory(design)).toBe(directory(design))
    expect(directory({ ...design })).not.toBe(directory(design))
    expect(
      referencesTo(design, 't_admission').map(({ table, foreignKey }) => `${table.name} ${foreignKey.id}`)
    ).toEqual(['dose f_dose_admission_id'])
    expect(referencesTo(design, 't_nowhere')).toEqual([])
    const patient = tableOf(design, 't_patient') ?? expect.fail('no patient')
    expect([
      keyOf(patient, 'k_patient')?.columns,
      keyOf(patient, 'k_patient_ring')?.columns,
      keyOf(patient, 'k_x')
    ]).toEqual([['c_patient_patient_id'], ['c_patient_ring'], undefined])
    expect(columnsIn(patient, ['c_patient_sex', 'c_nowhere']).map((column) => column.name)).toEqual(['sex'])
    expect([sameSet(['a', 'b'], ['b', 'a']), sameSet(['a'], ['a', 'b'])]).toEqual([true, false])
  })

  it('have ids that do not meet', () => {
    const ids = Array.from({ length: 5000 }, () => newId('t'))
    expect(new Set(ids).size).toBe(5000)
    expect(ids.every((id) => /^t_[a-z0-9]{10}$/.test(id))).toBe(true)
  })
})
