import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { emptyDesign, emptyTable, type Design } from '../core/design/model.ts'
import { readCsv, recogniseCsv } from '../core/rows/csv.ts'
import { column } from '../tests/columns.ts'
import { INTAKES, intakeSheet, MISTAKEN } from './intake.ts'

const file = new Uint8Array(readFileSync(new URL('intake-sheet.csv', import.meta.url)))

describe('the old intake log', () => {
  it('is as it is made, and is read with its characters and separators; its mistakes are found', () => {
    expect(Buffer.from(file).equals(Buffer.from(intakeSheet(), 'latin1'))).toBe(true)
    const read = recogniseCsv(file)
    expect(read.form).toEqual({ encoding: 'Windows-1252', separator: ';', named: true })
    const intake = {
      ...emptyTable('intake', 't_intake'),
      columns: [
        column('intake_no', 'integer', { required: true }),
        column('taken_in', 'date', { required: true }),
        column('finder', 'text(60)'),
        column('weight_g', 'integer')
      ],
      primaryKey: { id: 'k_intake', columns: ['c_intake_no'] }
    }
    const design: Design = { ...emptyDesign('Log', 'd_log'), tables: [intake] }
    const { rows, bad, lines } = readCsv(design, intake, read)
    expect(lines).toBe(INTAKES)
    expect(bad).toHaveLength(MISTAKEN)
    expect(rows).toHaveLength(INTAKES - MISTAKEN)
    expect(rows.some((row) => row.c_finder === 'Béatrice Quillon')).toBe(true)
  })
})
