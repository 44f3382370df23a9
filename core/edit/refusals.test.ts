import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { newId, type Design } from '../design/model.ts'
import { writeDesignFile } from '../design/file.ts'
import { newTable } from '../relate/propose.ts'
import { apply } from './apply.ts'
import { describe as say } from './describe.ts'
import type { Operation } from './operation.ts'
import type { Refusal } from './refusal.ts'

const design = fernhollow().versions[1]?.design as Design

function refused(operation: Operation, on: Design = design): Refusal {
  const before = writeDesignFile(on)
  const result = apply(on, operation)
  expect(writeDesignFile(on)).toBe(before)
  if (result.ok) throw new Error(`${say(on, operation)} was not refused`)
  return result.refusal
}

function after(operation: Operation, on: Design = design): Design {
  const result = apply(on, operation)
  if (!result.ok) throw new Error(result.refusal.message)
  return result.design
}

/** What is refused, with what code, what the sentence says, and what the first offer is called. */
const CASES: [what: string, operation: Operation, code: Refusal['code'], words: string, offer?: string][] = [
  [
    'a table that others refer to',
    { kind: 'table.remove', table: 't_patient' },
    'in-use',
    'patient is referred to by admission.',
    'Remove patient and the relationship to it'
  ],
  [
    'a table that two refer to',
    { kind: 'table.remove', table: 't_admission' },
    'in-use',
    'admission is referred to by dose.',
    'Remove admission and the relationship to it'
  ],
  [
    'a key column that is referred to',
    { kind: 'column.remove', table: 't_patient', column: 'c_patient_patient_id' },
    'in-use',
    'it is referred to by admission',
    'Remove the relationship and the column'
  ],
  [
    'a column that refers',
    { kind: 'column.remove', table: 't_admission', column: 'c_admission_finder_id' },
    'in-use',
    'it refers to finder',
    'Remove the relationship and the column'
  ],
  [
    'another type for a column that refers',
    { kind: 'column.retype', table: 't_admission', column: 'c_admission_patient_id', type: { kind: 'text' } },
    'type-mismatch',
    'has the type of its key, integer',
    'Change patient.patient_id to text'
  ],
  [
    'a type that the default does not fit',
    { kind: 'column.retype', table: 't_species', column: 'c_species_protected', type: { kind: 'date' } },
    'does-not-fit',
    'The default false of protected does not fit date',
    'Remove the default and make it date'
  ],
  [
    'a type that a row does not fit',
    {
      kind: 'column.retype',
      table: 't_patient',
      column: 'c_patient_ward_name',
      type: { kind: 'integer', size: 'normal' }
    },
    'does-not-fit',
    'Row 1 of patient holds "Bramble"',
    'Empty the values that do not fit'
  ],
  [
    'an empty key column',
    { kind: 'column.require', table: 't_ward', column: 'c_none', required: false },
    'missing',
    'no longer in the design'
  ],
  [
    'a key column that may be empty',
    { kind: 'column.require', table: 't_species', column: 'c_species_species_code', required: false },
    'key-column',
    'a key column is always required'
  ],
  [
    'a required column that is emptied',
    { kind: 'column.require', table: 't_admission', column: 'c_admission_finder_id', required: true },
    'in-use',
    'finder_id is emptied when its finder is deleted',
    'Refuse to delete a finder that is referred to, and require finder_id'
  ],
  [
    'a default that does not fit',
    {
      kind: 'column.setDefault',
      table: 't_admission',
      column: 'c_admission_weight_g',
      default: { kind: 'value', value: 'heavy' }
    },
    'does-not-fit',
    'The default heavy does not fit weight_g, which is integer'
  ],
  [
    'a second generated number',
    {
      kind: 'column.setDefault',
      table: 't_admission',
      column: 'c_admission_weight_g',
      default: { kind: 'generated' }
    },
    'invalid',
    'a table has one generated number'
  ],
  [
    'a column called as another',
    { kind: 'column.rename', table: 't_patient', column: 'c_patient_sex', name: 'FOUND_ON' },
    'name-taken',
    'patient already has a column called found_on'
  ],
  [
    'a table called as another',
    { kind: 'table.rename', table: 't_patient', name: 'Finder' },
    'name-taken',
    'There is already a table called finder'
  ],
  [
    'another key where the old one is referred to',
    { kind: 'key.setPrimary', table: 't_patient', key: { id: 'k_other', columns: ['c_patient_ring'] } },
    'in-use',
    'admission refers to patient by its key (patient_id)',
    'Remove the relationship and change the key'
  ],
  [
    'no key where it is referred to',
    { kind: 'key.setPrimary', table: 't_medicine', key: null },
    'in-use',
    'dose refers to medicine'
  ],
  [
    'a key with a column twice',
    {
      kind: 'key.setPrimary',
      table: 't_dose',
      key: { id: 'k_new', columns: ['c_dose_quantity', 'c_dose_quantity'] }
    },
    'invalid',
    'names a column twice'
  ],
  [
    'a key of a column that is emptied',
    {
      kind: 'key.setPrimary',
      table: 't_admission',
      key: { id: 'k_new', columns: ['c_admission_finder_id'] }
    },
    'in-use',
    'dose refers to admission'
  ],
  [
    'a unique key that is the primary key',
    { kind: 'unique.add', table: 't_patient', key: { id: 'k_new', columns: ['c_patient_patient_id'] } },
    'invalid',
    'is the primary key of patient, and so unique already'
  ],
  [
    'a unique key that is there',
    { kind: 'unique.add', table: 't_patient', key: { id: 'k_new', columns: ['c_patient_ring'] } },
    'invalid',
    'ring_no is unique in patient already'
  ],
  [
    'a unique key that is gone',
    { kind: 'unique.remove', table: 't_patient', key: 'k_gone' },
    'missing',
    'no longer has that unique key'
  ],
  [
    'SET NULL on a required column',
    {
      kind: 'foreignKey.setActions',
      table: 't_admission',
      foreignKey: 'f_admission_patient_id',
      onDelete: 'SET NULL',
      onUpdate: 'CASCADE'
    },
    'does-not-fit',
    'patient_id is required, so it cannot be emptied',
    'Let patient_id be empty, and empty it'
  ],
  [
    'SET NULL on a key column',
    {
      kind: 'foreignKey.setActions',
      table: 't_dose',
      foreignKey: 'f_dose_medicine_id',
      onDelete: 'SET NULL',
      onUpdate: 'CASCADE'
    },
    'does-not-fit',
    'medicine_id is required (it is in the primary key)'
  ],
  [
    'SET DEFAULT without a default',
    {
      kind: 'foreignKey.setActions',
      table: 't_admission',
      foreignKey: 'f_admission_patient_id',
      onDelete: 'SET DEFAULT',
      onUpdate: 'CASCADE'
    },
    'does-not-fit',
    'patient_id has no default to be set to'
  ],
  [
    'a reference between two types',
    {
      kind: 'foreignKey.add',
      table: 't_admission',
      foreignKey: {
        id: 'f_new',
        table: 't_species',
        key: 'k_species',
        pairs: [{ column: 'c_admission_weight_g', refersTo: 'c_species_species_code' }],
        onDelete: 'RESTRICT',
        onUpdate: 'CASCADE'
      }
    },
    'type-mismatch',
    'weight_g is integer and species.species_code is char(6)',
    'Make weight_g char(6) and refer'
  ],
  [
    'a reference to a key that is not there',
    {
      kind: 'foreignKey.add',
      table: 't_admission',
      foreignKey: {
        id: 'f_new',
        table: 't_species',
        key: 'k_gone',
        pairs: [{ column: 'c_admission_weight_g', refersTo: 'c_species_species_code' }],
        onDelete: 'RESTRICT',
        onUpdate: 'CASCADE'
      }
    },
    'no-key',
    'species has no primary key yet'
  ],
  [
    'a reference that pairs the wrong columns',
    {
      kind: 'foreignKey.add',
      table: 't_admission',
      foreignKey: {
        id: 'f_new',
        table: 't_patient',
        key: 'k_patient',
        pairs: [{ column: 'c_admission_weight_g', refersTo: 'c_patient_sex' }],
        onDelete: 'RESTRICT',
        onUpdate: 'CASCADE'
      }
    },
    'invalid',
    'must pair every column of its key once'
  ],
  [
    'an id that is taken',
    { kind: 'table.add', table: { ...newTable('ward'), id: 't_dose' } },
    'id-taken',
    'in the design already'
  ],
  [
    'a table that does not hold together',
    { kind: 'table.add', table: { ...newTable('ward'), primaryKey: { id: 'k_w', columns: ['c_nowhere'] } } },
    'invalid',
    'Ward has no column c_nowhere'
  ],
  [
    'a row with a value for no column',
    { kind: 'table.setRows', table: 't_reason', rows: [{ c_nowhere: 1 }] },
    'invalid',
    'Row 1 of reason: reason has no column c_nowhere'
  ],
  [
    'a row that does not fit',
    { kind: 'table.setRows', table: 't_reason', rows: [{ c_reason_reason_code: 'FAR TOO LONG' }] },
    'invalid',
    'Row 1 of reason: "FAR TOO LONG" does not fit reason_code'
  ],
  ['a carry that is gone', { kind: 'carry.remove', carry: 'y_gone' }, 'missing', 'no longer in the design']
]

describe('an operation', () => {
  it.each(CASES)('for %s is refused in plain words', (what, operation, code, words, offer) => {
    const refusal = refused(operation)
    expect(refusal.message).toContain(
      what === 'an empty key column' ? 'That table is no longer in the design' : words
    )
    expect(refusal.code).toBe(code)
    expect(refusal.message).toMatch(/\.$/)
    if (offer !== undefined) {
      expect(refusal.offers[0]?.label).toBe(offer)
      // An offer does what it says, or leads to the next question (rows that do not fit, say), which has
      // an offer too.
      const [first] = refusal.offers
      const result = first && apply(design, first.operation)
      expect(result?.ok || result?.refusal.offers.length).toBeTruthy()
    }
  })

  it('in a batch is refused with all the others, and nothing is changed', () => {
    const rename: Operation = { kind: 'table.rename', table: 't_reason', name: 'cause' }
    expect(
      refused({ kind: 'batch', operations: [rename, { kind: 'table.remove', table: 't_patient' }] }).code
    ).toBe('in-use')
  })
})

describe('what follows by itself', () => {
  // What its own rows stand in the way of is refused elsewhere.
  const empty: Design = { ...design, tables: design.tables.map((table) => ({ ...table, rows: [] })) }

  it('a key column takes its followers along, near and far', () => {
    const changed = after({
      kind: 'column.retype',
      table: 't_admission',
      column: 'c_admission_admission_id',
      type: { kind: 'integer', size: 'big' }
    })
    expect(tableOf(changed, 't_dose')?.columns[0]?.type).toEqual({ kind: 'integer', size: 'big' })
  })

  it('a column leaves the key and the unique keys that it stood in', () => {
    const changed = after({ kind: 'column.remove', table: 't_dose', column: 'c_dose_given_at' }, empty)
    expect(tableOf(changed, 't_dose')?.primaryKey?.columns).toEqual([
      'c_dose_admission_id',
      'c_dose_medicine_id'
    ])
    expect(
      tableOf(after({ kind: 'column.remove', table: 't_patient', column: 'c_patient_ring' }), 't_patient')
        ?.uniques
    ).toEqual([])
  })

  it('columns of a new key become required, and a unique key of the same columns goes', () => {
    const bare = after(
      { kind: 'foreignKey.remove', table: 't_admission', foreignKey: 'f_admission_patient_id' },
      empty
    )
    const changed = after(
      { kind: 'key.setPrimary', table: 't_patient', key: { id: newId('k'), columns: ['c_patient_ring'] } },
      bare
    )
    expect(tableOf(changed, 't_patient')).toMatchObject({
      uniques: [],
      primaryKey: { columns: ['c_patient_ring'] }
    })
    expect(
      tableOf(changed, 't_patient')?.columns.find((column) => column.id === 'c_patient_ring')?.required
    ).toBe(true)
  })

  it('the columns of a key that is referred to may change their order', () => {
    const { primaryKey } = tableOf(design, 't_dose') ?? expect.fail('no dose')
    const order = [...(primaryKey?.columns ?? [])].reverse()
    expect(
      tableOf(
        after({ kind: 'key.setPrimary', table: 't_dose', key: { id: 'k_dose', columns: order } }),
        't_dose'
      )?.primaryKey?.columns
    ).toEqual(order)
  })

  it('a new column with a default has it in the rows that are there', () => {
    const changed = after({
      kind: 'column.add',
      table: 't_finder',
      column: {
        id: 'c_new',
        name: 'calls',
        type: { kind: 'integer', size: 'small' },
        required: true,
        default: { kind: 'value', value: 0 }
      }
    })
    expect(tableOf(changed, 't_finder')?.rows.every((row) => row.c_new === 0)).toBe(true)
  })

  it('carries taken out of the middle come back in their place', () => {
    const carry = (id: string): Operation => ({
      kind: 'carry.add',
      carry: { id, source: 't_admission', target: 't_dose', where: [], columns: [] }
    })
    const three = after({ kind: 'batch', operations: [carry('y_a'), carry('y_b')] })
    const result = apply(three, { kind: 'carry.remove', carry: 'y_a' })
    if (!result.ok) throw new Error(result.refusal.message)
    expect(after(result.inverse, result.design).carries.map((each) => each.id)).toEqual([
      'y_dose',
      'y_a',
      'y_b'
    ])
  })
})

describe('a name for each step', () => {
  it.each<[Operation, string]>([
    [
      { kind: 'column.rename', table: 't_patient', column: 'c_patient_sex', name: 'gender' },
      'rename patient.sex to gender'
    ],
    [
      { kind: 'column.require', table: 't_patient', column: 'c_patient_sex', required: true },
      'require patient.sex'
    ],
    [
      {
        kind: 'column.setDefault',
        table: 't_patient',
        column: 'c_patient_sex',
        default: { kind: 'value', value: 'f' }
      },
      "set the default of patient.sex to 'f'"
    ],
    [
      { kind: 'column.setDefault', table: 't_patient', column: 'c_patient_sex', default: null },
      'remove the default of patient.sex'
    ],
    [
      {
        kind: 'key.setPrimary',
        table: 't_dose',
        key: { id: 'k_x', columns: ['c_dose_admission_id', 'c_dose_given_at'] }
      },
      'make admission_id, given_at the key of dose'
    ],
    [{ kind: 'table.place', table: 't_dose', position: { x: 1, y: 2 } }, 'move dose in the diagram'],
    [{ kind: 'batch', label: 'do much at once', operations: [] }, 'do much at once'],
    [{ kind: 'table.remove', table: 't_gone' }, 'remove a table']
  ])('%j', (operation, words) => expect(say(design, operation)).toBe(words))
})
