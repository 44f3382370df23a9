import { tableOf } from '../core/design/directory.ts'
import { emptyTable, type Column, type Design, type ForeignKey } from '../core/design/model.ts'
import type { Operation } from '../core/edit/operation.ts'
import { fernhollow } from '../demo/fernhollow.ts'

/** Tables beside those of the demo that are alike in shape, or hold things of several kinds. */

const start = fernhollow().versions[3]?.design as Design

/** Another list like that of reasons: both have a code that the other has too. */
export const outcomes: Operation[] = [
  {
    kind: 'table.add',
    table: {
      ...emptyTable('outcome', 't_outcome'),
      columns: [
        { id: 'c_outcome_code', name: 'outcome_code', type: { kind: 'char', length: 6 }, required: true },
        { id: 'c_outcome', name: 'description', type: { kind: 'text', length: 80 }, required: true }
      ],
      primaryKey: { id: 'k_outcome', columns: ['c_outcome_code'] },
      rows: ['CAT', 'HOME'].map((code) => ({ c_outcome_code: code, c_outcome: `It ends with ${code}` }))
    }
  }
]

/**
 * Two kinds of helpers, numbered each by itself, one of them in a pair with patients and the other referred to: some
 * are called alike, and two of one kind are the same but for their number.
 */
export const helpers: Operation[] = [
  ...(['driver', 'fosterer'] as const).map((name): Operation => ({
    kind: 'table.add',
    table: {
      ...emptyTable(name, `t_${name}`),
      columns: [
        {
          id: `c_${name}_id`,
          name: `${name}_id`,
          type: { kind: 'integer', size: 'normal' },
          required: true,
          default: { kind: 'generated' }
        },
        { id: `c_${name}_name`, name: 'name', type: { kind: 'text', length: 60 }, required: true },
        {
          id: `c_${name}_town`,
          name: 'town',
          type: { kind: 'text', length: 40 },
          required: name === 'driver'
        },
        { id: `c_${name}_badge`, name: `${name}_badge`, type: { kind: 'char', length: 4 }, required: false }
      ],
      primaryKey: { id: `k_${name}`, columns: [`c_${name}_id`] },
      uniques: [{ id: `k_${name}_badge`, columns: [`c_${name}_badge`] }],
      checks: name === 'driver' ? [{ id: 'x_driver', condition: "{c_driver_town} <> 'none'" }] : [],
      indexes: [
        { id: `i_${name}`, columns: [{ column: `c_${name}_town`, descending: false }], unique: false }
      ],
      rows: [3, 4, 8, 9].map((no, at) => ({
        [`c_${name}_id`]: no,
        [`c_${name}_name`]: ['Orla Penhallow', 'Wim Tarrant', 'Wim Tarrant', 'Bea Lockyer'][at] ?? '',
        [`c_${name}_town`]: at === 3 ? 'Oxlea' : 'Saltings',
        ...(at === 0 && { [`c_${name}_badge`]: 'A001' })
      }))
    }
  })),
  {
    kind: 'relationship.add',
    parent: 't_driver',
    child: 't_admission',
    foreignKey: 'f_driver',
    columns: [{ id: 'c_driven_by', name: 'driver_id' }],
    required: false,
    onDelete: 'SET NULL',
    onUpdate: 'CASCADE'
  },
  {
    kind: 'table.setRows',
    table: 't_admission',
    rows: (tableOf(start, 't_admission')?.rows ?? []).map((row, at) => ({
      ...row,
      ...(at < 8 && { c_driven_by: [3, 4, 8, 9][at % 4] ?? 3 })
    }))
  },
  {
    kind: 'table.add',
    table: {
      ...emptyTable('patient_fosterer', 't_patient_fosterer'),
      columns: [
        { id: 'c_fostered', name: 'patient_id', type: { kind: 'integer', size: 'normal' }, required: true },
        { id: 'c_fostering', name: 'fosterer_id', type: { kind: 'integer', size: 'normal' }, required: true },
        { id: 'c_weeks', name: 'weeks', type: { kind: 'integer', size: 'small' }, required: false }
      ],
      primaryKey: { id: 'k_patient_fosterer', columns: ['c_fostered', 'c_fostering'] },
      foreignKeys: [
        {
          id: 'f_fostered',
          table: 't_patient',
          key: 'k_patient',
          pairs: [{ column: 'c_fostered', refersTo: 'c_patient_patient_id' }],
          onDelete: 'CASCADE',
          onUpdate: 'CASCADE'
        },
        {
          id: 'f_fostering',
          table: 't_fosterer',
          key: 'k_fosterer',
          pairs: [{ column: 'c_fostering', refersTo: 'c_fosterer_id' }],
          onDelete: 'CASCADE',
          onUpdate: 'CASCADE'
        }
      ],
      rows: [1, 2, 3].flatMap((patient) =>
        [4, 8].map((fosterer) => ({ c_fostered: patient, c_fostering: fosterer, c_weeks: patient }))
      )
    }
  }
]

const idOf = (name: string, more: Partial<Column> = {}): Column => ({
  id: `c_${name}`,
  name,
  type: { kind: 'integer', size: 'normal' },
  required: true,
  ...more
})

const refersTo = (table: string, key: string, column: string, refersTo: string): ForeignKey => ({
  id: `f_${column}`,
  table,
  key,
  pairs: [{ column, refersTo }],
  onDelete: 'RESTRICT',
  onUpdate: 'CASCADE'
})

/** Places of two kinds: a visit is at one of either, a volunteer knows clinics alone, by a pair. */
export const places: Operation[] = [
  {
    kind: 'table.add',
    table: {
      ...emptyTable('place', 't_place'),
      columns: [
        idOf('place_id', { default: { kind: 'generated' } }),
        { id: 'c_place_kind', name: 'kind', type: { kind: 'text', length: 10 }, required: true },
        { id: 'c_place_name', name: 'name', type: { kind: 'text', length: 40 }, required: true }
      ],
      primaryKey: { id: 'k_place', columns: ['c_place_id'] },
      checks: [{ id: 'x_place', condition: "{c_place_kind} in ('clinic', 'farm')" }],
      indexes: [{ id: 'i_place', columns: [{ column: 'c_place_name', descending: true }], unique: false }],
      rows: ['clinic', 'farm', 'clinic', 'farm', 'clinic'].map((kind, at) => ({
        c_place_id: at * 2 + 1,
        c_place_kind: kind,
        c_place_name: at < 3 ? 'Sallow Lane' : 'Oxlea Road'
      }))
    }
  },
  {
    kind: 'table.add',
    table: {
      ...emptyTable('visit', 't_visit'),
      columns: [
        idOf('visit_id', { default: { kind: 'generated' } }),
        idOf('at_place_id'),
        idOf('next_place_id', { required: false })
      ],
      primaryKey: { id: 'k_visit', columns: ['c_visit_id'] },
      indexes: [{ id: 'i_visit', columns: [{ column: 'c_at_place_id', descending: false }], unique: false }],
      foreignKeys: [
        refersTo('t_place', 'k_place', 'c_at_place_id', 'c_place_id'),
        refersTo('t_place', 'k_place', 'c_next_place_id', 'c_place_id')
      ],
      rows: [1, 3, 5, 7, 9, 3].map((place, at) => ({
        c_visit_id: at + 1,
        c_at_place_id: place,
        ...(at > 3 && { c_next_place_id: place === 9 ? 3 : 1 })
      }))
    }
  },
  {
    kind: 'table.add',
    table: {
      ...emptyTable('place_volunteer', 't_place_volunteer'),
      columns: [idOf('known_id'), idOf('knowing_id')],
      primaryKey: { id: 'k_place_volunteer', columns: ['c_known_id', 'c_knowing_id'] },
      foreignKeys: [
        refersTo('t_place', 'k_place', 'c_known_id', 'c_place_id'),
        refersTo('t_volunteer', 'k_volunteer', 'c_knowing_id', 'c_volunteer_volunteer_id')
      ],
      rows: [1, 5, 9].map((place, at) => ({ c_known_id: place, c_knowing_id: at + 1 }))
    }
  }
]
