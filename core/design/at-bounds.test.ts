import { describe, expect, it } from 'vitest'
import { column } from '../../tests/columns.ts'
import { BOUNDS } from '../bounds.ts'
import { BackupReading, writeBackup } from './backup.ts'
import { readDesignFile, writeDesignFile } from './file.ts'
import { emptyDesign, emptyTable, type Design, type Table, type Version } from './model.ts'
import { finish } from './paused.ts'

/** What is written is read back the same, up to the bounds that are written down (`core/bounds.ts`). */

const list = <T>(count: number, of: (at: number) => T): T[] =>
  Array.from({ length: count }, (_, at) => of(at))

function tableWith(at: number, more: Partial<Table> = {}): Table {
  const id = `t_${at}`
  const key = { ...column('no', 'integer'), id: `c_${at}`, required: true }
  return {
    ...emptyTable(`table_${at}`, id),
    columns: [key],
    primaryKey: { id: `k_${at}`, columns: [key.id] },
    ...more
  }
}
const design = (more: Partial<Design>): Design => ({ ...emptyDesign('At the bound', 'd_bound'), ...more })
const text = (length: number): string =>
  'ä"\\\u2028 '
    .repeat(Math.ceil(length / 5))
    .slice(0, length)
    .trim()
    .padEnd(length, 'x')

const cases: [string, () => { design: Design; versions?: Version[] }][] = [
  ['tables', () => ({ design: design({ tables: list(BOUNDS.tables, (at) => tableWith(at)) }) })],
  [
    'columns',
    () => {
      const table = tableWith(0)
      const more = list(BOUNDS.columns - 1, (at) => column(`more_${at}`, 'text'))
      return { design: design({ tables: [{ ...table, columns: [...table.columns, ...more] }] }) }
    }
  ],
  [
    'rows',
    () => ({ design: design({ tables: [tableWith(0, { rows: list(BOUNDS.rows, (at) => ({ c_0: at })) })] }) })
  ],
  [
    'value',
    () => {
      const table = tableWith(0)
      const long = column('long', 'text')
      const rows = [{ c_0: 1, c_long: text(BOUNDS.value) }]
      return { design: design({ tables: [{ ...table, columns: [...table.columns, long], rows }] }) }
    }
  ],
  [
    'lists and the values in one',
    () => ({
      design: design({
        enums: list(BOUNDS.lists, (at) => ({
          id: `e_${at}`,
          name: `list_${at}`,
          values: list(at === 0 ? BOUNDS.valuesInList : 1, (value) => `value ${value}`)
        }))
      })
    })
  ],
  [
    'schemas',
    () => ({
      design: design({ schemas: list(BOUNDS.schemas, (at) => ({ id: `s_${at}`, name: `schema_${at}` })) })
    })
  ],
  ['note', () => ({ design: design({ tables: [tableWith(0, { note: text(BOUNDS.note) })] }) })],
  [
    'versions, and the note of one',
    () => ({
      design: design({ tables: [tableWith(0)] }),
      versions: list(BOUNDS.versions, (at) => ({
        number: at + 1,
        note: at === 0 ? text(BOUNDS.note) : '',
        savedAt: '2026-05-03T07:40:00Z',
        design: design({ name: `Version ${at}`, tables: [tableWith(at % 7)] })
      }))
    })
  ],
  [
    'templates, and the text of one',
    () => ({
      design: design({
        templates: list(BOUNDS.templates, (at) => ({
          name: `t${at}`,
          text: text(at === 0 ? BOUNDS.template : 1)
        }))
      })
    })
  ]
]

describe('what is written at a bound is read back the same', () => {
  it.each(cases)('%s: in a design file and in a backup', async (_, make) => {
    const { design: given, versions = [] } = make()
    const read = readDesignFile(writeDesignFile(given, versions))
    if (!read.ok) expect.fail(read.message)
    expect(read.value).toEqual({ design: given, versions })
    const reading = new BackupReading()
    const back: { design?: Design; versions: Version[] } = { versions: [] }
    async function* designs() {
      yield await Promise.resolve({ design: given, versions })
    }
    for await (const line of writeBackup(designs(), '2026-05-03T07:40:00Z')) {
      const piece = finish(reading.line(line.trimEnd()))
      if (!piece.ok) expect.fail(piece.message)
      if (piece.value.kind === 'design') back.design = piece.value.design
      if (piece.value.kind === 'version') back.versions.push(piece.value.version)
    }
    expect(reading.flawAtEnd()).toBeUndefined()
    expect(back).toEqual({ design: given, versions })
  })
})
