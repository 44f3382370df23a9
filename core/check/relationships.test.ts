import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { column } from '../../tests/columns.ts'
import { tableOf } from '../design/directory.ts'
import { emptyTable, type Column, type Design, type Table } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import type { Finding } from './finding.ts'
import { allFindings, openFindings, openFindingsOn } from './open.ts'

const { design: demo } = fernhollow()

function done(design: Design, ...operations: Operation[]): Design {
  const result = apply(design, { kind: 'batch', operations })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}
const found = (design: Design, rule: string): Finding[] =>
  allFindings(design).filter((finding) => finding.rule === rule)

const integer = 'integer'
const code = 'char(6)'
const need = (id: string): Table => tableOf(demo, id) ?? expect.fail(id)

/** A table with references by columns of its own; each is called as the column. */
function made(
  name: string,
  columns: Column[],
  key: string[],
  refers: [column: string, table: string][]
): Operation {
  return {
    kind: 'table.add',
    table: {
      ...emptyTable(name, `t_${name}`),
      columns,
      primaryKey: { id: `k_${name}`, columns: key },
      foreignKeys: refers.map(([own, to]) => ({
        id: `f_${name}_${own.slice(2)}`,
        table: to,
        key: need(to).primaryKey?.id ?? '',
        pairs: [{ column: own, refersTo: need(to).primaryKey?.columns[0] ?? '' }],
        onDelete: 'RESTRICT',
        onUpdate: 'CASCADE'
      }))
    }
  }
}

const generated = { required: true, default: { kind: 'generated' as const } }
const [number, patient, skill] = [
  column('number', integer, generated),
  column('patient_id', integer, { required: true }),
  column('skill_id', integer, { required: true })
]

describe('what is said of relationships', () => {
  it('is nothing of the demo, which is well made', () => {
    const rules = [
      'faulty junction',
      'direct relationship beside a junction',
      'reference that follows from two others',
      'several relationships without roles',
      'reference that may be half empty',
      'long key'
    ]
    expect(rules.flatMap((rule) => found(demo, rule))).toEqual([])
  })

  it.each([
    ['an own number as key and the pair free', [number.id], 'nothing keeps the same pair'],
    ['one reference in the key and the other outside', [patient.id], 'only one of the two references'],
    [
      'a counted column beside the pair in the key',
      [patient.id, skill.id, number.id],
      'makes every row another'
    ]
  ])('is that a junction has %s, and the mend keeps each pair once', (_, key, says) => {
    const faulty = done(
      demo,
      made('patient_skill', [number, patient, skill], key, [
        [patient.id, 't_patient'],
        [skill.id, 't_skill']
      ])
    )
    const [finding, ...others] = found(faulty, 'faulty junction')
    expect(others).toEqual([])
    expect(finding?.message).toContain(says)
    const mended = done(faulty, finding?.fix?.operation ?? expect.fail('no mend'))
    expect(found(mended, 'faulty junction')).toEqual([])
  })

  it('is suspected from rows where no name says it, and rows that are there twice are counted', () => {
    const refers: [string, string][] = [
      [patient.id, 't_patient'],
      [skill.id, 't_skill']
    ]
    const holding = (name: string, pairs: [number, number][]): string[] => {
      const rows = pairs.map(([one, other], at) => ({
        [number.id]: at,
        [patient.id]: one,
        [skill.id]: other
      }))
      const design = done(demo, made(name, [number, patient, skill], [number.id], refers), {
        kind: 'table.setRows',
        table: `t_${name}`,
        rows
      })
      return found(design, 'faulty junction').map(({ message }) => message)
    }
    const pairs: [number, number][] = [1, 2, 3].flatMap((one): [number, number][] => [
      [one, 1],
      [one, 2]
    ])
    expect(holding('visit', pairs)).toEqual([
      'visit seems to hold pairs (its 6 rows stand several skills beside each patient and the other way round, and no two are the same), but nothing keeps the same pair from being stored twice.'
    ])
    // The same two may meet again, or each has only one.
    expect(holding('visit', [...pairs, [1, 1]])).toEqual([])
    expect(
      holding(
        'visit',
        [1, 2, 3, 4, 5, 6].map((one) => [one, (one % 3) + 1])
      )
    ).toEqual([])
    expect(holding('patient_skill', [...pairs, [1, 1]])[0]).toMatch(
      /1 of its 7 rows holds a pair that is there already\.$/
    )
    expect(holding('patient_skill', pairs)[0]).toMatch(/In its 6 rows no pair is there twice\.$/)
  })

  it('is not that a table is a faulty junction that is called after something of its own', () => {
    const visit = made(
      'visit',
      [number, patient, skill],
      [number.id],
      [
        [patient.id, 't_patient'],
        [skill.id, 't_skill']
      ]
    )
    expect(found(done(demo, visit), 'faulty junction')).toEqual([])
  })

  it('is that a direct relationship stands beside a junction, until one of them goes', () => {
    const main = column('main_skill', integer)
    const both = done(
      demo,
      { kind: 'column.add', table: 't_volunteer', column: main },
      {
        kind: 'foreignKey.add',
        table: 't_volunteer',
        foreignKey: {
          id: 'f_main',
          table: 't_skill',
          key: need('t_skill').primaryKey?.id ?? '',
          pairs: [{ column: main.id, refersTo: need('t_skill').primaryKey?.columns[0] ?? '' }],
          onDelete: 'SET NULL',
          onUpdate: 'CASCADE'
        }
      }
    )
    const rule = 'direct relationship beside a junction'
    expect(found(both, rule).map(({ message }) => message)).toEqual([
      'volunteer refers to skill by main_skill, and volunteer_skill relates them too: the same question may have two answers. Change of mind (M) leaves it to volunteer_skill, with all that is said.'
    ])
    const gone = done(both, { kind: 'foreignKey.remove', table: 't_volunteer', foreignKey: 'f_main' })
    expect(found(gone, rule)).toEqual([])
  })

  it('is that a reference follows from two others, where it is called the same and rows do not say otherwise', () => {
    const rule = 'reference that follows from two others'
    const [first, second] = need('t_admission').rows
    const weighing = (called: string, told: unknown): Design => {
      const [admission, of] = [
        column('admission_id', integer, { required: true }),
        column(called, integer, { required: true })
      ]
      const refers: [string, string][] = [
        [admission.id, 't_admission'],
        [of.id, 't_patient']
      ]
      const rows = [first, second].map((row, at) => ({
        [number.id]: at,
        [admission.id]: row?.c_admission_admission_id ?? null,
        [of.id]: (at === 0 ? told : row?.c_admission_patient_id) as number
      }))
      return done(demo, made('weighing', [number, admission, of], [number.id], refers), {
        kind: 'table.setRows',
        table: 't_weighing',
        rows
      })
    }
    const agreeing = first?.c_admission_patient_id
    const [follows, ...others] = found(weighing('patient_id', agreeing), rule)
    expect(others).toEqual([])
    expect(follows?.message).toBe(
      'weighing refers to patient by patient_id, which its admission says already: the same question has two answers. In all of the 2 rows that have both, it is the same.'
    )
    const mended = done(weighing('patient_id', agreeing), follows?.fix?.operation ?? expect.fail('no mend'))
    expect(tableOf(mended, 't_weighing')?.columns.map(({ name }) => name)).toEqual(['number', 'admission_id'])
    expect(found(weighing('patient_id', 12), rule)).toEqual([])
    expect(found(weighing('fed_by_patient_id', agreeing), rule)).toEqual([])
  })

  it('is that two relationships of the same tables read alike, and they are named after their columns', () => {
    const [mother, father] = [column('mother_species', code), column('father_species', code)]
    const cross = done(
      demo,
      made(
        'cross_breed',
        [number, mother, father],
        [number.id],
        [
          [mother.id, 't_species'],
          [father.id, 't_species']
        ]
      )
    )
    const [finding] = found(cross, 'several relationships without roles')
    expect(finding?.message).toContain('cross_breed refers to species twice')
    const mended = done(cross, finding?.fix?.operation ?? expect.fail('no mend'))
    const verbs = tableOf(mended, 't_cross_breed')?.foreignKeys.map((key) => key.verbs?.child)
    expect(verbs).toEqual(['has as mother', 'has as father'])
    expect(found(mended, 'several relationships without roles')).toEqual([])
  })

  it('is that half of a reference may be empty, and that a key is long', () => {
    const stay = done(demo, {
      kind: 'column.require',
      table: 't_stay',
      column: 'c_stay_pen_no',
      required: false
    })
    const [half] = found(stay, 'reference that may be half empty')
    expect(half?.message).toMatch(/^Where pen_no is empty, nothing holds ward_code to/)
    expect(
      found(done(stay, half?.fix?.operation ?? expect.fail()), 'reference that may be half empty')
    ).toEqual([])
    const columns = Array.from({ length: 5 }, (_, at) => column(`part_${at}`, integer, { required: true }))
    const long = done(
      demo,
      made(
        'long_one',
        columns,
        columns.map(({ id }) => id),
        []
      )
    )
    expect(found(long, 'long key').map(({ message }) => message)).toEqual([
      expect.stringMatching(/^The key of long_one has 5 columns \(part_0, part_1, part_2, part_3, …\)/)
    ])
    const four = done(
      demo,
      made(
        'short_one',
        columns,
        columns.slice(1).map(({ id }) => id),
        []
      )
    )
    expect(found(four, 'long key')).toEqual([])
  })
})

describe('a finding that is let stand', () => {
  const [finding] = found(demo, 'undeclared reference') as [Finding]
  const { rule, table, column: of } = finding
  const aside = (reason: string | null): Operation => ({
    kind: 'finding.setAside',
    rule,
    table,
    ...(of && { column: of }),
    reason
  })

  it('is told of no more, until it is taken up again', () => {
    const quiet = done(demo, aside('a paper list'))
    expect(openFindings(quiet)).toHaveLength(openFindings(demo).length - 1)
    expect(openFindingsOn(quiet, table).some((each) => each.rule === rule)).toBe(false)
    expect(allFindings(quiet)).toHaveLength(allFindings(demo).length)
    expect(done(quiet, aside(null))).toEqual(demo)
  })

  it('is undone as it was, whatever was set aside before', () => {
    const others = allFindings(demo).filter((each) => each !== finding)
    let design = demo
    for (const each of others)
      design = done(design, {
        kind: 'finding.setAside',
        rule: each.rule,
        table: each.table,
        ...(each.column && { column: each.column }),
        reason: 'known'
      })
    const result = apply(design, aside('known as well'))
    if (!result.ok) expect.fail(result.refusal.message)
    const back = apply(result.design, result.inverse)
    expect(back.ok && JSON.stringify(back.design)).toBe(JSON.stringify(design))
  })
})
