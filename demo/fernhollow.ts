import { emptyDesign, PLAIN_LOOK, type Design, type Version } from '../core/design/model.ts'
import type { DesignFile } from '../core/design/file.ts'
import type { Operation } from '../core/edit/operation.ts'
import { peopleAndPairs, wardsAndPens } from './later.ts'
import { ADMISSIONS, DOSES, FINDERS, MEDICINES, PATIENTS, REASONS, SPECIES } from './rows.ts'
import { build, column, refer, rows, table } from './words.ts'

/**
 * The demo: Fernhollow Wildlife Hospital, with the four versions of its design, a draft on top of them,
 * and rows. Everyone and everything in it is made up. Ids are spelled out, so that the file is the
 * same each time.
 */

function frontDesk(): Design {
  const tables = [
    table({
      name: 'species',
      note: 'A kind of animal, by the code that the ward writes on the door.',
      key: ['species_code'],
      columns: [
        ['species_code', 'char(6)', 'required'],
        ['common_name', 'text(80)', 'required'],
        ['latin_name', 'text(80)', 'required'],
        ['protected', 'boolean', 'required', 'false']
      ],
      uniques: ['latin_name']
    }),
    table({
      name: 'patient',
      note: 'One animal, from the day it was found. It keeps its number when it comes again.',
      key: ['patient_id'],
      columns: [
        ['patient_id', 'integer', 'required', 'generated'],
        ['species_code', 'char(6)', 'required'],
        ['ring', 'text(12)'],
        ['ward_name', 'text(40)', 'required'],
        ['sex', 'char(1)'],
        ['found_on', 'date', 'required'],
        ['found_at', 'text(120)']
      ],
      uniques: ['ring']
    }),
    table({
      name: 'finder',
      note: 'Somebody who brought an animal. May ask to be forgotten.',
      key: ['finder_id'],
      columns: [
        ['finder_id', 'integer', 'required', 'generated'],
        ['name', 'text(80)', 'required'],
        ['telephone', 'text(24)'],
        ['postcode', 'text(10)']
      ]
    }),
    table({
      name: 'reason',
      note: 'Why an animal is brought in.',
      key: ['reason_code'],
      columns: [
        ['reason_code', 'char(6)', 'required'],
        ['description', 'text(80)', 'required']
      ]
    }),
    table({
      name: 'medicine',
      note: 'What the pharmacy stocks.',
      key: ['medicine_id'],
      columns: [
        ['medicine_id', 'integer', 'required', 'generated'],
        ['name', 'text(60)', 'required'],
        ['strength', 'text(20)', 'required'],
        ['unit', 'text(10)', 'required'],
        ['unit_cost', 'decimal(8,2)', 'required']
      ]
    }),
    table({
      name: 'admission',
      note: 'One stay of one patient, from the door to the release.',
      key: ['admission_id'],
      columns: [
        ['admission_id', 'integer', 'required', 'generated'],
        ['patient_id', 'integer', 'required'],
        ['finder_id', 'integer'],
        ['reason_code', 'char(6)', 'required'],
        ['admitted_at', 'timestamp zone', 'required', 'now'],
        ['weight_g', 'integer'],
        ['medicine_id', 'integer']
      ]
    })
  ]
  return build(
    {
      ...emptyDesign('Fernhollow Wildlife Hospital', 'd_fernhollow'),
      dialects: ['postgresql', 'mariadb', 'sqlite']
    },
    [
      ...tables.map((each): Operation => ({ kind: 'table.add', table: each })),
      refer('patient', ['species_code'], 'species', 'RESTRICT', { child: 'is of', parent: 'has' }),
      refer('admission', ['patient_id'], 'patient', 'RESTRICT', { child: 'is of', parent: 'has' }),
      refer('admission', ['finder_id'], 'finder', 'SET NULL', { child: 'was brought by', parent: 'brought' }),
      refer('admission', ['reason_code'], 'reason', 'RESTRICT', { child: 'has', parent: 'is given for' }),
      refer('admission', ['medicine_id'], 'medicine', 'RESTRICT', {
        child: 'was given',
        parent: 'was given in'
      }),
      rows('species', ['species_code', 'common_name', 'latin_name', 'protected'], SPECIES),
      rows('reason', ['reason_code', 'description'], REASONS),
      rows('finder', ['finder_id', 'name', 'telephone', 'postcode'], FINDERS),
      rows('medicine', ['medicine_id', 'name', 'strength', 'unit', 'unit_cost'], MEDICINES),
      rows(
        'patient',
        ['patient_id', 'species_code', 'ring', 'ward_name', 'sex', 'found_on', 'found_at'],
        PATIENTS
      ),
      rows(
        'admission',
        ['admission_id', 'patient_id', 'finder_id', 'reason_code', 'admitted_at', 'weight_g', 'medicine_id'],
        ADMISSIONS
      )
    ]
  )
}

function medicinesDoneRight(start: Design): Design {
  const key = (name: string): { id: string; name: string }[] => [{ id: `c_dose_${name}`, name }]
  return build(start, [
    {
      kind: 'relationship.resolveToJunction',
      table: 't_admission',
      foreignKey: 'f_admission_medicine_id',
      carry: 'y_dose',
      carried: [
        { to: 'c_dose_given_at', from: 'c_admission_admitted_at' },
        { to: 'c_dose_quantity', value: '1.00' }
      ],
      junction: {
        table: { id: 't_dose', name: 'dose' },
        key: 'k_dose',
        sides: [
          {
            table: 't_admission',
            foreignKey: 'f_dose_admission_id',
            columns: key('admission_id'),
            onDelete: 'CASCADE',
            verbs: { child: 'is for', parent: 'has' }
          },
          {
            table: 't_medicine',
            foreignKey: 'f_dose_medicine_id',
            columns: key('medicine_id'),
            onDelete: 'RESTRICT',
            verbs: { child: 'is of', parent: 'is given in' }
          }
        ],
        columns: [
          column('dose', 'given_at', 'timestamp zone', 'required', 'now'),
          column('dose', 'quantity', 'decimal(6,2)', 'required'),
          {
            ...column('dose', 'unit_cost', 'decimal(8,2)'),
            note: 'The cost on the day, copied from the medicine when the dose is given.'
          }
        ],
        keyed: { by: 'pair', with: ['c_dose_given_at'] }
      }
    },
    { kind: 'table.annotate', table: 't_dose', note: 'One medicine given once, in one admission.' },
    { kind: 'column.rename', table: 't_patient', column: 'c_patient_ring', name: 'ring_no' },
    {
      kind: 'column.add',
      table: 't_medicine',
      column: column('medicine', 'controlled', 'boolean', 'required', 'false')
    },
    rows('dose', ['admission_id', 'medicine_id', 'given_at', 'quantity', 'unit_cost'], DOSES)
  ])
}

/**
 * Small changes that nobody has finished, and one mistake: a column that looks like a reference to a
 * volunteer and is held to nothing.
 */
function draft(start: Design): Design {
  return build(start, [
    { kind: 'column.rename', table: 't_medicine', column: 'c_medicine_unit', name: 'dose_unit' },
    {
      kind: 'column.add',
      table: 't_finder',
      column: column('finder', 'may_contact', 'boolean', 'required', 'true')
    },
    { kind: 'column.add', table: 't_release', column: column('release', 'volunteer_id', 'integer') },
    ...SUBJECTS.map(([id, name, tables]): Operation => ({
      kind: 'subject.add',
      subject: { id, name, tables: tables.split(' ').map((table) => `t_${table}`) }
    })),
    {
      kind: 'view.add',
      view: {
        id: 'v_vets',
        name: 'For the vets',
        title: 'What is given, and for what',
        note: 'For the meeting in October: who may give what, and what an admission has to have before it ends.',
        shows: { kind: 'subject', subject: 'b_care' },
        look: { ...PLAIN_LOOK, ends: 'numbers', words: 'verbs' }
      }
    }
  ])
}

/** What people at the hospital talk of as one. */
const SUBJECTS: readonly [id: string, name: string, tables: string][] = [
  ['b_care', 'Care', 'finder reason admission condition diagnosis medicine dose carer_note person'],
  ['b_animals', 'Animals', 'species species_conflict patient'],
  ['b_homes', 'Wards and release', 'ward pen stay release release_site'],
  ['b_people', 'Volunteers', 'volunteer skill volunteer_skill shift shift_volunteer']
]

/** The demo as a design file: four versions and the draft. */
export function fernhollow(): DesignFile {
  const first = frontDesk()
  const second = medicinesDoneRight(first)
  const third = wardsAndPens(second)
  const fourth = peopleAndPairs(third)
  const versions: Version[] = [
    { number: 1, note: 'Front desk', savedAt: '2026-03-02T09:15:00Z', design: first },
    {
      number: 2,
      note: 'Medicines done right: one admission, many medicines',
      savedAt: '2026-04-20T16:40:00Z',
      design: second
    },
    { number: 3, note: 'Wards and pens', savedAt: '2026-06-08T11:05:00Z', design: third },
    { number: 4, note: 'People and pairs', savedAt: '2026-09-14T17:30:00Z', design: fourth }
  ]
  const design = draft(fourth)
  return { design, versions }
}
