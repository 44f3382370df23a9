import { describe, expect, it } from 'vitest'
import { emptyDesign, type Design } from '../../core/design/model.ts'
import { apply } from '../../core/edit/apply.ts'
import { newTable } from '../../core/relate/propose.ts'
import { addLine, changeCell, EMPTY_LINE, lineOf, type Taken } from './edits.ts'

const patient = newTable('patient')
const admission = newTable('admission')
const start: Design = { ...emptyDesign('Fernhollow'), tables: [patient, admission] }

function after(taken: Taken, design = start): Design {
  if (!taken.ok) throw new Error(taken.slip.message)
  if (!taken.operation) return design
  const result = apply(design, taken.operation)
  if (!result.ok) throw new Error(result.refusal.message)
  return result.design
}

describe('a line that is typed', () => {
  it('becomes a column, and reads as it was typed', () => {
    const typed = { name: 'weight_g', type: 'decimal( 8, 2 )', required: true, default: '0.5', note: 'on arrival' }
    const table = after(addLine(start, admission, typed, 1)).tables[1]
    const column = table?.columns[1]
    expect(table && column && lineOf(start, table, column)).toEqual({ ...typed, type: 'decimal(8,2)' })
  })

  it('with > and a table refers to it, with the key’s type and a name of its own', () => {
    const design = after(addLine(start, admission, { ...EMPTY_LINE, name: 'animal', type: '> Patient', required: true }, 1))
    const table = design.tables[1]
    expect(table?.columns[1]).toMatchObject({ name: 'animal', type: { kind: 'integer' }, required: true })
    expect(table?.foreignKeys[0]).toMatchObject({ table: patient.id, onDelete: 'RESTRICT' })
    const back = table && table.columns[1] ? after(changeCell(design, table, table.columns[1], 'type', 'text(20)'), design) : undefined
    expect(back?.tables[1]?.foreignKeys).toEqual([])
    expect(back?.tables[1]?.columns[1]?.type).toEqual({ kind: 'text', length: 20 })
  })

  it.each([
    [{ type: 'integer' }, 'name', 'needs a name'],
    [{ name: 'x', type: 'number' }, 'type', 'is not a type'],
    [{ name: 'x', type: 'decimal(2,5)' }, 'type', 'no more of them after the point'],
    [{ name: 'x', type: 'text(0)' }, 'type', '1 to 65535'],
    [{ name: 'x', type: '> nobody' }, 'type', 'no table called nobody'],
    [{ name: 'x', type: 'date', default: 'tomorrow' }, 'default', 'not a date'],
    [{ name: 'x', type: 'smallint', default: '99999' }, 'default', 'fits'],
    [{ name: 'x', type: 'text', default: 'generated' }, 'default', 'Only an integer']
  ])('%j is held back with a word at its %s', (line, cell, words) => {
    const taken = addLine(start, admission, { ...EMPTY_LINE, ...line }, 1)
    expect(taken).toMatchObject({ ok: false, slip: { cell, message: expect.stringContaining(words) as string } })
  })
})
