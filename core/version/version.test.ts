import { toJunction } from '../restructure/to-junction.ts'
import { made } from '../../tests/made.ts'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Design, Key, Table } from '../design/model.ts'
import { parseType } from '../design/type.ts'
import { script } from '../dialect/dialect.ts'
import { DIALECTS } from '../dialect/index.ts'
import { replay } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { newTable, proposeJunction } from '../relate/propose.ts'
import { switchKey } from '../restructure/another-key.ts'
import { compareDesigns } from './compare.ts'
import { holdsAll } from './holds.ts'
import { planMigration } from './plan.ts'

const start = fernhollow().versions[1]?.design as Design

function evolve(from: Design, operations: readonly Operation[]): Design {
  return operations.reduce((design, operation) => {
    const result = replay(design, operation)
    if (!result.ok) throw new Error(result.refusal.message)
    return result.design
  }, from)
}
const after = (...operations: Operation[]): Design => evolve(start, operations)

const patient = 't_patient'
const at = (name: string) => ({ table: patient, column: `c_patient_${name}` })

describe('a change in words', () => {
  it.each<[string, Operation[], string[]]>([
    [
      'of a name',
      [{ kind: 'table.rename', table: patient, name: 'animal' }],
      ['renamed: patient is renamed to animal.']
    ],
    [
      'of a column’s name',
      [{ kind: 'column.rename', ...at('sex'), name: 'gender' }],
      ['renamed: patient.sex is renamed to gender.']
    ],
    [
      'of a type',
      [{ kind: 'column.retype', ...at('found_at'), type: { kind: 'text' } }],
      ['changed: patient.found_at changes from text(120) to text.']
    ],
    [
      'of what is required',
      [{ kind: 'column.require', ...at('found_on'), required: false }],
      ['changed: patient.found_on may now be empty.']
    ],
    [
      'of a default',
      [{ kind: 'column.setDefault', ...at('found_on'), default: { kind: 'now' } }],
      ['changed: patient.found_on has the default now.']
    ],
    [
      'of order',
      [{ kind: 'column.move', ...at('sex'), to: 1 }],
      ['changed: The columns of patient stand in another order.']
    ],
    [
      'of a unique key',
      [
        { kind: 'unique.remove', table: patient, key: 'k_patient_ring' },
        { kind: 'unique.add', table: patient, key: { id: 'k_n', columns: ['c_patient_ward_name'] } }
      ],
      ['added: ward_name is unique in patient.', 'removed: ring_no need no longer be unique in patient.']
    ],
    [
      'of a rule',
      [
        {
          kind: 'foreignKey.setActions',
          table: 't_admission',
          foreignKey: 'f_admission_patient_id',
          onDelete: 'CASCADE',
          onUpdate: 'RESTRICT'
        }
      ],
      [
        'changed: Deleting patient, for admission: RESTRICT becomes CASCADE.',
        'changed: Changing the key of patient, for admission: CASCADE becomes RESTRICT.'
      ]
    ],
    [
      'of a relationship',
      [{ kind: 'foreignKey.remove', table: 't_admission', foreignKey: 'f_admission_patient_id' }],
      ['removed: admission no longer refers to patient.']
    ],
    [
      'of a key',
      [
        {
          kind: 'key.setPrimary',
          table: 't_dose',
          key: { id: 'k_dose', columns: ['c_dose_admission_id', 'c_dose_given_at'] }
        }
      ],
      [
        'changed: The primary key of dose changes from (admission_id, medicine_id, given_at) to (admission_id, given_at).'
      ]
    ],
    [
      'that loses a key',
      [{ kind: 'key.setPrimary', table: 't_dose', key: null }],
      ['removed: dose loses its primary key (admission_id, medicine_id, given_at).']
    ],
    [
      'with a new table',
      [{ kind: 'table.add', table: newTable('ward') }],
      ['added: ward is new, with 1 column.']
    ],
    [
      'without a table',
      [{ kind: 'table.remove', table: 't_dose' }],
      ['removed: dose is removed, with its 5 columns.']
    ],
    [
      'of a note',
      [{ kind: 'table.annotate', table: patient, note: 'x' }],
      ['changed: The note of patient changes.']
    ],
    [
      'of rows and places only',
      [
        { kind: 'table.place', table: patient, position: { x: 1, y: 1 } },
        { kind: 'table.setRows', table: 't_dose', rows: [] }
      ],
      []
    ]
  ])('%s', (_, operations, said) => {
    expect(
      compareDesigns(start, after(...operations)).map((change) => `${change.kind}: ${change.sentence}`)
    ).toEqual(said)
  })
})

describe('a change of what a table holds its rows to, in words', () => {
  const demo = fernhollow().design
  const said = (...operations: Operation[]): string[] => {
    const changed = operations.reduce((design, operation) => {
      const result = replay(design, operation)
      if (!result.ok) throw new Error(result.refusal.message)
      return result.design
    }, demo)
    return compareDesigns(demo, changed).map((change) => `${change.kind}: ${change.sentence}`)
  }
  it.each<[string, Operation, string[]]>([
    [
      'a check',
      { kind: 'check.remove', table: 't_pen', check: 'x_pen_capacity' },
      ['removed: pen loses a check: capacity BETWEEN 1 AND 40.']
    ],
    [
      'another check',
      {
        kind: 'check.change',
        table: 't_pen',
        check: { id: 'x_pen_capacity', condition: '{c_pen_capacity} > 0' }
      },
      ['changed: pen has another check: capacity > 0, before it was capacity BETWEEN 1 AND 40.']
    ],
    [
      'an index',
      {
        kind: 'index.add',
        table: 't_stay',
        index: {
          id: 'i_n',
          columns: [{ column: 'c_stay_ended_at', descending: true }],
          unique: false,
          where: '{c_stay_ended_at} IS NOT NULL'
        }
      },
      ['added: stay gets an index: ended_at where ended_at IS NOT NULL.']
    ],
    [
      'a row policy',
      { kind: 'rowPolicy.remove', table: 't_carer_note', rowPolicy: 'p_carer_note_open' },
      ['removed: carer_note loses a row policy: open_notes, NOT kept_private.']
    ],
    [
      'what a column is computed from',
      { kind: 'column.compute', table: 't_dose', column: 'c_dose_cost', expression: '{c_dose_quantity} * 2' },
      ['changed: dose.cost is computed: quantity * 2, before it was quantity * unit_cost.']
    ],
    [
      'what a column is copied from',
      { kind: 'column.copy', table: 't_dose', column: 'c_dose_unit_cost', copied: null },
      ['changed: dose.unit_cost is no longer copied.']
    ],
    [
      'a list of values',
      {
        kind: 'enum.change',
        enum: { id: 'e_level', name: 'grade', values: ['learning', 'trusted', 'teaching', 'retired'] }
      },
      ['renamed: The list of values level is renamed to grade.', 'changed: grade gets retired.']
    ],
    [
      'the order of a list',
      {
        kind: 'enum.change',
        enum: { id: 'e_level', name: 'level', values: ['teaching', 'learning', 'trusted'] }
      },
      ['changed: The values of level stand in another order.']
    ],
    [
      'a schema',
      { kind: 'schema.rename', schema: 's_staff', name: 'payroll' },
      ['renamed: The schema staff is renamed to payroll.']
    ],
    [
      'where a table stands',
      { kind: 'table.setSchema', table: 't_volunteer', schema: 's_staff' },
      ['changed: volunteer moves into the schema staff.']
    ],
    [
      'whose a table is',
      { kind: 'table.setExternal', table: 't_person', external: false },
      ["changed: person is the design's own from now on."]
    ]
  ])('%s', (_, operation, words) => expect(said(operation)).toEqual(words))
})

describe('a migration plan', () => {
  const grown = fernhollow().design
  it.each<[string, Operation, 'up' | 'down', string]>([
    [
      'a check that rows may not meet',
      {
        kind: 'check.add',
        table: 't_patient',
        check: { id: 'x_n', condition: "{c_patient_sex} IN ('f', 'm')" }
      },
      'up',
      "patient gets the check sex IN ('f', 'm'): the migration stops at a row that does not meet it."
    ],
    [
      'a value that is unique from now on',
      {
        kind: 'index.add',
        table: 't_patient',
        index: { id: 'i_n', columns: [{ column: 'c_patient_found_on', descending: false }], unique: true }
      },
      'up',
      'found_on becomes unique in patient: the migration stops where a value is there twice.'
    ],
    [
      'a key that is computed from now on',
      {
        kind: 'column.compute',
        table: 't_patient',
        column: 'c_patient_ring',
        expression: 'upper({c_patient_found_at})'
      },
      'up',
      'ring_no becomes a key of patient: the migration stops where the same is there twice.'
    ],
    [
      'a key on a new column that is the same in every row',
      {
        kind: 'batch',
        label: 'x',
        operations: [
          {
            kind: 'column.add',
            table: 't_patient',
            column: {
              id: 'c_n',
              name: 'n',
              type: { kind: 'integer', size: 'normal' },
              required: false,
              default: { kind: 'value', value: 1 }
            }
          },
          { kind: 'unique.add', table: 't_patient', key: { id: 'k_n', columns: ['c_n'] } }
        ]
      },
      'up',
      'n becomes a key of patient: the migration stops where the same is there twice.'
    ],
    [
      'a key that rows may have twice',
      {
        kind: 'unique.add',
        table: 't_patient',
        key: { id: 'k_n', columns: ['c_patient_found_on', 'c_patient_sex'] }
      },
      'up',
      'found_on, sex become a key of patient: the migration stops where the same is there twice.'
    ],
    [
      'a reference that rows may not keep',
      {
        kind: 'foreignKey.add',
        table: 't_release',
        foreignKey: {
          id: 'f_n',
          table: 't_volunteer',
          key: 'k_volunteer',
          pairs: [{ column: 'c_release_volunteer_id', refersTo: 'c_volunteer_volunteer_id' }],
          onDelete: 'SET NULL',
          onUpdate: 'CASCADE'
        }
      },
      'up',
      'release.volunteer_id refers to volunteer from now on: the migration stops at a row that refers to nothing there.'
    ],
    [
      'a value that goes from a list on the way back',
      {
        kind: 'enum.change',
        enum: { id: 'e_level', name: 'level', values: ['learning', 'trusted', 'teaching', 'retired'] }
      },
      'down',
      'level loses a value: the migration stops at a row of volunteer_skill that has it.'
    ]
  ])('warns of %s', (_, operation, way, message) => {
    const result = replay(grown, operation)
    if (!result.ok) throw new Error(result.refusal.message)
    for (const dialect of Object.values(DIALECTS))
      expect(
        planMigration(grown, result.design, dialect).warnings[way].map((warning) => warning.message)
      ).toContain(message)
  })

  it('looks up what a reference by another key is to be, there and back, and keeps nothing aside for it', () => {
    const skill = grown.tables.find((table) => table.id === 't_skill') as Table
    const switched = switchKey(grown, skill, skill.uniques[0] as Key)
    const result = switched.ok ? replay(grown, switched.value) : expect.fail(switched.message)
    if (!result.ok) throw new Error(result.refusal.message)
    expect(compareDesigns(grown, result.design).map((change) => change.sentence)).toContain(
      'volunteer_skill.skill_name is looked up in the skill that skill_id refers to.'
    )
    const whole = Object.values(DIALECTS).filter(({ facts }) => facts.rollsBack)
    expect(whole.length).toBeGreaterThan(2)
    for (const dialect of whole) {
      const { up, down, keepsakes, warnings } = planMigration(grown, result.design, dialect)
      const stands = [...warnings.up, ...warnings.down].filter(({ effect }) => effect !== 'told')
      expect(keepsakes).toEqual({ up: [], down: [] })
      expect(script(up)).toMatch(/skill (\w+)\s+(?:WHERE|ON) \(?\1\.skill_id = \w+\.skill_id/)
      expect(script(down)).toMatch(/skill (\w+)\s+(?:WHERE|ON) \(?\1\.name = \w+\.skill_name/)
      expect(stands).toEqual([])
    }
  })

  it('warns of a key, a reference and a check that a default may come up against where it fills what was empty', () => {
    const held = evolve(grown, [
      { kind: 'table.setRows', table: patient, rows: [] },
      {
        kind: 'check.add',
        table: patient,
        check: { id: 'x_n', condition: '{c_patient_ring} IS NULL OR length({c_patient_ring}) > 3' }
      }
    ])
    const filled = evolve(held, [
      { kind: 'column.setDefault', ...at('ring'), default: { kind: 'value', value: 'none' } },
      { kind: 'column.require', ...at('ring'), required: true }
    ])
    const { up } = planMigration(held, filled, DIALECTS.sqlite).warnings
    expect(up.filter((warning) => warning.effect === 'stops').map((warning) => warning.message)).toEqual([
      'patient.ring_no is filled with its default where it is empty: the migration stops where ring_no is then the same twice.',
      'patient.ring_no is filled with its default where it is empty: the migration stops where ring_no IS NULL OR length(ring_no) > 3 does not hold for that.'
    ])
  })

  it('warns where a reference that may be empty is looked up for one that is required', () => {
    const skill = grown.tables.find((table) => table.id === 't_skill') as Table
    const switched = switchKey(grown, skill, skill.uniques[0] as Key)
    const result = switched.ok ? replay(grown, switched.value) : expect.fail(switched.message)
    if (!result.ok) throw new Error(result.refusal.message)
    const shift = result.design.tables.find((table) => table.id === 't_shift') as Table
    const name = shift.columns.find((column) => column.name === 'skill_name')?.id ?? ''
    const reference = shift.foreignKeys.find((key) => key.table === 't_skill')?.id ?? ''
    const required = replay(result.design, {
      kind: 'batch',
      operations: [
        {
          kind: 'foreignKey.setActions',
          table: 't_shift',
          foreignKey: reference,
          onDelete: 'RESTRICT',
          onUpdate: 'CASCADE'
        },
        { kind: 'table.setRows', table: 't_shift', rows: [] },
        { kind: 'column.require', table: 't_shift', column: name, required: true }
      ]
    })
    if (!required.ok) throw new Error(required.refusal.message)
    for (const dialect of Object.values(DIALECTS))
      expect(
        planMigration(grown, required.design, dialect)
          .warnings.up.filter(({ effect }) => effect === 'stops')
          .map((warning) => warning.message)
      ).toEqual([
        'shift.skill_name becomes required and has no default: the migration stops if a row has it empty. Say what they get, or give it a default.'
      ])
  })

  it('warns where rows that are carried bring nothing for a required column, or too many of a key', () => {
    const [admission, reason] = ['t_admission', 't_reason'].map(
      (id) => grown.tables.find((table) => table.id === id) as Table
    ) as [Table, Table]
    const junction = proposeJunction(grown, admission, reason)
    const resolved = made(
      toJunction(
        grown,
        admission,
        admission.foreignKeys.find((each) => each.table === reason.id) ?? expect.fail(),
        junction
      )
    )
    const to = [
      resolved,
      {
        kind: 'column.add',
        table: junction.table.id,
        column: { id: 'c_n', name: 'weight', type: { kind: 'integer', size: 'small' }, required: true }
      },
      {
        kind: 'unique.add',
        table: junction.table.id,
        key: { id: 'k_n', columns: [junction.sides[1].columns[0]?.id ?? ''] }
      }
    ].reduce((design, operation) => {
      const result = replay(design, operation as Operation)
      return result.ok ? result.design : expect.fail(result.refusal.message)
    }, grown)
    expect(
      planMigration(grown, to, DIALECTS.postgresql)
        .warnings.up.filter((warning) => warning.effect === 'stops')
        .map((warning) => warning.message)
    ).toEqual([
      'admission_reason.weight is required and has no default, and the rows that are carried from admission bring nothing for it: the migration stops at the first. Give it a default, or let it be empty first.',
      'reason_code is a key of admission_reason: the migration stops where admission has the same twice.'
    ])
  })

  it('leaves another system’s tables alone, whatever happens to them in the design', () => {
    for (const operations of [
      [
        {
          kind: 'column.add',
          table: 't_person',
          column: { id: 'c_n', name: 'grade', type: { kind: 'date' }, required: false }
        }
      ],
      [{ kind: 'column.rename', table: 't_person', column: 'c_person_full_name', name: 'called' }]
    ] as Operation[][]) {
      const result = replay(grown, { kind: 'batch', operations })
      if (!result.ok) throw new Error(result.refusal.message)
      for (const dialect of Object.values(DIALECTS))
        expect(planMigration(grown, result.design, dialect)).toMatchObject({
          up: [],
          down: [],
          keepsakes: { up: [], down: [] }
        })
    }
  })

  it('is empty where the engine sees no difference', () => {
    for (const dialect of Object.values(DIALECTS)) {
      const plan = planMigration(
        start,
        after({ kind: 'table.place', table: patient, position: { x: 1, y: 2 } }),
        dialect
      )
      expect([plan.up, plan.down, plan.keepsakes]).toEqual([[], [], { up: [], down: [] }])
    }
  })

  it('back is what the way there is from the other side, so that each finds what the other has kept', () => {
    const states = fernhollow().versions.map(({ design }) => design)
    for (const dialect of Object.values(DIALECTS))
      for (const [at, from] of states.entries())
        for (const to of states.slice(at + 1)) {
          const [plan, turned] = [planMigration(from, to, dialect), planMigration(to, from, dialect)]
          expect([turned.up, turned.down]).toEqual([plan.down, plan.up])
          expect(turned.keepsakes).toEqual({ up: plan.keepsakes.down, down: plan.keepsakes.up })
        }
  })

  it('is the same whatever the rows are', () => {
    const to = after({ kind: 'column.remove', ...at('sex') })
    const bare = (design: Design): Design => ({
      ...design,
      tables: design.tables.map((table) => ({ ...table, rows: [] }))
    })
    for (const dialect of Object.values(DIALECTS)) {
      const { moves: _, ways: __, ...plan } = planMigration(start, to, dialect)
      expect(planMigration(bare(start), bare(to), dialect)).toMatchObject(plan)
    }
  })

  it.each<[string, Operation[], 'up' | 'down', string, string]>([
    [
      'a dropped column is kept',
      [{ kind: 'column.remove', ...at('sex') }],
      'up',
      'kept',
      'patient.sex: the values are kept in keepsake_patient_'
    ],
    [
      'a dropped table is kept',
      [{ kind: 'table.remove', table: 't_dose' }],
      'up',
      'kept',
      'dose is dropped. Its rows are kept in keepsake_dose_'
    ],
    [
      'a shorter text stops at a longer one',
      [{ kind: 'column.retype', ...at('found_at'), type: { kind: 'text', length: 119 } }],
      'up',
      'stops',
      'patient.found_at is to hold 119 characters: the migration stops at a value that is longer.'
    ],
    [
      'a longer text needs no keeping',
      [{ kind: 'column.retype', ...at('found_at'), type: { kind: 'text', length: 121 } }],
      'up',
      '',
      ''
    ],
    [
      'what a new table has by then is kept on the way back',
      [{ kind: 'table.add', table: newTable('ward') }],
      'down',
      'kept',
      'ward is dropped. Its rows are kept in keepsake_ward_'
    ],
    [
      'a required column with nothing to put there stops',
      [
        {
          kind: 'column.add',
          table: patient,
          column: { id: 'c_new', name: 'age', type: { kind: 'integer', size: 'small' }, required: true }
        }
      ],
      'up',
      'stops',
      'patient.age is new, required and has no default'
    ],
    [
      'one that becomes required may stop',
      [{ kind: 'column.require', ...at('sex'), required: true }],
      'up',
      'stops',
      'patient.sex becomes required and has no default'
    ],
    [
      'a key with one default for all stops',
      [
        {
          kind: 'column.add',
          table: patient,
          column: {
            id: 'c_new',
            name: 'tag',
            type: { kind: 'text' },
            required: true,
            default: { kind: 'value', value: '' }
          }
        },
        { kind: 'unique.add', table: patient, key: { id: 'k_new', columns: ['c_new'] } }
      ],
      'up',
      'stops',
      'every row gets the same default'
    ],
    [
      'a type that cannot take every value may stop',
      [
        { kind: 'column.retype', ...at('sex'), type: { kind: 'boolean' } },
        { kind: 'table.setRows', table: patient, rows: [] }
      ],
      'up',
      'stops',
      'stops at a value that cannot be turned into one'
    ],
    [
      'a row added since has nothing to put back',
      [{ kind: 'column.remove', ...at('ward_name') }],
      'down',
      'kept',
      'a row added since has nothing to put there'
    ]
  ])('warns that %s', (_, operations, step, effect, words) => {
    const [first, ...rest] = operations
    const emptied =
      first?.kind === 'column.retype' && first.type.kind === 'boolean' ? [...rest, first] : operations
    const { warnings } = planMigration(start, after(...emptied), DIALECTS.postgresql)
    if (effect === '') return expect(warnings.up).toEqual([])
    expect(warnings[step]).toContainEqual(
      expect.objectContaining({ effect, message: expect.stringContaining(words) as string })
    )
  })

  it('says of a name nothing but the name, whatever stands in it', () => {
    const to = after(
      { kind: 'table.rename', table: patient, name: 'a::b' },
      { kind: 'column.rename', ...at('sex'), name: 'ALTER COLUMN x TYPE y' }
    )
    const { up, down } = planMigration(start, to, DIALECTS.postgresql)
    const settings = [...up, ...down].filter(({ sql }) => sql.startsWith('SET '))
    expect(settings).toEqual([])
    expect(script(up)).toContain('RENAME TO "a::b"')
  })

  it('renames in PostgreSQL and builds anew in SQLite, never dropping what is renamed', () => {
    const to = after(
      { kind: 'table.rename', table: patient, name: 'animal' },
      { kind: 'column.rename', ...at('ring'), name: 'ring' }
    )
    const postgresql = script(planMigration(start, to, DIALECTS.postgresql).up)
    expect(postgresql).toContain('ALTER TABLE patient RENAME TO animal')
    expect(postgresql).toContain('ALTER TABLE animal RENAME CONSTRAINT patient_pk TO animal_pk')
    expect(postgresql).not.toMatch(/DROP (TABLE|COLUMN)|CREATE TABLE/)
    const sqlite = script(planMigration(start, to, DIALECTS.sqlite).up)
    expect(sqlite).toMatch(/^PRAGMA foreign_keys = OFF;\nPRAGMA legacy_alter_table = ON;\nBEGIN;/)
    expect(sqlite.indexOf('FROM old_patient;')).toBeLessThan(sqlite.indexOf('DROP TABLE old_patient;'))
    expect(sqlite).not.toContain('DROP TABLE patient;')
    expect(sqlite).toContain('pragma_foreign_key_check')
  })

  it('holds rows to a new reference before it is kept, so that nothing is half done', () => {
    const parent = newTable('ward')
    const to = after(
      { kind: 'table.add', table: parent },
      {
        kind: 'relationship.add',
        parent: parent.id,
        child: patient,
        foreignKey: 'f_ward',
        columns: [{ id: 'c_ward_ref', name: 'ward_id' }],
        required: false,
        onDelete: 'SET NULL',
        onUpdate: 'CASCADE'
      }
    )
    const up = planMigration(start, to, DIALECTS.postgresql).up.map((statement) => statement.sql)
    expect(up.at(-1)).toBe('COMMIT')
    expect(up.some((sql) => sql.startsWith('ALTER TABLE patient ADD CONSTRAINT patient_ward_id_fk'))).toBe(
      true
    )
    expect(up.join()).not.toContain('NOT VALID')
  })
})

describe('what is read', () => {
  it('is locked first in PostgreSQL, so that nothing is lost that others write meanwhile', () => {
    const to = after({ kind: 'column.remove', ...at('sex') }, { kind: 'table.remove', table: 't_dose' })
    const up = planMigration(start, to, DIALECTS.postgresql).up.map((statement) => statement.sql)
    expect(up.slice(0, 2)).toEqual(['BEGIN', 'LOCK TABLE patient, dose IN ACCESS EXCLUSIVE MODE'])
    expect(up[2]).toMatch(/^CREATE TABLE keepsake_\w+ AS SELECT/)
  })
})

describe('a type holds all values of another', () => {
  const type = (text: string) => {
    const parsed = parseType(text)
    return parsed.ok ? parsed.value : expect.fail(parsed.message)
  }
  it.each([
    ['smallint', 'bigint', true],
    ['bigint', 'integer', false],
    ['text(10)', 'text(20)', true],
    ['text(20)', 'text(10)', false],
    ['text', 'text(9000)', false],
    ['char(6)', 'text', false],
    ['decimal(6,2)', 'decimal(8,2)', true],
    ['decimal(6,2)', 'decimal(7,3)', true],
    ['decimal(6,2)', 'decimal(6,3)', false],
    ['integer', 'decimal(12,2)', true],
    ['integer', 'decimal(10,2)', false],
    ['integer', 'text', true],
    ['date', 'timestamp', false],
    ['uuid', 'text', true],
    ['boolean', 'integer', false]
  ])('%s in %s: %s', (from, to, held) => expect(holdsAll(type(from), type(to))).toBe(held))
})
