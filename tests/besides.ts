import { FIRST_POLICY, type Design, type Row } from '../core/design/model.ts'
import { membersOf } from '../core/design/parts/held.ts'
import type { Operation } from '../core/edit/operation.ts'
import type { Choice } from './designs.ts'

const pick = <T>(list: readonly T[], at: number): T | undefined =>
  list.length > 0 ? list[at % list.length] : undefined

/**
 * An operation on what a database knows nothing of, and on rows: what a design is called and written for, what is said
 * of its relationships, figures, rulings, subjects, views, outputs, names in code. Some are refused.
 * @param design one that has tables, columns and references
 * @param at tells the ids that are made from those of other operations
 */
export function besideOperation(design: Design, [kind, a, b, c]: Choice, at: number): Operation {
  const table = pick(design.tables, a)
  const column = pick(table?.columns ?? [], b)
  const referring = design.tables.filter(({ foreignKeys }) => foreignKeys.length > 0)
  const child = pick(referring, a)
  const foreignKey = pick(child?.foreignKeys ?? [], b)
  if (!table || !column || !child || !foreignKey) return { kind: 'design.rename', name: `design ${c}` }
  const reference = { table: child.id, foreignKey: foreignKey.id }
  const removable = (name: 'figure' | 'ruling' | 'subject' | 'view') =>
    pick(membersOf(name, design), c)?.id ?? 'g_none'
  const row: Row = pick(table.rows, c) ?? {}
  const made: Operation[] = [
    { kind: 'design.rename', name: `design ${c}` },
    {
      kind: 'design.setStanding',
      standing: b % 3 === 0 ? null : { tables: [], junctions: [], key: c % 2 === 0 ? 'big' : 'normal' }
    },
    { kind: 'design.setUsual', usual: { shapes: { part: 'CASCADE' }, tables: { [table.id]: 'RESTRICT' } } },
    { kind: 'design.setDialects', dialects: c % 2 === 0 ? ['sqlite'] : ['mariadb', 'postgresql'] },
    { kind: 'design.setOldest', dialect: 'postgresql', version: c % 2 === 0 ? '14' : null },
    { kind: 'design.setPolicy', policy: { ...FIRST_POLICY, tables: c % 2 === 0 ? 'plural' : 'as typed' } },
    { kind: 'design.setOutput', output: 'ts-types', to: c % 3 === 0 ? null : `src/types-${c}.ts` },
    {
      kind: 'design.setOutputSetting',
      output: 'ts-types',
      setting: `style-${b % 3}`,
      to: c % 3 === 0 ? null : 'wide'
    },
    { kind: 'template.set', name: `page-${b % 3}`, text: c % 3 === 0 ? null : `text ${c}` },
    { kind: 'code.setName', of: c % 2 === 0 ? table.id : column.id, name: b % 3 === 0 ? null : `name${c}` },
    {
      kind: 'finding.setAside',
      rule: 'many-columns',
      table: table.id,
      reason: c % 3 === 0 ? null : `reason ${c}`
    },
    { kind: 'table.setLabel', table: table.id, label: c % 3 === 0 ? null : [column.id] },
    { kind: 'table.place', table: table.id, position: c % 3 === 0 ? null : { x: b, y: c } },
    { kind: 'table.move', table: table.id, to: c % design.tables.length },
    {
      kind: 'foreignKey.setVerbs',
      ...reference,
      verbs: c % 3 === 0 ? null : { child: `is of ${c}`, parent: 'has' }
    },
    { kind: 'foreignKey.setNature', ...reference, nature: c % 3 === 0 ? null : 'listed' },
    { kind: 'foreignKey.setAccessors', ...reference, accessors: c % 3 === 0 ? null : { child: `the${c}` } },
    {
      kind: 'figure.add',
      figure: {
        id: `g_b${at}`,
        name: `figure ${c}`,
        table: foreignKey.table,
        of: child.id,
        by: foreignKey.id,
        measure: 'count'
      }
    },
    { kind: 'figure.remove', figure: removable('figure') },
    {
      kind: 'ruling.add',
      ruling: {
        id: `u_b${at}`,
        says: `ruling ${c}`,
        statements: [{ kind: 'insert', table: table.id, rows: [{}] }],
        together: true,
        verdict: { is: 'refused' }
      }
    },
    { kind: 'ruling.remove', ruling: removable('ruling') },
    { kind: 'subject.add', subject: { id: `b_b${at}`, name: `subject ${c}`, tables: [table.id] }, at: 0 },
    { kind: 'subject.change', subject: { id: removable('subject'), name: `part ${c}`, tables: [child.id] } },
    { kind: 'subject.remove', subject: removable('subject') },
    {
      kind: 'view.add',
      view: {
        id: `v_b${at}`,
        name: `view ${c}`,
        shows: { kind: 'near', table: table.id, steps: 1 },
        look: { rows: 'keys', types: false, ends: 'numbers', words: 'none', regions: false }
      }
    },
    { kind: 'view.remove', view: removable('view') },
    {
      kind: 'rows.change',
      table: table.id,
      changed: [],
      gone: table.rows.length > 0 && c % 2 === 0 ? [{ at: c % table.rows.length, row }] : [],
      come: c % 2 === 1 ? [{ at: 0, row: { ...row } }] : []
    },
    {
      kind: 'rows.change',
      table: table.id,
      changed:
        table.rows.length > 0 && table.rows.length > b
          ? [{ at: c % table.rows.length, was: row, row: pick(table.rows, b) ?? {} }]
          : [],
      gone: [],
      come: []
    }
  ]
  return made[kind % made.length] as Operation
}
