import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { referencesTo, tableOf } from '../design/directory.ts'
import type { Accessors, Design } from '../design/model.ts'
import { parseDesignFile, writeDesignFile } from '../design/file.ts'
import { apply } from '../edit/apply.ts'
import { describe as describeOperation } from '../edit/describe.ts'
import type { Operation } from '../edit/operation.ts'
import { Choice } from '../version/choice.ts'
import { compareDesigns } from '../version/compare.ts'
import { accessorNames } from './accessors.ts'
import { natureOf, pairRules, ruleFor } from './nature.ts'
import { newTable } from './propose.ts'

const { design: demo } = fernhollow()
const need = (id: string) => tableOf(demo, id) ?? expect.fail(id)
const key = (table: string, at: string) =>
  need(table).foreignKeys.find(({ id }) => id === at) ?? expect.fail(at)
const names = (design: Design, table: string, at: string) =>
  accessorNames(design, tableOf(design, table) ?? expect.fail(table), key(table, at))

describe('what directions are called in code', () => {
  it.each([
    ['t_admission', 'f_admission_patient_id', 'patient', 'admissions'],
    ['t_dose', 'f_dose_given_by', 'given_by_person', 'doses'],
    ['t_release', 'f_release_admission_id', 'admission', 'release'],
    ['t_stay', 'f_stay_ward_code', 'pen', 'stays'],
    ['t_carer_note', 'f_carer_note_answers_id', 'answers', 'carer_notes_by_answers'],
    [
      't_species_conflict',
      'f_species_conflict_other_species_code',
      'other_species',
      'species_conflicts_by_other_species'
    ]
  ])('%s %s: %s, and %s', (table, at, child, parent) => {
    const found = names(demo, table, at)
    expect(found.child).toBe(child)
    expect(found.parent).toBe(parent)
  })

  it('are apart from each other and from columns, and give way to what a person has named', () => {
    for (const table of demo.tables) {
      const own = table.foreignKeys.map((each) => accessorNames(demo, table, each).child)
      const others = referencesTo(demo, table.id).map(
        ({ table: child, foreignKey }) => accessorNames(demo, child, foreignKey).parent
      )
      const all = [...own, ...others, ...table.columns.map(({ name }) => name)]
      expect(new Set(all).size).toBe(all.length)
    }
    const set = (accessors: Accessors | null): Design => {
      const result = apply(demo, {
        kind: 'foreignKey.setAccessors',
        table: 't_dose',
        foreignKey: 'f_dose_medicine_id',
        accessors
      })
      if (!result.ok) expect.fail(result.refusal.message)
      const back = apply(result.design, result.inverse)
      expect(back.ok && JSON.stringify(back.design)).toBe(JSON.stringify(demo))
      return result.design
    }
    const named = set({ child: 'admission' })
    const dose = tableOf(named, 't_dose') ?? expect.fail()
    expect(dose.foreignKeys.map((each) => accessorNames(named, dose, each).child)).toEqual([
      'admission_2',
      'admission',
      'given_by_person'
    ])
    expect(set({})).toEqual(demo)
  })
})

describe('what a relationship says beside its schema', () => {
  const at = { table: 't_pen', foreignKey: 'f_pen_ward_code' }
  it.each<Operation>([
    { kind: 'foreignKey.setMinimum', ...at, minimum: 'held' },
    { kind: 'foreignKey.setMinimum', ...at, minimum: 'said' },
    { kind: 'foreignKey.setNature', ...at, nature: 'listed' },
    { kind: 'foreignKey.setAccessors', ...at, accessors: { child: 'home', parent: 'places' } }
  ])('outlives a file and is undone to the byte: %j', (operation) => {
    const result = apply(demo, operation)
    if (!result.ok) expect.fail(result.refusal.message)
    const file = parseDesignFile(JSON.parse(writeDesignFile(result.design)) as unknown)
    expect(file.ok && writeDesignFile(file.value.design)).toBe(writeDesignFile(result.design))
    expect(writeDesignFile(result.design)).not.toBe(writeDesignFile(demo))
    const back = apply(result.design, result.inverse)
    expect(back.ok && writeDesignFile(back.design)).toBe(writeDesignFile(demo))
    expect(describeOperation(demo, operation)).toContain('pen')
    // Only what an engine may hold is a change of the schema.
    const changes = compareDesigns(demo, result.design)
    expect(changes).toHaveLength(operation.kind === 'foreignKey.setMinimum' ? 1 : 0)
  })

  it('goes into a version that has some of the changes where it is chosen', () => {
    const operations: Operation[] = [
      { kind: 'foreignKey.setNature', ...at, nature: 'listed' },
      { kind: 'table.rename', table: 't_pen', name: 'place' },
      { kind: 'table.rename', table: 't_ward', name: 'wing' }
    ]
    const result = apply(demo, { kind: 'batch', operations })
    if (!result.ok) expect.fail(result.refusal.message)
    const choice = new Choice(demo, result.design)
    const renamed = choice.with(new Set(), 'table t_pen name')
    expect(tableOf(choice.design(renamed), 't_pen')).toMatchObject({ name: 'place' })
    expect(tableOf(choice.design(renamed), 't_pen')?.foreignKeys).toEqual(tableOf(demo, 't_pen')?.foreignKeys)
    const both = choice.design(choice.with(renamed, 'foreignKey f_pen_ward_code childIs'))
    expect(tableOf(both, 't_pen')).toMatchObject({ name: 'place', foreignKeys: [{ childIs: 'listed' }] })
    expect(tableOf(both, 't_ward')?.name).toBe('ward')
  })

  it('is refused to be held on what another system has', () => {
    const own = { table: 't_dose', foreignKey: 'f_dose_given_by' }
    const held = apply(demo, { kind: 'foreignKey.setMinimum', ...own, minimum: 'held' })
    expect(held.ok ? '' : held.refusal.message).toMatch(/^person is another system’s/)
    expect(apply(demo, { kind: 'foreignKey.setMinimum', ...own, minimum: 'said' }).ok).toBe(true)
  })
})

describe('what rows are to what they refer to', () => {
  it('follows from the shape until it is said, and the rule follows from it', () => {
    expect(natureOf(need('t_pen'), key('t_pen', 'f_pen_ward_code'))).toBe('part')
    expect(natureOf(need('t_dose'), key('t_dose', 'f_dose_medicine_id'))).toBe('listed')
    expect(natureOf(need('t_pen'), { ...key('t_pen', 'f_pen_ward_code'), childIs: 'listed' })).toBe('listed')
    expect([ruleFor('part', true), ruleFor('listed', true), ruleFor('listed', false)]).toEqual([
      'CASCADE',
      'RESTRICT',
      'SET NULL'
    ])
  })

  it('lets pairs go with either side, and protects a list, whichever side one comes from', () => {
    const [admission, medicine, volunteer, skill] = ['admission', 'medicine', 'volunteer', 'skill'].map(
      (name) => need(`t_${name}`)
    ) as [ReturnType<typeof need>, ReturnType<typeof need>, ReturnType<typeof need>, ReturnType<typeof need>]
    expect(pairRules(admission, medicine)).toEqual(['CASCADE', 'RESTRICT'])
    expect(pairRules(medicine, admission)).toEqual(['RESTRICT', 'CASCADE'])
    expect(pairRules(volunteer, skill)).toEqual(['CASCADE', 'RESTRICT'])
    expect(pairRules(volunteer, volunteer)).toEqual(['CASCADE', 'CASCADE'])
    // What refers to itself alone needs no other.
    const mentor = { ...key('t_patient', 'f_patient_species_code'), id: 'f_mentor', table: 't_volunteer' }
    const mentored = { ...volunteer, foreignKeys: [mentor] }
    expect(pairRules(mentored, admission)).toEqual(pairRules(volunteer, admission))
    // What has hardly been begun is no list for that.
    expect(pairRules(newTable('visit'), volunteer)).toEqual(['CASCADE', 'RESTRICT'])
  })
})
