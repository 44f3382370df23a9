import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { column } from '../../tests/columns.ts'
import { times } from '../../tests/times.ts'
import { emptyDesign, emptyTable, type Design, type Row } from '../design/model.ts'
import { apply } from './apply.ts'
import type { OperationOf } from './operation.ts'

const [id, note] = [column('id', 'integer', { required: true }), column('note', 'text(20)')]
const designOf = (rows: Row[]): Design => ({
  ...emptyDesign('Notes', 'd_notes'),
  tables: [
    {
      ...emptyTable('note', 't_note'),
      columns: [id, note],
      primaryKey: { id: 'k_note', columns: [id.id] },
      rows
    }
  ]
})
const row = (n: number): Row => (n % 3 === 0 ? { [id.id]: n } : { [id.id]: n, [note.id]: `v${n}` })
const change = (more: Partial<OperationOf<'rows.change'>>): OperationOf<'rows.change'> => ({
  kind: 'rows.change',
  table: 't_note',
  changed: [],
  gone: [],
  come: [],
  ...more
})

describe('writing rows', () => {
  it('changes, takes out and puts in what is named, and is taken back to the same bytes', () => {
    fc.assert(
      fc.property(
        fc.nat(12),
        fc.array(fc.constantFrom('stays', 'changes', 'goes'), { minLength: 12, maxLength: 12 }),
        fc.uniqueArray(fc.nat(14), { maxLength: 6 }),
        (length, fates, wanted) => {
          const rows = Array.from({ length }, (_, n) => row(n))
          const design = designOf(rows)
          const fated = (fate: string): number[] => rows.flatMap((_, at) => (fates[at] === fate ? [at] : []))
          const gone = fated('goes').map((at) => ({ at, row: rows[at] as Row }))
          const left = length - gone.length
          const places = wanted.sort((a, b) => a - b).filter((at, n) => at <= left + n)
          const come = places.map((at, n) => ({ at, row: row(100 + n) }))
          const changed = fated('changes').map((at) => ({ at, was: rows[at] as Row, row: row(50 + at) }))
          const result = apply(design, change({ changed, gone, come }))
          if (!result.ok) throw new Error(result.refusal.message)
          const after = result.design.tables[0]?.rows ?? []
          expect(after).toHaveLength(left + come.length)
          for (const each of come) expect(after[each.at]).toEqual(each.row)
          const others = after.filter((_, at) => !places.includes(at))
          const kept = rows.flatMap((each, at) =>
            fates[at] === 'goes' ? [] : [fates[at] === 'changes' ? row(50 + at) : each]
          )
          expect(others).toEqual(kept)
          const back = apply(result.design, result.inverse)
          expect(back.ok && JSON.stringify(back.design)).toBe(JSON.stringify(design))
        }
      ),
      { numRuns: times(300) }
    )
  })

  it.each([
    ['a row that is another by now', { changed: [{ at: 0, was: row(7), row: row(8) }] }],
    ['a row that is gone by now', { gone: [{ at: 9, row: row(9) }] }],
    [
      'a row twice',
      {
        gone: [
          { at: 0, row: row(0) },
          { at: 0, row: row(0) }
        ]
      }
    ],
    [
      'a row that changes and goes',
      { changed: [{ at: 0, was: row(0), row: row(8) }], gone: [{ at: 0, row: row(0) }] }
    ],
    ['a place behind all others', { come: [{ at: 5, row: row(9) }] }],
    ['a value that is none of its column', { come: [{ at: 2, row: { [id.id]: 'nine' } }] }],
    ['a column that is not there', { come: [{ at: 2, row: { c_none: 1 } }] }]
  ])('refuses %s', (_, more) => {
    expect(apply(designOf([row(0), row(1)]), change(more)).ok).toBe(false)
  })

  it('keeps what breaks a rule, in one step with others too', () => {
    const twice = change({ come: [{ at: 1, row: row(0) }] })
    expect(apply(designOf([row(0)]), twice).ok).toBe(true)
    expect(apply(designOf([row(0)]), { kind: 'batch', operations: [twice] }).ok).toBe(true)
  })
})
