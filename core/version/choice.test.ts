import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { besideOperation } from '../../tests/besides.ts'
import { choices, grow, Maker, type Choice as MadeBy } from '../../tests/designs.ts'
import { changeOfMind } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { newFlaw } from '../design/integrity.ts'
import { emptyTable, type Design, type Table } from '../design/model.ts'
import { violations } from '../design/violations.ts'
import { IN_DESIGN } from '../design/parts/all.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { Choice, withoutIdleCarries, type Chosen } from './choice.ts'
import { compareDesigns } from './compare.ts'
import { tableOf } from '../design/directory.ts'
import { deltaOf } from './delta.ts'

const demo = fernhollow().versions[1]?.design as Design

function after(from: Design, ...operations: Operation[]): Design {
  return operations.reduce((design, operation) => {
    const result = apply(design, operation)
    if (!result.ok) throw new Error(result.refusal.message)
    return result.design
  }, from)
}

const inOrder = (keys: Iterable<string>): string[] => [...keys].sort()
const keysOf = (from: Design, to: Design): string[] => inOrder(deltaOf(from, to).map(({ key }) => key))

/** A state between two holds together, has what was chosen and nothing else, and leads to the second by the rest. */
function holds(from: Design, to: Design, choice: Choice, chosen: Chosen): void {
  const middle = choice.design(chosen)
  expect(newFlaw(from, withoutIdleCarries(middle))).toBeUndefined()
  expect(keysOf(from, middle)).toEqual(inOrder(chosen))
  expect(keysOf(middle, to)).toEqual(inOrder([...choice.all].filter((key) => !chosen.has(key))))
  const known = new Set([from, to].flatMap(violations).map(({ of }) => of))
  const found = violations(middle).filter(({ of }) => !known.has(of))
  expect(found).toEqual([])
}

describe('some of what changes', () => {
  it('holds together, whatever of it is chosen or left, and the rest leads on', () => {
    const seen = { alone: 0, together: 0, left: 0 }
    fc.assert(
      fc.property(choices(18), choices(16, 1), fc.nat(), (first, second, number) => {
        const maker = new Maker()
        const from = grow(first, undefined, maker)
        const to = grow(second, from, maker)
        const choice = new Choice(from, to)
        const [one, other] = [number, number >> 4].map((at) => choice.delta[at % choice.delta.length]?.key)
        if (one === undefined || other === undefined) return
        const chosen = choice.with(choice.with(new Set(), one), other)
        expect(chosen.has(one) && chosen.has(other)).toBe(true)
        holds(from, to, choice, chosen)
        if (chosen.size === 1) seen.alone++
        else if (chosen.size < choice.delta.length) seen.together++
        const left = choice.without(choice.all, one)
        expect(left.has(one)).toBe(false)
        holds(from, to, choice, left)
        if (left.size > 0) seen.left++
      }),
      { numRuns: times(300) }
    )
    expect(Object.values(seen).filter((count) => count < 30)).toEqual([])
  })

  it('is as nothing with nothing, and as everything with all of it', () => {
    let changed = 0
    fc.assert(
      fc.property(choices(18), choices(16), (first, second) => {
        const maker = new Maker()
        const from = grow(first, undefined, maker)
        const to = grow(second, from, maker)
        const choice = new Choice(from, to)
        expect(choice.design(choice.all)).toEqual(to)
        expect(choice.design(new Set())).toEqual(from)
        changed += choice.delta.length > 3 ? 1 : 0
      }),
      { numRuns: times(100) }
    )
    expect(changed).toBeGreaterThan(30)
  })

  it('has whatever a design holds: nothing chosen is the first state, all is the second, and some is those', () => {
    const met = new Map<string, number>()
    fc.assert(
      fc.property(choices(8), choices(14, 6), choices(6), fc.nat(), (first, second, third, number) => {
        const maker = new Maker()
        const step = (design: Design, choice: MadeBy, at: number): Design => {
          const result = apply(design, besideOperation(design, choice, at))
          return result.ok ? result.design : design
        }
        const from = first.reduce((design, choice, at) => step(design, choice, at), demo)
        const grown = grow(third, from, maker)
        const to = second.reduce((design, choice, at) => step(design, choice, 100 + at), grown)
        const choice = new Choice(from, to)
        expect(choice.design(choice.all)).toEqual(to)
        expect(choice.design(new Set())).toEqual(from)
        const one = choice.delta[number % choice.delta.length]
        if (!one) return
        for (const { part } of choice.delta) met.set(part, (met.get(part) ?? 0) + 1)
        holds(from, to, choice, choice.with(new Set(), one.key))
        holds(from, to, choice, choice.without(choice.all, one.key))
      }),
      { numRuns: times(80) }
    )
    const besides = IN_DESIGN.filter((name) => !['schema', 'list', 'carry'].includes(name))
    const wanted = ['design', ...besides, 'rows', 'positions', 'order', 'foreignKey']
    expect(wanted.filter((part) => (met.get(part) ?? 0) < 8)).toEqual([])
  })

  it('takes a restructuring with its rows, whole', () => {
    let carried = 0
    fc.assert(
      fc.property(fc.array(fc.nat(1000), { minLength: 20, maxLength: 30 }), (given) => {
        const numbers = new Numbers(given)
        const change = changeOfMind(demo, numbers)
        const result = change && apply(demo, change.operation)
        if (!result?.ok) return
        // What is changed besides may have gone by it.
        if (!['t_patient', 't_medicine'].every((id) => tableOf(result.design, id))) return
        const to = after(
          result.design,
          { kind: 'table.rename', table: 't_patient', name: 'animal' },
          { kind: 'table.annotate', table: 't_medicine', note: 'kept cold' }
        )
        const choice = new Choice(demo, to)
        const carries = choice.delta.filter(({ part }) => part === 'carry')
        for (const { key } of carries) {
          const chosen = choice.with(new Set(), key)
          const rest = choice.without(choice.all, key)
          holds(demo, to, choice, chosen)
          holds(demo, to, choice, rest)
          expect(choice.all.size - chosen.size).toBeGreaterThanOrEqual(2)
          expect(inOrder(rest)).toContain('table t_patient name')
          carried++
        }
      }),
      { numRuns: times(60) }
    )
    expect(carried).toBeGreaterThan(15)
  })
})

describe('what hangs on what', () => {
  const said = (to: Design, chosen: (choice: Choice) => Chosen): string[] => {
    const choice = new Choice(demo, to)
    const taken = chosen(choice)
    return compareDesigns(demo, to).flatMap(({ key, sentence }) => (taken.has(key) ? sentence : []))
  }

  it('is a table with the reference to it', () => {
    const to = after(
      demo,
      {
        kind: 'table.add',
        table: {
          ...emptyTable('shelf', 't_shelf'),
          columns: [{ id: 'c_shelf', name: 'shelf_no', type: { kind: 'text', length: 5 }, required: true }],
          primaryKey: { id: 'k_shelf', columns: ['c_shelf'] }
        }
      },
      {
        kind: 'relationship.add',
        parent: 't_shelf',
        child: 't_medicine',
        foreignKey: 'f_new',
        columns: [{ id: 'c_new', name: 'shelf_no' }],
        required: false,
        onDelete: 'RESTRICT',
        onUpdate: 'CASCADE'
      }
    )
    const [table, column, reference] = [
      'shelf is new, with 1 column.',
      'medicine.shelf_no is new: text(5), may be empty.',
      'medicine refers to shelf by shelf_no (on delete RESTRICT).'
    ]
    expect(said(to, (choice) => choice.with(new Set(), 'foreignKey f_new'))).toEqual(
      expect.arrayContaining([table, column, reference])
    )
    expect(said(to, (choice) => choice.with(new Set(), 'column c_new'))).toEqual([column])
    const without = said(to, (choice) => choice.without(choice.all, 'table t_shelf'))
    expect(without).toContain(column)
    expect(without).not.toContain(reference)
  })

  it('is a name that is given away with the name that is taken instead', () => {
    const to = after(
      demo,
      { kind: 'table.rename', table: 't_patient', name: 'animal' },
      { kind: 'table.rename', table: 't_medicine', name: 'patient' }
    )
    expect(said(to, (choice) => choice.with(new Set(), 'table t_medicine name'))).toHaveLength(2)
    expect(said(to, (choice) => choice.with(new Set(), 'table t_patient name'))).toHaveLength(1)
  })

  it('keeps the rows of before where what told them apart is left as it was', () => {
    const dose = demo.tables.find(({ id }) => id === 't_dose') as Table
    const given = dose.primaryKey?.columns.find((id) => /given/.test(id)) as string
    const to = after(
      demo,
      { kind: 'key.setPrimary', table: dose.id, key: null },
      { kind: 'column.remove', table: dose.id, column: given },
      { kind: 'table.rename', table: dose.id, name: 'given' }
    )
    const choice = new Choice(demo, to)
    const renamed = choice.design(choice.with(new Set(), `table ${dose.id} name`))
    const rows = renamed.tables.find(({ id }) => id === dose.id)?.rows
    expect(dose.rows.length).toBeGreaterThan(10)
    expect(rows).toEqual(dose.rows)
  })

  it('is the type of a key with the types of what refers to it', () => {
    const to = after(demo, {
      kind: 'column.retype',
      table: 't_patient',
      column: 'c_patient_ring',
      type: { kind: 'text', length: 30 }
    })
    const choice = new Choice(demo, to)
    for (const { key } of choice.delta) expect(choice.with(new Set(), key)).toEqual(choice.all)
  })
})
