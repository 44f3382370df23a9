import type { Design } from '../core/design/model.ts'
import { readExpression } from '../core/design/expressions.ts'
import { tableOf } from '../core/design/directory.ts'
import type { Operation } from '../core/edit/operation.ts'
import {
  CARER_NOTES,
  CONDITIONS,
  CONFLICTS,
  DIAGNOSES,
  PENS,
  PERSONS,
  RELEASES,
  SHIFTS,
  SHIFT_VOLUNTEERS,
  SITES,
  SKILLS,
  STAYS,
  VOLUNTEERS,
  VOLUNTEER_SKILLS,
  WARDS
} from './later-rows.ts'
import { build, check, column, refer, rows, table, figure, ruling } from './words.ts'

/** The third and the fourth version of the demo. */

export function wardsAndPens(start: Design): Design {
  return build(start, [
    {
      kind: 'enum.add',
      enum: { id: 'e_housing', name: 'housing', values: ['cage', 'pen', 'pool', 'aviary'] }
    },
    {
      kind: 'table.add',
      table: table({
        name: 'ward',
        note: 'A part of the hospital, by the three letters over its door.',
        key: ['ward_code'],
        columns: [
          ['ward_code', 'char(3)', 'required'],
          ['name', 'text(40)', 'required'],
          ['housing', 'enum housing', 'required', 'cage']
        ],
        uniques: ['name']
      })
    },
    {
      kind: 'table.add',
      table: table({
        name: 'pen',
        note: 'A place in a ward; numbered in each ward from 1.',
        key: ['ward_code', 'pen_no'],
        columns: [
          ['ward_code', 'char(3)', 'required'],
          ['pen_no', 'smallint', 'required'],
          ['capacity', 'smallint', 'required', '1']
        ]
      })
    },
    {
      kind: 'table.add',
      table: table({
        name: 'stay',
        note: 'Where an admitted animal is, and from when to when.',
        key: ['admission_id', 'started_at'],
        columns: [
          ['admission_id', 'integer', 'required'],
          ['started_at', 'timestamp zone', 'required', 'now'],
          ['ward_code', 'char(3)', 'required'],
          ['pen_no', 'smallint', 'required'],
          ['ended_at', 'timestamp zone']
        ]
      })
    },
    refer('pen', ['ward_code'], 'ward', 'CASCADE', { child: 'is in', parent: 'has' }),
    refer('stay', ['admission_id'], 'admission', 'CASCADE', { child: 'belongs to', parent: 'has' }),
    refer('stay', ['ward_code', 'pen_no'], 'pen', 'CASCADE', { child: 'is in', parent: 'has had' }),
    (design) => check(design, 'pen', 'capacity', 'capacity between 1 and 40'),
    (design) => check(design, 'stay', 'ended', 'ended_at is null or ended_at >= started_at'),
    (design) => check(design, 'admission', 'weight', 'weight_g > 0'),
    (design) => openStay(design),
    rows('ward', ['ward_code', 'name', 'housing'], WARDS),
    rows('pen', ['ward_code', 'pen_no', 'capacity'], PENS),
    rows('stay', ['admission_id', 'started_at', 'ward_code', 'pen_no', 'ended_at'], STAYS)
  ])
}

/** An admission is in one place at a time. */
function openStay(design: Design): Operation {
  const where = readExpression('ended_at is null', {
    columns: tableOf(design, 't_stay')?.columns ?? [],
    enums: []
  })
  if (!where.ok) throw new Error(where.message)
  return {
    kind: 'index.add',
    table: 't_stay',
    index: {
      id: 'i_stay_open',
      name: 'stay_open_uq',
      columns: [{ column: 'c_stay_admission_id', descending: false }],
      unique: true,
      where: where.value,
      everywhere: true
    }
  }
}

export function peopleAndPairs(start: Design): Design {
  const add = (words: Parameters<typeof table>[0]): Operation => ({ kind: 'table.add', table: table(words) })
  return build(start, [
    { kind: 'schema.add', schema: { id: 's_staff', name: 'staff' } },
    { kind: 'enum.add', enum: { id: 'e_level', name: 'level', values: ['learning', 'trusted', 'teaching'] } },
    {
      kind: 'table.add',
      table: {
        ...table({
          name: 'person',
          note: 'Somebody the trust employs. The personnel system keeps it.',
          key: ['person_id'],
          columns: [
            ['person_id', 'integer', 'required'],
            ['full_name', 'text(80)', 'required']
          ]
        }),
        schema: 's_staff',
        external: true
      }
    },
    add({
      name: 'species_conflict',
      note: 'Two species that may not be housed side by side; each pair stands once.',
      key: ['species_code', 'other_species_code'],
      columns: [
        ['species_code', 'char(6)', 'required'],
        ['other_species_code', 'char(6)', 'required'],
        ['reason', 'text(120)']
      ]
    }),
    add({
      name: 'condition',
      note: 'What an animal can be found to have.',
      key: ['condition_id'],
      columns: [
        ['condition_id', 'integer', 'required', 'generated'],
        ['name', 'text(60)', 'required'],
        ['contagious', 'boolean', 'required', 'false']
      ],
      uniques: ['name']
    }),
    add({
      name: 'diagnosis',
      note: 'A condition found in an admission.',
      key: ['admission_id', 'condition_id'],
      columns: [
        ['admission_id', 'integer', 'required'],
        ['condition_id', 'integer', 'required'],
        ['severity', 'smallint', 'required', '1'],
        ['diagnosed_on', 'date', 'required', 'now'],
        ['diagnosed_by', 'integer']
      ]
    }),
    add({
      name: 'volunteer',
      note: 'Somebody who gives time.',
      key: ['volunteer_id'],
      columns: [
        ['volunteer_id', 'integer', 'required', 'generated'],
        ['name', 'text(80)', 'required'],
        ['telephone', 'text(24)']
      ]
    }),
    add({
      name: 'skill',
      note: 'What a volunteer can be trusted with.',
      key: ['skill_id'],
      columns: [
        ['skill_id', 'integer', 'required', 'generated'],
        ['name', 'text(40)', 'required']
      ],
      uniques: ['name']
    }),
    add({
      name: 'volunteer_skill',
      note: 'A skill of a volunteer.',
      key: ['volunteer_id', 'skill_id'],
      columns: [
        ['volunteer_id', 'integer', 'required'],
        ['skill_id', 'integer', 'required'],
        ['level', 'enum level', 'required', 'learning'],
        ['since', 'date']
      ]
    }),
    add({
      name: 'shift',
      note: 'Some hours in a ward that ask for a skill.',
      key: ['shift_id'],
      columns: [
        ['shift_id', 'integer', 'required', 'generated'],
        ['ward_code', 'char(3)', 'required'],
        ['skill_id', 'integer'],
        ['starts_at', 'timestamp zone', 'required'],
        ['lasts', 'interval', 'required', 'PT4H']
      ]
    }),
    add({
      name: 'shift_volunteer',
      note: 'A volunteer invited to a shift, and whether they came.',
      key: ['shift_id', 'volunteer_id'],
      columns: [
        ['shift_id', 'integer', 'required'],
        ['volunteer_id', 'integer', 'required'],
        ['came', 'boolean']
      ]
    }),
    add({
      name: 'release_site',
      note: 'Where animals are let go.',
      key: ['release_site_id'],
      columns: [
        ['release_site_id', 'integer', 'required', 'generated'],
        ['name', 'text(60)', 'required'],
        ['grid_ref', 'char(8)', 'required'],
        ['habitat', 'text(60)']
      ],
      uniques: ['grid_ref']
    }),
    add({
      name: 'release',
      note: 'The end of an admission that went well.',
      key: ['admission_id'],
      columns: [
        ['admission_id', 'integer', 'required'],
        ['release_site_id', 'integer', 'required'],
        ['released_on', 'date', 'required', 'now']
      ]
    }),
    add({
      name: 'carer_note',
      note: 'What somebody wrote down about an admission; may answer another note.',
      key: ['carer_note_id'],
      columns: [
        ['carer_note_id', 'integer', 'required', 'generated'],
        ['admission_id', 'integer', 'required'],
        ['answers_id', 'integer'],
        ['written_by', 'integer'],
        ['written_at', 'timestamp zone', 'required', 'now'],
        ['words', 'text', 'required'],
        ['kept_private', 'boolean', 'required', 'false']
      ]
    }),
    { kind: 'column.add', table: 't_dose', column: column('dose', 'given_by', 'integer') },
    {
      kind: 'column.copy',
      table: 't_dose',
      column: 'c_dose_unit_cost',
      copied: { foreignKey: 'f_dose_medicine_id', column: 'c_medicine_unit_cost' }
    },
    {
      kind: 'column.add',
      table: 't_dose',
      column: {
        ...column('dose', 'cost', 'decimal(10,2)'),
        computed: '{c_dose_quantity} * {c_dose_unit_cost}'
      }
    },
    refer('species_conflict', ['species_code'], 'species', 'CASCADE', {
      child: 'keeps apart',
      parent: 'is kept apart by'
    }),
    refer('species_conflict', ['other_species_code'], 'species', 'CASCADE', {
      child: 'keeps it from',
      parent: 'is kept away by'
    }),
    refer('diagnosis', ['admission_id'], 'admission', 'CASCADE', { child: 'is made in', parent: 'has' }),
    refer('diagnosis', ['condition_id'], 'condition', 'RESTRICT', { child: 'is of', parent: 'is found in' }),
    refer('diagnosis', ['diagnosed_by'], 'person', 'SET NULL', { child: 'was made by', parent: 'made' }),
    refer('volunteer_skill', ['volunteer_id'], 'volunteer', 'CASCADE', {
      child: 'belongs to',
      parent: 'has'
    }),
    refer('volunteer_skill', ['skill_id'], 'skill', 'RESTRICT', { child: 'is of', parent: 'has' }),
    refer('shift', ['ward_code'], 'ward', 'CASCADE', { child: 'is in', parent: 'has' }),
    refer('shift', ['skill_id'], 'skill', 'SET NULL', { child: 'asks for', parent: 'is asked for by' }),
    refer('shift_volunteer', ['shift_id'], 'shift', 'CASCADE', { child: 'is for', parent: 'has' }),
    refer('shift_volunteer', ['volunteer_id'], 'volunteer', 'CASCADE', {
      child: 'invites',
      parent: 'is invited by'
    }),
    refer('release', ['admission_id'], 'admission', 'CASCADE', { child: 'ends', parent: 'has' }),
    refer('release', ['release_site_id'], 'release_site', 'RESTRICT', { child: 'is at', parent: 'has seen' }),
    refer('carer_note', ['admission_id'], 'admission', 'CASCADE', { child: 'is about', parent: 'has' }),
    refer('carer_note', ['answers_id'], 'carer_note', 'SET NULL', {
      child: 'answers',
      parent: 'is answered by'
    }),
    refer('carer_note', ['written_by'], 'person', 'SET NULL', { child: 'was written by', parent: 'wrote' }),
    refer('dose', ['given_by'], 'person', 'SET NULL', { child: 'was given by', parent: 'gave' }),
    // Revised after a rehearsal: taking down a pen had taken the stays with it.
    {
      kind: 'foreignKey.setActions',
      table: 't_stay',
      foreignKey: 'f_stay_ward_code',
      onDelete: 'RESTRICT',
      onUpdate: 'CASCADE'
    },
    (design) => check(design, 'species_conflict', 'once', 'species_code < other_species_code'),
    (design) => check(design, 'diagnosis', 'severity', 'severity between 1 and 5'),
    (design) => check(design, 'dose', 'quantity', 'quantity > 0'),
    {
      kind: 'index.add',
      table: 't_carer_note',
      index: {
        id: 'i_carer_note_latest',
        columns: [
          { column: 'c_carer_note_admission_id', descending: false },
          { column: 'c_carer_note_written_at', descending: true }
        ],
        unique: false
      }
    },
    {
      kind: 'rowPolicy.add',
      table: 't_carer_note',
      rowPolicy: {
        id: 'p_carer_note_open',
        name: 'open_notes',
        command: 'SELECT',
        role: 'ward_staff',
        condition: 'NOT {c_carer_note_kept_private}'
      }
    },
    rows('person', ['person_id', 'full_name'], PERSONS),
    rows('species_conflict', ['species_code', 'other_species_code', 'reason'], CONFLICTS),
    rows('condition', ['condition_id', 'name', 'contagious'], CONDITIONS),
    rows(
      'diagnosis',
      ['admission_id', 'condition_id', 'severity', 'diagnosed_on', 'diagnosed_by'],
      DIAGNOSES
    ),
    rows('volunteer', ['volunteer_id', 'name', 'telephone'], VOLUNTEERS),
    rows('skill', ['skill_id', 'name'], SKILLS),
    rows('volunteer_skill', ['volunteer_id', 'skill_id', 'level', 'since'], VOLUNTEER_SKILLS),
    rows('shift', ['shift_id', 'ward_code', 'skill_id', 'starts_at', 'lasts'], SHIFTS),
    rows('shift_volunteer', ['shift_id', 'volunteer_id', 'came'], SHIFT_VOLUNTEERS),
    rows('release_site', ['release_site_id', 'name', 'grid_ref', 'habitat'], SITES),
    rows('release', ['admission_id', 'release_site_id', 'released_on'], RELEASES),
    rows(
      'carer_note',
      ['carer_note_id', 'admission_id', 'answers_id', 'written_by', 'written_at', 'words', 'kept_private'],
      CARER_NOTES
    ),
    figure('shift', 'invited', ['shift_volunteer', 'shift_id']),
    figure('shift', 'came', ['shift_volunteer', 'shift_id'], { where: '{c_shift_volunteer_came}' }),
    figure('volunteer', 'invited', ['shift_volunteer', 'volunteer_id']),
    figure('volunteer', 'came', ['shift_volunteer', 'volunteer_id'], { where: '{c_shift_volunteer_came}' }),
    figure('admission', 'medicines', ['dose', 'admission_id'], {
      measure: 'different',
      far: 'f_dose_medicine_id'
    }),
    figure('admission', 'last_dose', ['dose', 'admission_id'], {
      measure: 'last',
      column: 'c_dose_given_at'
    }),
    ruling(
      'patient_admitted',
      'A patient that was admitted is not deleted.',
      { kind: 'delete', table: 't_patient', rows: [{ c_patient_patient_id: 2 }] },
      { is: 'refused', by: 'f_admission_patient_id' }
    ),
    ruling(
      'finder_forgotten',
      'A finder who asks to be forgotten can be.',
      { kind: 'delete', table: 't_finder', rows: [{ c_finder_finder_id: 1 }] },
      { is: 'taken' }
    ),
    ruling(
      'note_goes',
      'Notes on an admission go with it.',
      { kind: 'delete', table: 't_admission', rows: [{ c_admission_admission_id: 4 }] },
      {
        is: 'takes along',
        rows: [3, 4].map((id) => ({ table: 't_carer_note', row: { c_carer_note_carer_note_id: id } }))
      }
    ),
    ruling(
      'dose_of_nothing',
      'A dose of nothing is no dose.',
      {
        kind: 'insert',
        table: 't_dose',
        rows: [
          {
            c_dose_admission_id: 1,
            c_dose_medicine_id: 1,
            c_dose_given_at: '2026-09-14 08:00:00',
            c_dose_quantity: '0'
          }
        ]
      },
      { is: 'refused', by: 'x_dose_quantity' }
    )
  ])
}
