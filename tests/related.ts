import {
  emptyDesign,
  emptyTable,
  type Action,
  type Column,
  type Design,
  type Table
} from '../core/design/model.ts'
import { column } from './columns.ts'

/** A reference: the table that it leads to, pairs of columns, and what becomes of it with the row. */
type Refers = [to: string, pairs: Record<string, string>, onDelete?: Action]

function table(name: string, columns: Record<string, string>, key: string[], refers: Refers[] = []): Table {
  const all = Object.entries(columns).map(([called, typed]): Column => {
    const [type = '', ...words] = typed.split(' ')
    const made = column(called, type, { required: !words.includes('optional') })
    return {
      ...made,
      id: `c_${name}_${called}`,
      ...(words.includes('counted') && { default: { kind: 'generated' as const } })
    }
  })
  return {
    ...emptyTable(name, `t_${name}`),
    columns: all,
    primaryKey: { id: `k_${name}`, columns: key.map((each) => `c_${name}_${each}`) },
    foreignKeys: refers.map(([to, pairs, onDelete = 'NO ACTION'], at) => ({
      id: `f_${name}_${at}`,
      table: `t_${to}`,
      key: `k_${to}`,
      pairs: Object.entries(pairs).map(([own, its]) => ({
        column: `c_${name}_${own}`,
        refersTo: `c_${to}_${its}`
      })),
      onDelete,
      onUpdate: 'NO ACTION' as const
    }))
  }
}

/**
 * Every way in which tables are related: one to itself, two relationships between the same tables, a composite key that
 * is referred to, a shared key, and junctions of two with and without something of their own, of three, and by a
 * composite key.
 */
export const related: Design = {
  ...emptyDesign('Related', 'd_related'),
  tables: [
    table('volunteer', { volunteer_id: 'integer counted', name: 'text(40)' }, ['volunteer_id']),
    table('ward', { ward_code: 'text(8)', name: 'text(40)' }, ['ward_code']),
    table(
      'pen',
      { ward_code: 'text(8)', pen_no: 'integer' },
      ['ward_code', 'pen_no'],
      [['ward', { ward_code: 'ward_code' }, 'CASCADE']]
    ),
    table(
      'note',
      { note_id: 'integer counted', answers_id: 'integer optional', words: 'text' },
      ['note_id'],
      [['note', { answers_id: 'note_id' }, 'SET NULL']]
    ),
    table(
      'letter',
      { letter_id: 'integer counted', writer_id: 'integer', sender_id: 'integer optional' },
      ['letter_id'],
      [
        ['volunteer', { writer_id: 'volunteer_id' }, 'RESTRICT'],
        ['volunteer', { sender_id: 'volunteer_id' }, 'SET NULL']
      ]
    ),
    table(
      'badge',
      { volunteer_id: 'integer', colour: 'text(10)' },
      ['volunteer_id'],
      [['volunteer', { volunteer_id: 'volunteer_id' }, 'CASCADE']]
    ),
    table('skill', { skill_id: 'integer counted', name: 'text(40)' }, ['skill_id']),
    table(
      'volunteer_skill',
      { volunteer_id: 'integer', skill_id: 'integer' },
      ['volunteer_id', 'skill_id'],
      [
        ['volunteer', { volunteer_id: 'volunteer_id' }, 'CASCADE'],
        ['skill', { skill_id: 'skill_id' }, 'CASCADE']
      ]
    ),
    table(
      'duty',
      { volunteer_id: 'integer', skill_id: 'integer', ward_code: 'text(8)', hours: 'decimal(4,1) optional' },
      ['volunteer_id', 'skill_id', 'ward_code'],
      [
        ['volunteer', { volunteer_id: 'volunteer_id' }, 'CASCADE'],
        ['skill', { skill_id: 'skill_id' }],
        ['ward', { ward_code: 'ward_code' }]
      ]
    ),
    table(
      'place',
      { volunteer_id: 'integer', ward_code: 'text(8)', pen_no: 'integer', since: 'date' },
      ['volunteer_id', 'ward_code', 'pen_no'],
      [
        ['volunteer', { volunteer_id: 'volunteer_id' }, 'CASCADE'],
        ['pen', { ward_code: 'ward_code', pen_no: 'pen_no' }, 'CASCADE']
      ]
    )
  ]
}
