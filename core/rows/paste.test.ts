import { describe, expect, it } from 'vitest'
import { tableOf } from '../design/directory.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { apply } from '../edit/apply.ts'
import { addRows } from '../edit/row.ts'
import { violations } from '../design/violations.ts'
import { missingRow } from './make-referred.ts'
import { pasteBlock } from './paste.ts'

const { design } = fernhollow()
const admission = tableOf(design, 't_admission') ?? expect.fail()
const [, ...behindKey] = admission.columns

describe('a pasted block', () => {
  it('is read as typed: references by labels, the good ones taken, others kept with the reason, new rows behind', () => {
    const last = admission.rows.length - 1
    const block = pasteBlock(
      design,
      admission,
      [last],
      behindKey,
      'Bramble\tOdile Farrant\tOiled\t2026-08-01 10:00\tlight\nDapple\t\tNo such\t2026-08-02 11:00\t420\n'
    )
    expect(block.changed).toHaveLength(1)
    expect(block.changed[0]).toMatchObject({
      at: last,
      row: { c_admission_patient_id: 1, c_admission_reason_code: 'OIL', c_admission_admission_id: 15 }
    })
    expect(block.come).toEqual([
      expect.objectContaining({
        c_admission_admission_id: 16,
        c_admission_patient_id: 4,
        c_admission_weight_g: 420
      })
    ])
    expect(block.waits.map(({ place, column, text }) => [place, column, text])).toEqual([
      [last, 'c_admission_weight_g', 'light'],
      [last + 1, 'c_admission_reason_code', 'No such']
    ])
  })

  it('leaves what is beyond the last column out, and what is computed alone', () => {
    const block = pasteBlock(design, admission, [0], [undefined, behindKey[4]], 'x\t500\ty\tz')
    expect(block.waits).toEqual([])
    expect(block.changed[0]?.row).toEqual({ ...admission.rows[0], c_admission_weight_g: 500 })
  })
})

describe('a row that is missing', () => {
  it('is made so that the reference leads to it, and says what it needs besides', () => {
    const key = admission.foreignKeys.find(({ table }) => table === 't_finder') ?? expect.fail()
    const made = missingRow(design, key, 'Wren Halloway') ?? expect.fail()
    expect(made.says).toBe('make finder “Wren Halloway”')
    const added = apply(design, addRows(made.parent, [made.row]))
    const after = added.ok ? added.design : expect.fail()
    const child = tableOf(after, 't_admission') ?? expect.fail()
    const changed = apply(
      after,
      addRows(child, [{ ...child.rows[0], c_admission_admission_id: 99, ...made.values }])
    )
    expect(changed.ok && violations(changed.design)).toEqual([])
  })

  it('is offered neither where one is called so, nor where its key is not known', () => {
    const [finder, reason] = ['t_finder', 't_reason'].map(
      (id) => admission.foreignKeys.find(({ table }) => table === id) ?? expect.fail()
    )
    expect(missingRow(design, finder ?? expect.fail(), 'ines toller')).toBeUndefined()
    expect(missingRow(design, reason ?? expect.fail(), 'fell from a nest')).toBeUndefined()
  })
})
