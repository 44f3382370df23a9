import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { apply } from '../edit/apply.ts'
import { isJunction, junctionSides } from './junction.ts'
import { freeName, junctionNames, referenceNames } from '../naming/names.ts'
import { changeCardinality, newTable, proposeJunction } from './propose.ts'
import { cardinalitySentences, deleteWords, readingOf } from './reading.ts'
import { article, plural } from '../naming/words.ts'

const { design } = fernhollow()
const need = (id: string) => tableOf(design, id) ?? expect.fail(`no ${id}`)

describe('a reading', () => {
  it('follows from keys and nulls', () => {
    const admission = need('t_admission')
    const sentences = admission.foreignKeys.map((foreignKey) => {
      const { child, parent } = cardinalitySentences(
        admission,
        need(foreignKey.table),
        readingOf(admission, foreignKey)
      )
      return [
        `${child.before} ${child.choice} ${child.after}`,
        `${parent.before} ${parent.choice} ${parent.after}`
      ]
    })
    expect(sentences).toEqual([
      ['Each admission is of exactly one patient.', 'Each patient has any number of admissions.'],
      ['Each admission was brought by at most one finder.', 'Each finder brought any number of admissions.'],
      ['Each admission has exactly one reason.', 'Each reason is given for any number of admissions.']
    ])
  })

  it('changes when its choices are changed, and back', () => {
    const admission = need('t_admission')
    const [patient] = admission.foreignKeys
    if (!patient) throw new Error('no reference')
    const empty = { ...design, tables: design.tables.map((table) => ({ ...table, rows: [] })) }
    const result = apply(empty, changeCardinality(admission, patient, { required: false, single: true }))
    if (!result.ok) throw new Error(result.refusal.message)
    const changed = tableOf(result.design, 't_admission') ?? admission
    expect(readingOf(changed, patient)).toMatchObject({ ofChild: 'at most one', ofParent: 'at most one' })
    const back = apply(result.design, changeCardinality(changed, patient, { required: true, single: false }))
    expect(back.ok && readingOf(tableOf(back.design, 't_admission') ?? admission, patient)).toMatchObject({
      ofChild: 'exactly one',
      ofParent: 'any number of'
    })
  })

  it('tells what a delete does', () => {
    expect(deleteWords('CASCADE', 'diagnosis', true)).toEqual({
      words: 'deletes its diagnoses too',
      effect: 'deleted'
    })
    expect(deleteWords('RESTRICT', 'release', false)).toEqual({
      words: 'is refused while a release refers to it',
      effect: 'refused'
    })
    expect(deleteWords('SET NULL', 'admission', true).effect).toBe('emptied')
  })
})

describe('a junction', () => {
  it('is recognised by its keys', () => {
    expect(isJunction(need('t_dose'))).toBe(true)
    expect(junctionSides(need('t_dose')).map((side) => side.table)).toEqual(['t_admission', 't_medicine'])
    expect(isJunction(need('t_admission'))).toBe(false)
  })

  it('of a table with itself names its two roles', () => {
    const species = need('t_species')
    const junction = proposeJunction(design, species, species)
    expect(junction.sides.map((side) => side.columns.map((column) => column.name))).toEqual([
      ['species_code'],
      ['other_species_code']
    ])
  })
})

describe('names', () => {
  it('are proposed from the table and its key', () => {
    expect(referenceNames(need('t_patient'), need('t_admission'))).toEqual(['patient_id_2'])
    expect(referenceNames(need('t_patient'), newTable('carer_note'))).toEqual(['patient_id'])
    const ward = { ...newTable('ward') }
    ward.columns = [{ ...(ward.columns[0] as (typeof ward.columns)[number]), name: 'code' }]
    expect(referenceNames(ward, newTable('pen'))).toEqual(['ward_code'])
    expect(referenceNames(ward, ward)).toEqual(['parent_ward_code'])
    expect(junctionNames(design, need('t_species'), need('t_finder'))).toEqual([
      'species_finder',
      'finder_species'
    ])
    expect(freeName('Dose', ['dose', 'DOSE_2'])).toBe('Dose_3')
  })

  it.each([
    ['admission', 'admissions'],
    ['diagnosis', 'diagnoses'],
    ['species', 'species'],
    ['dose', 'doses'],
    ['volunteer_skill', 'volunteer_skills'],
    ['city', 'cities'],
    ['box', 'boxes'],
    ['person', 'people'],
    ['stay', 'stays'],
    ['🦔', '🦔'],
    ['class', 'classes']
  ])('%s are %s', (one, many) => {
    expect(plural(one)).toBe(many)
  })

  it('take a or an', () => expect([article('admission'), article('patient')]).toEqual(['an', 'a']))
})
