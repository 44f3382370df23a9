import { describe, expect, it } from 'vitest'
import { column } from '../../tests/columns.ts'
import { apply } from '../edit/apply.ts'
import { emptyDesign, emptyTable, type Design, type ForeignKey, type Table } from '../design/model.ts'
import { PROVABLE } from '../dialect/index.ts'
import { rulebookOf } from '../rehearse/rules.ts'
import { rehearse } from '../rehearse/run.ts'
import { findingsOn } from './index.ts'
import { FAR } from './rules/far-cascade.ts'

const table = (name: string, more: Partial<Table> = {}): Table => {
  const id = column(`${name}_id`, 'integer', { required: true })
  return {
    ...emptyTable(name, `t_${name}`),
    primaryKey: { id: `k_${name}`, columns: [id.id] },
    ...more,
    columns: [id, ...(more.columns ?? [])]
  }
}
const reference = (to: string, by: string, more: Partial<ForeignKey> = {}): ForeignKey => ({
  id: `f_${by}`,
  table: `t_${to}`,
  key: `k_${to}`,
  pairs: [{ column: `c_${by}`, refersTo: `c_${to}_id` }],
  onDelete: 'CASCADE',
  onUpdate: 'NO ACTION',
  ...more
})
const designOf = (...tables: Table[]): Design => ({ ...emptyDesign('Rules', 'd_rules'), tables })
const found = (design: Design, of: string, rule: string) =>
  findingsOn(design, of).filter((each) => each.rule === rule)

describe('SET DEFAULT', () => {
  const ward = table('ward', { rows: [{ c_ward_id: 1 }] })
  const stay = (more: Parameters<typeof column>[2]): Design =>
    designOf(
      ward,
      table('stay', {
        columns: [column('ward', 'integer', more)],
        foreignKeys: [reference('ward', 'ward', { onDelete: 'SET DEFAULT' })]
      })
    )
  const judged = (design: Design) => found(design, 't_stay', 'default that leads nowhere')
  it.each([
    ['none', {}, 'wrong', /so that it is emptied/],
    ['none, and required', { required: true }, 'wrong', /deleting fails/],
    [
      'one that no row has',
      { default: { kind: 'value' as const, value: 7 } },
      'doubtful',
      /no ward has that key/
    ]
  ])('with %s as default is told of, and refuses instead', (_, more, severity, message) => {
    const [finding, ...others] = judged(stay(more))
    expect(others).toEqual([])
    expect(finding).toMatchObject({ severity, message: expect.stringMatching(message) as string })
    const mended = finding?.fix && apply(stay(more), finding.fix.operation)
    expect(mended?.ok && judged(mended.design)).toEqual([])
  })
  it('with one that a row has is not', () => {
    expect(judged(stay({ default: { kind: 'value', value: 1 } }))).toEqual([])
  })
})

describe('a delete', () => {
  const chain = (length: number): Design =>
    designOf(
      table('n0'),
      ...Array.from({ length }, (_, at) =>
        table(`n${at + 1}`, {
          columns: [column(`by${at + 1}`, 'integer', { required: true })],
          foreignKeys: [reference(`n${at}`, `by${at + 1}`)]
        })
      )
    )
  it('that takes rows of many tables along is told of where it begins, and is held back', () => {
    expect(found(chain(FAR), 't_n0', 'delete that reaches far')).toEqual([])
    const design = chain(FAR + 1)
    const [finding] = found(design, 't_n0', 'delete that reaches far')
    expect(finding?.message).toMatch(/n1, n2, n3, n4 and others/)
    expect(found(design, 't_n1', 'delete that reaches far')).toEqual([])
    const mended = finding?.fix && apply(design, finding.fix.operation)
    expect(mended?.ok && found(mended.design, 't_n0', 'delete that reaches far')).toEqual([])
  })

  it('that one rule would allow and another refuses is told of, and goes through when that is mended', () => {
    const design = (onDelete: ForeignKey['onDelete']): Design =>
      designOf(
        table('patient', { rows: [{ c_patient_id: 1 }] }),
        table('admission', {
          columns: [column('of', 'integer', { required: true })],
          foreignKeys: [reference('patient', 'of')],
          rows: [{ c_admission_id: 1, c_of: 1 }]
        }),
        table('dose', {
          columns: [
            column('in', 'integer', { required: true }),
            column('for', 'integer', { required: true })
          ],
          foreignKeys: [reference('admission', 'in'), reference('patient', 'for', { onDelete })],
          rows: [{ c_dose_id: 1, c_in: 1, c_for: 1 }]
        })
      )
    const isRefused = (of: Design): boolean[] =>
      PROVABLE.map((dialect) => {
        const trial = {
          statements: [{ kind: 'delete' as const, table: 't_patient', rows: [0] }],
          together: true
        }
        return rehearse(of, rulebookOf(of, dialect), trial).refusals.length > 0
      })
    const [finding] = found(design('RESTRICT'), 't_dose', 'rule behind another')
    expect(finding?.message).toContain('with its admission')
    // MariaDB has deleted the dose with its admission before it comes to the other reference.
    expect(isRefused(design('RESTRICT'))).toEqual(PROVABLE.map(({ name }) => name !== 'mariadb'))
    const mended = finding?.fix && apply(design('RESTRICT'), finding.fix.operation)
    expect(mended?.ok && isRefused(mended.design)).toEqual(PROVABLE.map(() => false))
    for (const action of ['CASCADE', 'NO ACTION'] as const)
      expect(found(design(action), 't_dose', 'rule behind another')).toEqual([])
  })
})
