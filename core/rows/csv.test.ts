import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import type { Table } from '../design/model.ts'
import { readCsv, recogniseCsv, writeCsv } from './csv.ts'

const { design } = fernhollow()
const need = (id: string): Table => tableOf(design, id) ?? expect.fail(id)
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const read = (table: string, text: string) => readCsv(design, need(table), recogniseCsv(bytes(text)))

describe('a file of rows', () => {
  it.each([
    ['UTF-8', ';', Uint8Array.of(0xef, 0xbb, 0xbf, ...bytes('name;note\nBéatrice;a,b\n'))],
    ['UTF-8', ',', bytes('name,note\nBéatrice,"a;b;c"\nOdile,d\n')],
    ['UTF-16', '\t', Uint8Array.from(Buffer.from('\ufeffname\tnote\nBéatrice\tx\n', 'utf16le'))],
    ['Windows-1252', ';', Uint8Array.from(Buffer.from('name;note\nB\xe9atrice;x\n', 'latin1'))]
  ])('is known by its bytes to be %s with %j between', (encoding, separator, file) => {
    const { text, form } = recogniseCsv(file)
    expect(form).toEqual({ encoding, separator, named: true })
    expect(text).toContain('Béatrice')
  })

  it('is written and read back, row by row, with references by their labels or by their keys', () => {
    for (const table of design.tables.filter((each) => each.rows.length > 0 && !each.external)) {
      const empty = {
        ...design,
        tables: design.tables.map((each) => (each.id === table.id ? { ...each, rows: [] } : each))
      }
      const text = writeCsv(design, table, { separator: ';' })
      const isOwn = table.foreignKeys.some((key) => key.table === table.id)
      if (isOwn) continue
      const back = readCsv(empty, { ...table, rows: [] }, recogniseCsv(bytes(text)))
      expect([table.name, back.bad]).toEqual([table.name, []])
      expect(
        back.rows.map((row) =>
          JSON.stringify(
            Object.entries(row)
              .filter(([, value]) => value !== null)
              .sort()
          )
        )
      ).toEqual(table.rows.map((row) => JSON.stringify(Object.entries(row).sort())))
    }
  })

  it('takes the lines that fit, and lists the others with what is wrong', () => {
    const before = need('t_admission').rows.length
    const found = read(
      't_admission',
      [
        'patient,finder,Reason code,admitted at,weight g,colour',
        'Bramble,Ines Toller,Oiled,2026-08-01 09:00,812,brown',
        'Nobody,Ines Toller,Oiled,2026-08-01 09:00,812,brown',
        'Bramble,,Oiled,1st of August,heavy,brown',
        'Bramble,Ines Toller',
        ',,Oiled,2026-08-01 09:00,,',
        ''
      ].join('\n')
    )
    expect(found.fields.at(-1)).toEqual({ name: 'colour', column: undefined })
    expect(found.lines).toBe(5)
    expect(found.rows).toHaveLength(1)
    expect(found.rows[0]).toMatchObject({ c_admission_patient_id: 1, c_admission_reason_code: 'OIL' })
    expect(Number(found.rows[0]?.c_admission_admission_id)).toBeGreaterThan(before)
    expect(found.bad.map(({ line, why }) => [line, why.length])).toEqual([
      [3, 1],
      [4, 2],
      [5, 1],
      [6, 1]
    ])
    expect(found.bad[2]?.why).toEqual(['It has 2 fields, and 6 are named.'])
    expect(found.bad[3]?.why).toEqual(['patient_id is required, and nothing is said of it.'])
  })

  it('takes no key twice, neither from the file nor beside the rows that are there', () => {
    const found = read(
      't_species',
      'species_code,common_name,latin_name\nHEDGEH,Hedgehog,u\nSTOAT,Stoat,v\nSTOAT,Stoat again,w\n'
    )
    expect(found.rows).toEqual([
      expect.objectContaining({ c_species_species_code: 'STOAT', c_species_common_name: 'Stoat' })
    ])
    expect(found.bad.map(({ line }) => line)).toEqual([2, 4])
  })

  it('writes nothing that a sheet takes for a formula', () => {
    const table = {
      ...need('t_finder'),
      rows: [{ c_finder_name: '=HYPERLINK("x")', c_finder_finder_id: -1 }]
    }
    const text = writeCsv(design, table)
    expect(text).toContain("'=HYPERLINK")
    expect(text).toContain('-1')
  })
})
