import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { apply } from '../edit/apply.ts'
import { proposeJunction } from '../relate/propose.ts'
import { tableSql } from '../definitions/outputs.ts'
import { DIALECTS } from '../dialect/index.ts'
import { newId, type Action, type Table } from '../design/model.ts'
import {
  childSide,
  keyNames,
  relate,
  type SelfPairs,
  type HowMany,
  type RelationAnswers
} from './relation.ts'
import { pairPreview } from '../relate/label.ts'
import { made } from '../../tests/made.ts'

const { design } = fernhollow()
const need = (id: string) => tableOf(design, id) ?? expect.fail(id)

describe('a table that is related to itself', () => {
  const answers = (howMany: [HowMany, HowMany], more: Partial<RelationAnswers> = {}): RelationAnswers => ({
    table: need('t_volunteer'),
    other: need('t_volunteer'),
    howMany,
    onDelete: undefined,
    junction: undefined,
    resolve: undefined,
    roles: ['mentor', 'learner'],
    ...more
  })
  const built = (given: RelationAnswers): Table[] => {
    const result = apply(design, made(relate(design, given) ?? expect.fail('nothing to do')))
    if (!result.ok) expect.fail(result.refusal.message)
    return result.design.tables.filter((table) => table !== tableOf(design, table.id))
  }

  it.each([
    [['any number of', 'at most one'], 'mentor_volunteer_id', false, false],
    [['at most one', 'any number of'], 'learner_volunteer_id', false, false],
    [['at most one', 'at most one'], 'learner_volunteer_id', false, true]
  ] as const)(
    'has %j as it was answered, by a column that is called after the role',
    (howMany, name, required, single) => {
      const [volunteer] = built(answers([...howMany]))
      const column = volunteer?.columns.at(-1)
      expect(column).toMatchObject({ name, required })
      expect(volunteer?.uniques.some(({ columns }) => columns.includes(column?.id ?? ''))).toBe(single)
      const role = name.startsWith('mentor') ? 'mentor' : 'learner'
      expect(volunteer?.foreignKeys.at(-1)?.verbs).toEqual({
        child: `has as ${role}`,
        parent: `is ${role} of`
      })
    }
  )

  it('gets a junction whose columns and sentences say which side is which, and pairs as they may be', () => {
    const junction = {
      proposed: proposeJunction(design, need('t_volunteer'), need('t_volunteer'), ['mentor', 'learner']),
      name: 'mentoring',
      onDelete: ['CASCADE', 'CASCADE'] as [Action, Action],
      own: [],
      keyed: 'pair' as const,
      ids: { column: newId('c'), unique: newId('k') }
    }
    const make = (apart: SelfPairs): Table | undefined =>
      built(answers(['any number of', 'any number of'], { junction: { ...junction, apart } }))[0]
    const mentoring = make('once')
    const [mentor, learner] = mentoring?.columns ?? []
    expect([mentor?.name, learner?.name]).toEqual(['mentor_volunteer_id', 'learner_volunteer_id'])
    expect(mentoring?.foreignKeys.map(({ verbs }) => verbs?.child)).toEqual([
      'has as mentor',
      'has as learner'
    ])
    expect(mentoring?.checks.map(({ condition }) => condition)).toEqual([
      `{${mentor?.id}} < {${learner?.id}}`
    ])
    expect(make('not itself')?.checks[0]?.condition).toContain('<>')
    expect(make('any')?.checks).toEqual([])
  })
})

describe('relating two tables', () => {
  it.each([
    ['exactly one', 'any number of', 'first'],
    ['any number of', 'exactly one', 'second'],
    ['at most one', 'any number of', 'first'],
    ['any number of', 'at most one', 'second'],
    ['exactly one', 'at most one', 'first'],
    ['at most one', 'exactly one', 'second'],
    ['at most one', 'at most one', 'first']
  ] as const)('with %s and %s puts the key on the %s', (first, second, side) =>
    expect(childSide(first, second)).toBe(side)
  )

  it('shows what would be built before it is', () => {
    const junction = proposeJunction(design, need('t_patient'), need('t_medicine'))
    const result = apply(design, { kind: 'relationship.addJunction', junction })
    if (!result.ok) throw new Error('was refused')
    expect(tableOf(design, junction.table.id)).toBeUndefined()
    const sql = tableSql(result.design, junction.table.id, DIALECTS.postgresql)
    expect(sql).toMatch(/^CREATE TABLE patient_medicine \(/)
    expect(sql.match(/FOREIGN KEY/g)).toHaveLength(2)
    expect(tableSql(design, 't_nowhere', DIALECTS.postgresql)).toBe('')
  })

  it('says its rows in words, and nothing where a side has none', () => {
    expect(pairPreview(design, need('t_patient'), need('t_medicine'))).toEqual([
      'Bramble · meloxicam',
      'Bramble · fluids',
      'Ash · enrofloxacin'
    ])
    expect(pairPreview(design, need('t_patient'), { ...need('t_medicine'), rows: [] })).toEqual([])
    expect(keyNames(need('t_dose'))).toEqual(['admission_id', 'medicine_id', 'given_at'])
  })
})
