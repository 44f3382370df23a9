import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { lifelike } from '../../demo/lifelike.ts'
import { NAMES } from '../../tests/designs.ts'
import type { Design } from '../design/model.ts'
import { dictionaryToCsv } from './dictionary-csv.ts'
import { dictionaryToMarkdown } from './dictionary-markdown.ts'
import { dictionaryOf } from './dictionary.ts'
import { OUTPUTS } from './outputs.ts'

const { design } = fernhollow()
const write = (name: string, of: Design): string =>
  OUTPUTS.find((each) => each.name === name)?.write(of) ?? expect.fail(`no ${name}`)

/** The demo with names that are markup, formulas or anything but names. */
const odd: Design = {
  ...design,
  name: '</script><script>alert(1)</script>',
  tables: design.tables.map((table, at) => ({
    ...table,
    name: ['=1+1', '<b>x</b>', '| a | b', '**bold**', ...NAMES][at % 20] as string,
    note: '@note, "quoted"\nand a second line | of it'
  }))
}

describe('the data dictionary', () => {
  it('has every table, column and relationship, each relationship at both of its tables', () => {
    for (const of of [design, lifelike(60)]) {
      const { tables, index } = dictionaryOf(of)
      expect(tables.map(({ id }) => id).sort()).toEqual(of.tables.map(({ id }) => id).sort())
      const columns = of.tables.flatMap((table) => table.columns.map(({ name }) => name))
      expect(tables.flatMap((table) => table.columns.map(({ name }) => name)).sort()).toEqual(columns.sort())
      expect(index.map(({ name }) => name)).toEqual(
        [...new Set(columns)].sort(new Intl.Collator('en', { numeric: true }).compare)
      )
      const keys = of.tables.flatMap(({ foreignKeys }) => foreignKeys)
      const toItself = of.tables.flatMap(({ id, foreignKeys }) =>
        foreignKeys.filter(({ table }) => table === id)
      )
      expect(tables.flatMap(({ ones }) => ones)).toHaveLength(keys.length)
      expect(tables.flatMap(({ manys }) => manys)).toHaveLength(keys.length - toItself.length)
    }
  })

  it('says relationships and rules as sentences', () => {
    const admission = dictionaryOf(design).tables.find(({ name }) => name === 'admission') ?? expect.fail()
    const patient = admission.ones.find(({ table }) => table === 'patient')
    expect(patient?.sentences.join(' ')).toBe(
      'Each admission is of exactly one patient. Each patient has any number of admissions. By patient_id. Deleting a patient is refused while admissions refer to it (RESTRICT); changing its key changes it in its admissions too (CASCADE).'
    )
    const dose = dictionaryOf(design).tables.find(({ name }) => name === 'dose')
    expect(dose?.kind).toBe('junction table')
    expect(dose?.rules[0]).toBe('Primary key: admission_id, medicine_id, given_at together.')
    expect(dose?.columns.find(({ name }) => name === 'cost')?.given).toBe('computed: quantity * unit_cost')
  })

  it('is read back from CSV as it was, with no field that a spreadsheet runs', () => {
    for (const of of [design, odd]) {
      const { data, errors } = Papa.parse<Record<string, string>>(dictionaryToCsv(of), {
        header: true,
        skipEmptyLines: true
      })
      expect(errors).toEqual([])
      const columns = dictionaryOf(of).tables.flatMap(({ columns: own }) => own)
      expect(data.map((line) => line.column)).toEqual(columns.map(({ name }) => name))
      expect(data.flatMap((line) => Object.values(line)).filter((field) => /^[=+@]/.test(field))).toEqual([])
    }
  })

  it('takes nothing in a name for markup', () => {
    const markdown = dictionaryToMarkdown(odd)
    expect(markdown).not.toMatch(/(^|[^\\])<(b|script)>/)
    const rows = markdown.split('\n').filter((line) => line.startsWith('| '))
    expect(rows.length).toBeGreaterThan(100)
    for (const row of rows) expect(row.match(/(?<!\\)\|/g)).toHaveLength(7)
    const page = write('page', odd)
    expect(page.match(/<script>/g)).toHaveLength(1)
    expect(page).not.toContain('<b>x</b>')
    expect(page).toContain('&lt;/script&gt;')
  })
})
