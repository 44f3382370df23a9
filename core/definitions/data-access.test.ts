import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { lifelike } from '../../demo/lifelike.ts'
import { choices, grow } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import { compileErrors } from '../../tests/typescript.ts'
import { emptyDesign } from '../design/model.ts'
import { PROVABLE, type Provable } from '../dialect/index.ts'
import { toDataAccess } from './data-access.ts'

const DESIGNS = times(200)
const dialectAt = (at: number): Provable => PROVABLE[at % PROVABLE.length] as Provable

describe('data access in TypeScript', () => {
  it('is taken by the compiler, strictly, whatever the design and its names, for each engine', () => {
    const grown = fc.sample(choices(60, 20), { numRuns: DESIGNS, seed: 17 }).map((taken) => grow(taken))
    const designs = [fernhollow().design, lifelike(40), emptyDesign('Nothing', 'd_nothing'), ...grown]
    const written = designs.map((design, at) =>
      toDataAccess(design, dialectAt(at), { keysApart: at % 2 === 0 })
    )
    const texts = new Map(written.map((text, at) => [`design-${at}.ts`, text]))
    expect(compileErrors(texts)).toEqual([])
    const attached = written.filter((text) => text.includes('attach: {')).length
    expect(attached).toBeGreaterThan(DESIGNS / 20)
  })

  it('takes the other table’s key for nothing, needs what a pair needs, and says what may not be there', () => {
    const use = [
      "import { dataAccess, type Admission, type Medicine, type Query } from './fernhollow'",
      'declare const query: Query',
      'declare const [admission, medicine]: [Admission, Medicine]',
      'const access = dataAccess(query)',
      'export const a = async (): Promise<string> => (await access.admission.of.patient(admission)).wardName',
      "export const b = access.admission.attach.medicinesByDose(admission, { ...medicine, quantity: '1.5' })",
      'export const c = async (): Promise<string | undefined> => (await access.admission.of.finder(admission))?.name',
      // From here on each is an error.
      'export const d = access.admission.byKey(medicine)',
      'export const e = access.admission.attach.medicinesByDose(admission, { medicineId: medicine.medicineId })',
      'export const f = async (): Promise<string> => (await access.admission.of.finder(admission)).name',
      'export const g = access.admission.count.patient(admission)'
    ].join('\n')
    const errors = compileErrors(
      new Map([
        ['fernhollow.ts', toDataAccess(fernhollow().design, dialectAt(0))],
        ['use.ts', use]
      ])
    )
    expect(errors.map((each) => each.split(' ')[0])).toEqual([8, 9, 10, 11].map((line) => `use.ts:${line}`))
  })
})
