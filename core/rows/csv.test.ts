import fc from 'fast-check'
import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { BOUNDS } from '../bounds.ts'
import { flawsOf } from '../design/integrity.ts'
import { emptyDesign, emptyTable, type Design, type Row, type Table } from '../design/model.ts'
import { column } from '../../tests/columns.ts'
import { times } from '../../tests/times.ts'
import { readCsv, recogniseCsv, writeCsv } from './csv.ts'

const { design } = fernhollow()
const need = (id: string): Table => tableOf(design, id) ?? expect.fail(id)
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const read = (table: string, text: string) => readCsv(design, need(table), recogniseCsv(bytes(text)))

const wards: Table = {
  ...emptyTable('ward', 't_wards'),
  columns: [column('code', 'text(20)', { required: true }), column('called', 'text(20)', { required: true })],
  primaryKey: { id: 'k_wards', columns: ['c_code'] },
  // What one is called by is the key of another.
  rows: [
    { c_code: 'a', c_called: 'b' },
    { c_code: 'b', c_called: 'a' },
    { c_code: 'A ', c_called: '-1' }
  ]
}
const odd: Table = {
  ...emptyTable('odd; "one"', 't_odd'),
  columns: [
    column('no', 'integer', { required: true, default: { kind: 'generated' } }),
    column('note', 'text'),
    { ...column('kind', 'text', { default: { kind: 'value', value: 'usual' } }), name: 'kind; "of", it|' },
    column('price', 'decimal(8,2)'),
    column('seen', 'boolean'),
    column('day', 'date'),
    column('ward', 'text(20)')
  ],
  primaryKey: { id: 'k_odd', columns: ['c_no'] },
  foreignKeys: [
    {
      id: 'f_odd',
      table: 't_wards',
      key: 'k_wards',
      pairs: [{ column: 'c_ward', refersTo: 'c_code' }],
      onDelete: 'NO ACTION',
      onUpdate: 'NO ACTION'
    }
  ]
}
const oddDesign: Design = { ...emptyDesign('Odd', 'd_odd'), tables: [wards, odd] }

const word = fc
  .array(
    fc.constantFrom(
      ' ',
      '\u2028',
      '\u00a0',
      '"',
      "'",
      '=',
      '-',
      '+',
      '@',
      ',',
      ';',
      '|',
      '\t',
      '\r\n',
      '\n',
      'a',
      '7'
    ),
    {
      maxLength: 6
    }
  )
  .map((parts) => parts.join(''))
const nasty = fc.record({
  c_note: fc.option(word),
  c_kind: fc.option(word),
  c_price: fc.option(fc.constantFrom('-1.50', '0.00', '12.00')),
  c_seen: fc.option(fc.boolean()),
  c_day: fc.option(fc.constantFrom('2026-05-03')),
  c_ward: fc.option(fc.constantFrom('a', 'b', 'A '))
})

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

  it.each(['=HYPERLINK("x")', "-2+3+cmd|' /C calc'!A0", '+49 30 1234', '@SUM(1)', '\t=1', "'=1", "''-1"])(
    'writes %j so that no sheet takes it for a formula, and reads it as it was',
    (name) => {
      const table = { ...need('t_finder'), rows: [{ c_finder_name: name, c_finder_finder_id: -1 }] }
      const text = writeCsv(design, table)
      expect(Papa.parse<string[]>(text).data[1]?.[1]).toBe(`'${name}`)
      expect(text).toContain('-1,')
      const back = readCsv(design, { ...table, rows: [] }, recogniseCsv(bytes(text)))
      expect(back.rows[0]).toMatchObject({ c_finder_name: name, c_finder_finder_id: -1 })
    }
  )

  it('is written, and read back the same, whatever its rows hold', () => {
    const told = { rows: 0, guarded: 0, blanks: 0, empty: 0 }
    fc.assert(
      fc.property(
        fc.array(nasty, { maxLength: 12 }),
        fc.constantFrom(',', ';', '\t', '|'),
        (drawn, separator) => {
          const rows = drawn.map((row, at) => ({ c_no: at + 1, ...row }))
          const table = { ...odd, rows }
          const among = { ...oddDesign, tables: [wards, table] }
          const text = writeCsv(among, table, { separator })
          const back = readCsv(among, { ...table, rows: [] }, recogniseCsv(bytes(text)))
          const say = (row: Row): string => JSON.stringify(odd.columns.map(({ id }) => row[id] ?? null))
          expect(back.bad).toEqual([])
          expect(back.rows.map(say)).toEqual(rows.map(say))
          told.rows += rows.length
          for (const { c_note: note } of rows) {
            if (/^[=+@\t\r'-]/.test(note ?? '')) told.guarded++
            if (note !== null && note !== note.trim()) told.blanks++
            if (note === '') told.empty++
          }
        }
      ),
      { numRuns: times(400) }
    )
    expect(Math.min(told.guarded, told.blanks, told.empty)).toBeGreaterThan(50)
    expect(told.rows).toBeGreaterThan(1000)
  })

  it('of any bytes at all is read, and every line of it is a row or told of', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        'name',
        'telephone',
        ',',
        ';',
        '\t',
        '"',
        '""',
        '\n',
        '\r\n',
        '\r',
        "'",
        '=1+1',
        '\u2028',
        '\ufeff',
        '\0'
      ),
      fc.constantFrom('Ida Minks,1\n', 'Bo\n', 'Cy Okeby,"2"\n'),
      fc.string({ unit: 'binary', maxLength: 4 })
    )
    const noise = fc.uint8Array({ maxLength: 40 })
    const seen = { rows: 0, bad: 0 }
    const table = { ...need('t_finder'), rows: [] }
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), noise, fc.nat(5), (pieces, more, which) => {
        const head = which > 1 ? 'name,telephone\n' : ''
        const given = Buffer.concat([
          Buffer.from(head + pieces.join('')),
          which === 0 ? Buffer.from(more) : Buffer.alloc(0)
        ])
        const found = readCsv(design, table, recogniseCsv(which === 1 ? Buffer.from(more) : given))
        expect(found.rows.length + found.bad.length).toBeGreaterThanOrEqual(found.lines)
        const judged = {
          ...design,
          tables: design.tables.map((each) => (each.id === table.id ? { ...table, rows: found.rows } : each))
        }
        const own = flawsOf(judged).filter(
          ({ path }) => path[1] === design.tables.findIndex(({ id }) => id === table.id)
        )
        expect(own).toEqual([])
        seen.rows += found.rows.length
        seen.bad += found.bad.length
      }),
      { numRuns: times(1000) }
    )
    expect(seen.rows).toBeGreaterThan(200)
    expect(seen.bad).toBeGreaterThan(200)
  })

  it('with a quote that is opened and not closed says so, and where, and takes what came before', () => {
    const found = read('t_finder', 'name,telephone\nIda Minks,1\n"Bo Farrant,2\nCy Okeby,3\nDee Pell,4\n')
    expect(found.rows).toHaveLength(1)
    expect(found.bad).toEqual([
      expect.objectContaining({ line: 3, why: [expect.stringContaining('not closed')] })
    ])
  })

  it('that is longer than a table may be is counted to its end, before anything is taken', () => {
    const table = { ...need('t_finder'), rows: [] }
    const lines = Array.from({ length: BOUNDS.rows + 250 }, (_, at) => `finder ${at}`)
    const found = readCsv(design, table, recogniseCsv(bytes(`name\n${lines.join('\n')}\n`)))
    expect([found.rows.length, found.over, found.lines]).toEqual([BOUNDS.rows, 250, BOUNDS.rows + 250])
  })
})
