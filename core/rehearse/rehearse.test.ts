import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { Draws, drawnDesign, drawnTrial } from '../../tests/trials.ts'
import { times } from '../../tests/times.ts'
import { apply } from '../edit/apply.ts'
import { tableOf } from '../design/directory.ts'
import type { Action, Design } from '../design/model.ts'
import { DIALECTS, isDialect } from '../dialect/index.ts'
import { violations } from '../design/violations.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { keepTrial } from './keep.ts'
import { isSameEnd } from './same-end.ts'
import type { Rehearsed } from './trial.ts'
import { reachOf, waysOf } from './reach.ts'
import { rulebookOf } from './rules.ts'
import { rehearse } from './run.ts'
import { placeInSound, placeInWhole, soundRows } from './sound-rows.ts'
import { sayEffect, sayRefusal, sayTrial, tallyOf } from './words.ts'

const { design } = fernhollow()
const rules = rulebookOf(design, DIALECTS.postgresql)
const deleting = (table: string, place: number) =>
  rehearse(design, rules, { statements: [{ kind: 'delete', table, rows: [place] }], together: true })
const placeOf = (table: string, is: (row: Record<string, unknown>) => boolean): number =>
  tableOf(design, table)?.rows.findIndex(is) ?? -1

const numbers = fc.array(fc.nat(9999), { minLength: 700, maxLength: 700 })

describe('a rehearsal', () => {
  it('says in words what goes, what is emptied, and what refuses', () => {
    const finder = deleting('t_finder', 0)
    expect(sayTrial(design, { kind: 'delete', table: 't_finder', rows: [0] })).toBe(
      'delete finder “Ines Toller”'
    )
    expect(finder.refusals).toEqual([])
    expect(tallyOf(finder.effects).map(({ kind, rows }) => `${rows} ${kind}`)).toEqual([
      '1 deleted',
      '4 emptied'
    ])
    expect(finder.effects.map((effect) => sayEffect(design, finder.effects, effect))).toContain(
      'finder_id of admission “Bramble, 2026-05-03 07:40” is emptied: it refers to finder “Ines Toller”.'
    )
    const patient = deleting(
      't_patient',
      placeOf('t_patient', (row) => row.c_patient_ward_name === 'Bramble')
    )
    expect(patient.rows.size).toBe(0)
    expect(patient.refusals.map((each) => sayRefusal(design, patient, each))).toEqual([
      'patient “Bramble” cannot be deleted: admission “Bramble, 2026-05-03 07:40” and “Bramble, 2026-06-19 22:15” refer to it by patient_id.'
    ])
  })

  it('leaves rows that break no rule, or everything as it was; what is kept is undone to the same bytes', () => {
    let kept = 0
    fc.assert(
      fc.property(numbers, fc.constantFrom(...Object.keys(DIALECTS).filter(isDialect)), (drawn, name) => {
        const dialect = DIALECTS[name]
        const draws = new Draws(drawn)
        const before: Design = drawnDesign(draws, dialect.facts)
        const trial = drawnTrial(draws, before, dialect.facts)
        const done = rehearse(before, rulebookOf(before, dialect), trial)
        if (trial.together && done.refusals.length > 0) expect(done.rows.size).toBe(0)
        const operation = keepTrial(before, soundRows(before), done, 'keep it')
        if (!operation) return
        const result = apply(before, operation)
        if (!result.ok) throw new Error(result.refusal.message)
        for (const [id, rows] of done.rows) {
          const sorted = (all: readonly unknown[]): string[] =>
            all.map((row) => JSON.stringify(row, ordered)).sort()
          expect(sorted(tableOf(result.design, id)?.rows ?? [])).toEqual(sorted(rows))
        }
        // What an engine holds otherwise than the design says is told of elsewhere.
        const isHeld = dialect.facts.actions.checksActions && dialect.facts.rowPolicies
        if (isHeld) expect(violations(result.design)).toEqual([])
        const back = apply(result.design, result.inverse)
        expect(back.ok && JSON.stringify(back.design)).toBe(JSON.stringify(before))
        kept++
      }),
      { numRuns: times(300) }
    )
    expect(kept).toBeGreaterThan(60)
  })

  it('ends the same on engines that do the same, and otherwise where they differ', () => {
    const found = { same: 0, other: 0 }
    fc.assert(
      fc.property(numbers, (drawn) => {
        const draws = new Draws(drawn)
        const before = drawnDesign(draws, DIALECTS.mariadb.facts)
        const trial = drawnTrial(draws, before, DIALECTS.mariadb.facts)
        const on = (dialect: Dialect) => rehearse(before, rulebookOf(before, dialect), trial)
        const [one, other] = [on(DIALECTS.sqlite), on(DIALECTS.mariadb)]
        const say = ({ rows, refusals }: Rehearsed): string => {
          const all = before.tables.map(({ id, rows: had }) => rows.get(id) ?? had)
          return JSON.stringify([all, refusals.map(({ statement }) => statement)], ordered)
        }
        const isSame = isSameEnd(before, one, other)
        expect(isSame).toBe(say(one) === say(other))
        expect(isSameEnd(before, other, one)).toBe(isSame)
        found[isSame ? 'same' : 'other']++
      }),
      { numRuns: times(200) }
    )
    expect(found.same).toBeGreaterThan(20)
    expect(found.other).toBeGreaterThan(5)
  })

  it('leaves out what breaks a rule, and what then refers to nothing, and finds the others again', () => {
    const admission = tableOf(design, 't_admission')
    const lost = {
      ...design,
      tables: design.tables.map((table) =>
        table.id === 't_patient' ? { ...table, rows: table.rows.slice(1) } : table
      )
    }
    const sound = soundRows(lost)
    expect(sound.violations.length).toBeGreaterThan(0)
    expect(violations(sound.design)).toEqual([])
    const left = tableOf(sound.design, 't_admission')?.rows ?? []
    expect(left.length).toBeLessThan(admission?.rows.length ?? 0)
    left.forEach((row, at) => {
      const place = placeInWhole(sound, 't_admission', at)
      expect(tableOf(lost, 't_admission')?.rows[place]).toBe(row)
      expect(placeInSound(sound, 't_admission', place)).toBe(at)
    })
  })
})

const ordered = (_: string, value: unknown): unknown =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
    ? Object.fromEntries(Object.entries(value).sort(([one], [other]) => (one < other ? -1 : 1)))
    : value

describe('reach', () => {
  const withRule = (table: string, foreignKey: string, onDelete: Action): Design => {
    const result = apply(design, {
      kind: 'foreignKey.setActions',
      table,
      foreignKey,
      onDelete,
      onUpdate: 'CASCADE'
    })
    if (!result.ok) throw new Error(result.refusal.message)
    return result.design
  }

  it('is every reference that a delete comes to, with the rows that it would touch, and grows with a rule', () => {
    const patient = reachOf(design, rules, 't_patient')
    expect(patient.edges.map(({ rule, does }) => `${rule.child.name} ${does}`)).toEqual(['admission refused'])
    const key = tableOf(design, 't_admission')?.foreignKeys.find(({ table }) => table === 't_patient')
    const wider = withRule('t_admission', key?.id ?? '', 'CASCADE')
    const further = reachOf(wider, rulebookOf(wider, DIALECTS.postgresql), 't_patient')
    expect(further.steps.length).toBeGreaterThan(2)
    expect(further.deleted.get('t_admission')).toBe(15)
    expect(further.deleted.get('t_dose')).toBe(40)
    expect(waysOf(further).length).toBeGreaterThan(waysOf(patient).length)
  })

  it('counts the rows that a rehearsal deletes, where nothing refuses', () => {
    let compared = 0
    fc.assert(
      fc.property(numbers, (drawn) => {
        const draws = new Draws(drawn)
        const dialect = DIALECTS.sqlite
        const random = drawnDesign(draws, dialect.facts)
        const table = random.tables[draws.below(random.tables.length)]
        if (!table || table.rows.length === 0) return
        const book = rulebookOf(random, dialect)
        const places = [draws.below(table.rows.length)]
        const done = rehearse(random, book, {
          statements: [{ kind: 'delete', table: table.id, rows: places }],
          together: true
        })
        if (done.refusals.length > 0) return
        const reach = reachOf(random, book, table.id, places)
        const deleted = new Set(
          done.effects.filter(({ kind }) => kind === 'deleted').map((each) => `${each.table} ${each.place}`)
        )
        expect([...reach.deleted.values()].reduce((sum, rows) => sum + rows, 0)).toBeGreaterThanOrEqual(
          deleted.size
        )
        const isPlain = done.effects.every(({ kind }) => kind === 'deleted')
        if (isPlain)
          expect([...reach.deleted.values()].reduce((sum, rows) => sum + rows, 0)).toBe(deleted.size)
        compared++
      }),
      { numRuns: times(200) }
    )
    expect(compared).toBeGreaterThan(60)
  })

  it('says where it runs in a circle', () => {
    const note = tableOf(design, 't_carer_note')
    const key = note?.foreignKeys.find(({ table }) => table === 't_carer_note')
    const circular = withRule('t_carer_note', key?.id ?? '', 'CASCADE')
    const reach = reachOf(circular, rulebookOf(circular, DIALECTS.postgresql), 't_carer_note')
    expect(reach.edges.map(({ isCircle }) => isCircle)).toEqual([true])
    expect(waysOf(reach)).toHaveLength(1)
  })
})
