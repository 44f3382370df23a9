import { describe, expect, it } from 'vitest'
import { columnOf, tableOf } from '../design/directory.ts'
import { emptyDesign, type Column, type Design, type Table } from '../design/model.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { apply } from '../edit/apply.ts'
import { newTable } from '../relate/propose.ts'
import { addLine, changeCell, EMPTY_LINE, lineOf, type Taken } from './edits.ts'

const patient = newTable('patient')
const admission = newTable('admission')
const start: Design = { ...emptyDesign('Fernhollow'), tables: [patient, admission] }

function after(taken: Taken, design = start): Design {
  if (!taken.ok) throw new Error(taken.slip.message)
  if (!taken.operation) return design
  const result = apply(design, taken.operation)
  if (!result.ok) throw new Error(result.refusal.message)
  return result.design
}

describe('a line that is typed', () => {
  it('becomes a column, and reads as it was typed', () => {
    const typed = {
      name: 'weight_g',
      type: 'decimal( 8, 2 )',
      required: true,
      default: '0.5',
      note: 'on arrival'
    }
    const table = after(addLine(start, admission, typed, 1)).tables[1]
    const column = table?.columns[1]
    expect(table && column && lineOf(start, table, column)).toEqual({ ...typed, type: 'decimal(8,2)' })
  })

  it.each([
    ['auto number', ''],
    ['SERIAL', ''],
    ['counter', 'generated']
  ])('of the type %s is a required number that is counted', (type, given) => {
    const bare: Table = { ...admission, columns: [], primaryKey: undefined }
    const design: Design = { ...start, tables: [patient, bare] }
    const line = { ...EMPTY_LINE, name: 'no', type, default: given }
    const [column] = after(addLine(design, bare, line, 0), design).tables[1]?.columns ?? []
    expect(column).toMatchObject({
      type: { kind: 'integer' },
      required: true,
      default: { kind: 'generated' }
    })
  })

  it.each([
    ['mentor', '> admission', { child: 'has as mentor', parent: 'is mentor of' }],
    ['home_patient_id', '> patient', { child: 'has as home', parent: 'is home of' }],
    ['other_id', '> patient', { child: 'has as other', parent: 'is other of' }],
    ['seen_by', '> patient', { child: 'is seen by', parent: 'has' }],
    [
      `${'a_'.repeat(26)}b`,
      '> patient',
      { child: `has as ${'a '.repeat(26)}b`, parent: `is ${'a '.repeat(26)}b of` }
    ],
    [
      `${'ab_'.repeat(20)}b`,
      '> patient',
      { child: `has as ${'ab '.repeat(17)}ab`, parent: `is ${'ab '.repeat(19)}`.trim() }
    ],
    ['🦔'.repeat(40), '> patient', { child: `has as ${'🦔'.repeat(26)}`, parent: `is ${'🦔'.repeat(28)}` }],
    ['patient_id', '> patient', undefined],
    ['patientId', '> patient', undefined],
    ['PATIENT', '> patient', undefined],
    ['no', '> patient', undefined]
  ])('%s %s reads as its name says, where that says more than the table', (name, type, verbs) => {
    const typed = after(addLine(start, admission, { ...EMPTY_LINE, name, type }, 1))
    expect(typed.tables[1]?.foreignKeys.map((key) => key.verbs)).toEqual([verbs])
    const first = after(addLine(start, admission, { ...EMPTY_LINE, name, type: 'integer' }, 1))
    const [, table] = first.tables
    const column = table?.columns[1]
    const later = table && column && after(changeCell(first, table, column, 'type', type), first)
    expect(later?.tables[1]?.foreignKeys.map((key) => key.verbs)).toEqual([verbs])
  })

  it('takes its values where it is a list of them, and today where it is a day', () => {
    const line = { ...EMPTY_LINE, name: 'temper', type: "enum('calm', 'wary')" }
    const design = after(addLine(start, admission, line, 1))
    expect(design.enums.map(({ values }) => values)).toEqual([['calm', 'wary']])
    const day = { ...EMPTY_LINE, name: 'seen_on', type: 'date', default: 'today' }
    expect(after(addLine(start, admission, day, 1)).tables[1]?.columns[1]?.default).toEqual({ kind: 'now' })
    const word = { ...EMPTY_LINE, name: 'said', type: 'text', default: 'today' }
    const said = after(addLine(start, admission, word, 1)).tables[1]?.columns[1]?.default
    expect(said).toEqual({ kind: 'value', value: 'today' })
  })

  it('with > and a table refers to it, with the key’s type and a name of its own', () => {
    const design = after(
      addLine(start, admission, { ...EMPTY_LINE, name: 'animal', type: '> Patient', required: true }, 1)
    )
    const table = design.tables[1]
    expect(table?.columns[1]).toMatchObject({ name: 'animal', type: { kind: 'integer' }, required: true })
    expect(table?.foreignKeys[0]).toMatchObject({ table: patient.id, onDelete: 'RESTRICT' })
    const back =
      table && table.columns[1]
        ? after(changeCell(design, table, table.columns[1], 'type', 'text(20)'), design)
        : undefined
    expect(back?.tables[1]?.foreignKeys).toEqual([])
    expect(back?.tables[1]?.columns[1]?.type).toEqual({ kind: 'text', length: 20 })
  })

  it('with > and a table that is not there yet makes it when it is asked for, and refers', () => {
    const taken = addLine(
      start,
      admission,
      { ...EMPTY_LINE, name: 'brought_by', type: '> finder', note: 'who rang the bell' },
      1
    )
    expect(taken.ok && taken.ask?.says).toBe('There is no table called finder yet.')
    const [, now, finder] = after(taken).tables
    expect(finder).toMatchObject({ name: 'finder', columns: [{ name: 'finder_id' }] })
    expect(now?.columns[1]).toMatchObject({
      name: 'brought_by',
      type: { kind: 'integer' },
      note: 'who rang the bell'
    })
    expect(now?.foreignKeys).toMatchObject([{ table: finder?.id }])
    const staffed = { ...start, schemas: [{ id: 's_staff', name: 'staff' }] }
    expect(
      after(addLine(staffed, admission, { ...EMPTY_LINE, type: '> Staff.person' }, 1), staffed).tables[2]
    ).toMatchObject({ name: 'person', schema: 's_staff', columns: [{ name: 'person_id' }] })
    const other = after(addLine(staffed, admission, { ...EMPTY_LINE, type: '> other.person' }, 1), staffed)
    expect(other.tables[2]).toMatchObject({ name: 'person', schema: other.schemas[1]?.id })
    expect(other.schemas[1]?.name).toBe('other')
    expect(
      after(addLine(staffed, admission, { ...EMPTY_LINE, type: '> other. person' }, 1), staffed).tables[2]
    ).toMatchObject({ name: 'other. person' })
    const [own] = admission.columns
    expect(own && changeCell(start, admission, own, 'type', '> finder')).toMatchObject({
      ok: true,
      ask: { does: 'Make it, and refer' }
    })
  })

  it.each([
    [{ type: 'integer' }, 'name', 'needs a name'],
    [{ name: 'x', type: 'numbre' }, 'type', 'is not a type'],
    [{ name: 'x', type: 'decimal(2,5)' }, 'type', 'no more of them after the point'],
    [{ name: 'x', type: 'text(0)' }, 'type', '1 to 65535'],
    [{ name: 'x', type: '> nobo\u0000dy' }, 'type', 'control characters'],
    [{ name: 'x', type: 'date', default: 'tomorrow' }, 'default', 'not a date'],
    [{ name: 'x', type: 'smallint', default: '99999' }, 'default', 'fits'],
    [{ name: 'x', type: 'text', default: 'generated' }, 'default', 'Only an integer']
  ])('%j is held back with a word at its %s', (line, cell, words) => {
    const taken = addLine(start, admission, { ...EMPTY_LINE, ...line }, 1)
    expect(taken).toMatchObject({
      ok: false,
      slip: { cell, message: expect.stringContaining(words) as string }
    })
  })
})

describe('a line with more than a default', () => {
  const { design } = fernhollow()
  const dose = tableOf(design, 't_dose') as Table
  const change = (column: string, cell: 'type' | 'default', text: string): Taken =>
    changeCell(design, dose, columnOf(dose, column) as Column, cell, text)
  const now = (taken: Taken, column: string): Column =>
    columnOf(tableOf(after(taken, design), 't_dose') as Table, column) as Column

  it('is computed, copied or worked out, and reads as it was typed', () => {
    for (const [column, text] of [
      ['c_dose_cost', 'computed quantity * unit_cost'],
      ['c_dose_unit_cost', 'copied medicine.unit_cost']
    ] as const)
      expect(lineOf(design, dose, columnOf(dose, column) as Column).default).toBe(text)
    expect(now(change('c_dose_cost', 'default', 'computed from quantity + 1'), 'c_dose_cost').computed).toBe(
      '{c_dose_quantity} + 1'
    )
    expect(now(change('c_dose_cost', 'default', ''), 'c_dose_cost')).toMatchObject({
      computed: undefined,
      default: undefined
    })
    expect(now(change('c_dose_cost', 'default', 'copied unit_cost'), 'c_dose_cost')).toMatchObject({
      computed: undefined,
      copied: { foreignKey: 'f_dose_medicine_id' }
    })
    expect(now(change('c_dose_unit_cost', 'default', '= 2 * 3'), 'c_dose_unit_cost')).toMatchObject({
      copied: undefined,
      default: { kind: 'expression', expression: '2 * 3' }
    })
  })

  it.each([
    ['computed', 'Something is missing at the end.'],
    ['computed words', 'There is no column called words here.'],
    ['copied medicine.colour', 'Say which column it is copied from, of admission, medicine, person'],
    ['copied', 'Say which column'],
    ['= quantity', 'There is no column called quantity here.']
  ])('“%s” is held back with a word at the default', (text, words) => {
    expect(change('c_dose_unit_cost', 'default', text)).toMatchObject({
      ok: false,
      slip: { cell: 'default', message: expect.stringContaining(words) as string }
    })
  })

  it('has its values from a list that is made as it is typed, once', () => {
    const ward = tableOf(design, 't_ward') as Table
    const one = after(
      addLine(
        design,
        ward,
        { ...EMPTY_LINE, name: 'Noise level', type: 'one of quiet, loud', default: 'quiet' },
        1
      ),
      design
    )
    expect(one.enums.at(-1)).toMatchObject({ name: 'noise_level', values: ['quiet', 'loud'] })
    const two = after(
      addLine(
        one,
        tableOf(one, 't_ward') as Table,
        { ...EMPTY_LINE, name: 'echo', type: 'one of quiet,loud' },
        1
      ),
      one
    )
    expect(two.enums).toHaveLength(one.enums.length)
    expect(addLine(design, ward, { ...EMPTY_LINE, name: 'x', type: 'one of' }, 1)).toMatchObject({
      ok: false,
      slip: { message: expect.stringContaining('Say which values') as string }
    })
    expect(addLine(design, ward, { ...EMPTY_LINE, name: 'x', type: 'enum nothing' }, 1)).toMatchObject({
      ok: false,
      slip: { message: expect.stringContaining('no list of values called nothing') as string }
    })
    expect(
      lineOf(two, tableOf(two, 't_ward') as Table, tableOf(two, 't_ward')?.columns[1] as Column).type
    ).toBe('enum noise_level')
  })

  it('of a key says what else changes its type before it does, and nothing where nothing follows', () => {
    const admission = tableOf(design, 't_admission') as Table
    const key = changeCell(design, admission, admission.columns[0] as Column, 'type', 'bigint')
    expect(key.ok && key.ask).toEqual({
      says: '5 columns refer to it and change with it: dose.admission_id, stay.admission_id, diagnosis.admission_id, release.admission_id, carer_note.admission_id.',
      does: 'Change them all'
    })
    const other = changeCell(
      design,
      admission,
      columnOf(admission, 'c_admission_weight_g') as Column,
      'type',
      'bigint'
    )
    expect(other.ok && other.ask).toBeUndefined()
  })
})
