import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { changedBy } from '../../tests/minds.ts'
import { Numbers } from '../../tests/queries.ts'
import { times } from '../../tests/times.ts'
import { compileErrors } from '../../tests/typescript.ts'
import type { Design } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { shapeOf, type Shape } from './shape.ts'
import { shapeChanges } from './shape-changes.ts'
import { toTypescript } from './typescript.ts'
import { TYPESCRIPT } from './typescript-names.ts'

/** How often a design is changed at most. */
const CHANGES = 4

const { design: demo, versions } = fernhollow()
const shape = (design: Design): Shape => shapeOf(design, TYPESCRIPT)
const after = (...operations: Operation[]): Design =>
  operations.reduce((now, operation) => {
    const result = apply(now, operation)
    return result.ok ? result.design : expect.fail(result.refusal.message)
  }, demo)
const said = (was: Design, is: Design): [boolean, string][] =>
  shapeChanges(shape(was), shape(is)).map(({ breaks, says }) => [breaks, says])

/**
 * What code that was written for one state needs of another: rows that are read now are rows as they were, what was put in
 * is what is put in, and what a row leads to is there.
 */
function usesOf(before: Design, was: string, is: string): string {
  return [
    `import type * as was from './${was}'`,
    `import type * as is from './${is}'`,
    ...shape(before).entities.flatMap(({ type, key }, at) => [
      `export const read${at} = (row: is.${type}): was.${type} => row`,
      `export const put${at} = (row: was.New${type}): is.New${type} => row`,
      `export const link${at} = (links: is.${type}Links): was.${type}Links => links`,
      ...(key.length > 0 ? [`export const key${at} = (key: was.${type}Key): is.${type}Key => key`] : [])
    ])
  ].join('\n')
}

describe('what a change of a design changes for applications', () => {
  it('is nothing where nothing is otherwise, and is said of each version of the demo', () => {
    expect(said(demo, demo)).toEqual([])
    const [first, second] = versions.map(({ design }) => design)
    if (!first || !second) return expect.fail('the demo has two versions')
    const changes = said(first, second)
    expect(changes).toEqual([
      [true, 'Patient.ring is called Patient.ringNo now.'],
      [true, 'Admission.medicineId is gone.'],
      [true, 'Admission.medicine is gone.'],
      [false, 'Medicine.admissions leads there by way of Dose now.'],
      [false, 'Medicine.controlled is new.'],
      [false, 'Medicine.doses is new.'],
      [false, 'Admission.doses is new.'],
      [false, 'Admission.medicines is new.'],
      [false, 'Dose is new.']
    ])
  })

  it('is said in words, what breaks code first', () => {
    const changed = after(
      { kind: 'table.rename', table: 't_finder', name: 'caller' },
      { kind: 'column.require', table: 't_admission', column: 'c_admission_weight_g', required: true },
      { kind: 'column.rename', table: 't_patient', column: 'c_patient_ring', name: 'ring' },
      {
        kind: 'column.retype',
        table: 't_reason',
        column: 'c_reason_description',
        type: { kind: 'text', length: 200 }
      }
    )
    expect(said(demo, changed)).toEqual([
      [true, 'Patient.ringNo is called Patient.ring now.'],
      [true, 'Finder is called Caller now.'],
      [true, 'Admission.weightG must be given now.'],
      [true, 'Admission.finder is called Admission.caller now.'],
      [false, 'Reason.description is text(200) now, and was text(80).']
    ])
  })

  it('breaks code where the compiler refuses what was written before, and nowhere else that it can see', () => {
    const pairs = fc
      .sample(fc.tuple(choices(110, 60), fc.array(fc.nat(1000), { minLength: 60, maxLength: 90 })), {
        numRuns: times(120),
        seed: 16
      })
      .map(([taken, given]): [Design, number[]] => [grow(taken), given])
      .filter(([before]) => before.tables.length > CHANGES)
      .map(([before, given], at): [Design, Design] => [
        before,
        changedBy(new Numbers(given), before, 1 + (at % CHANGES))
      ])
    // Both states mean the same by a key.
    const typesOf = (design: Design): string =>
      toTypescript(design).replace('declare const of: unique symbol', "import type { of } from './brand'")
    const texts = new Map([
      ['brand.ts', 'export declare const of: unique symbol'],
      ...pairs.flatMap(([before, is], at): [string, string][] => [
        [`was${at}.ts`, typesOf(before)],
        [`is${at}.ts`, typesOf(is)],
        [`use${at}.ts`, usesOf(before, `was${at}`, `is${at}`)]
      ])
    ])
    const errors = compileErrors(texts)
    const refused = new Map(errors.map((error) => [/^use(\d+)\.ts/.exec(error)?.[1], error]))
    expect(refused.get(undefined)).toBeUndefined()
    const seen = { breaks: 0, harmless: 0, same: 0 }
    for (const [at, [before, is]] of pairs.entries()) {
      const changes = shapeChanges(shape(before), shape(is))
      const breaks = changes.filter((each) => each.breaks)
      if (refused.has(String(at))) expect(breaks, refused.get(String(at))).not.toEqual([])
      // Types do not say how long a text may be.
      const isSeen = breaks.some(({ says }) => !says.includes(' now, and was '))
      if (isSeen) expect(refused.has(String(at)), JSON.stringify(breaks)).toBe(true)
      seen[breaks.length > 0 ? 'breaks' : changes.length > 0 ? 'harmless' : 'same']++
    }
    expect(seen.breaks).toBeGreaterThan(times(30))
    expect(seen.harmless).toBeGreaterThan(times(8))
  })
})
