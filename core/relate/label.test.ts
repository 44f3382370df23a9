import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { parseDesignFile, writeDesignFile } from '../design/file.ts'
import type { Design, Row, Table } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { duplicateTable } from '../typing/duplicate.ts'
import { schemaDelta } from '../version/delta.ts'
import { labelText, proposeLabel, readLabel, rowLabel } from './label.ts'

const { design } = fernhollow()
const need = (id: string, of: Design = design): Table => tableOf(of, id) ?? expect.fail(id)
const first = (id: string, of: Design = design): Row => need(id, of).rows[0] ?? expect.fail(id)
function done(of: Design, operation: Operation): Design {
  const result = apply(of, operation)
  return result.ok ? result.design : expect.fail(result.refusal.message)
}
const called = (id: string, typed: string, of: Design = design): Design => {
  const read = readLabel(need(id, of), typed)
  if (!read.ok) expect.fail(read.message)
  return done(of, { kind: 'table.setLabel', table: id, label: read.value })
}

describe('what a row is called by', () => {
  it('is proposed for every table, and no row of the demo is shown as a bare number', () => {
    for (const table of design.tables) {
      expect(proposeLabel(table).length, table.name).toBeGreaterThan(0)
      for (const row of table.rows) expect(rowLabel(design, table, row)).not.toMatch(/^\d+$/)
    }
    expect(labelText(need('t_pen'), proposeLabel(need('t_pen')))).toBe('ward_code, pen_no')
    expect(rowLabel(design, need('t_pen'), first('t_pen'))).toBe('Intensive care, 1')
  })

  it('is as its designer says, with what it refers to called by its own', () => {
    const patient = called('t_patient', 'Species_Code, ward_name; found_on')
    expect(rowLabel(patient, need('t_patient', patient), first('t_patient', patient))).toBe(
      'Hedgehog, Bramble, 2026-05-02'
    )
    const species = called('t_species', 'latin_name', patient)
    expect(rowLabel(species, need('t_admission', species), first('t_admission', species))).toMatch(
      /^Erinaceus europaeus, Ash, 2026-04-29/
    )
  })

  it('is refused where there is no such column, and left to the table where nothing is typed', () => {
    expect(readLabel(need('t_ward'), 'nothing')).toEqual({
      ok: false,
      message: 'ward has no column called nothing.'
    })
    expect(readLabel(need('t_ward'), ' , ')).toEqual({ ok: true, value: null })
  })

  it('outlives the file, goes with a column that goes and comes back with it, and is no change of the schema', () => {
    const said = called('t_ward', 'name, housing')
    expect(schemaDelta(design, said)).toEqual([])
    const read = parseDesignFile(JSON.parse(writeDesignFile(said)))
    expect(read.ok && need('t_ward', read.value.design).label).toEqual(need('t_ward', said).label)
    const result = apply(said, { kind: 'column.remove', table: 't_ward', column: 'c_ward_housing' })
    if (!result.ok) expect.fail(result.refusal.message)
    expect(labelText(need('t_ward', result.design), need('t_ward', result.design).label ?? [])).toBe('name')
    const back = apply(result.design, result.inverse)
    expect(back.ok && back.design).toEqual(said)
  })

  it('goes along with a copy of the table, by the copy’s own columns', () => {
    const said = called('t_ward', 'name')
    const operation = duplicateTable(said, need('t_ward', said))
    const copied = done(said, operation)
    const copy = copied.tables.find(({ id }) => !tableOf(said, id)) ?? expect.fail('no copy')
    expect(copy.label).not.toEqual(need('t_ward', said).label)
    expect(labelText(copy, copy.label ?? [])).toBe('name')
  })
})
