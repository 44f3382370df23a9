import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { apply } from '../edit/apply.ts'
import { proposeJunction } from '../relate/propose.ts'
import { tableSql } from '../definitions/outputs.ts'
import { DIALECTS } from '../dialect/index.ts'
import { childSide, keyNames } from './relation.ts'
import { pairPreview } from '../relate/label.ts'

const { design } = fernhollow()
const need = (id: string) => tableOf(design, id) ?? expect.fail(id)

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
