import { computed, nextTick, ref, shallowRef } from 'vue'
import { describe, expect, it } from 'vitest'
import { emptyTable, type Column, type Table } from '../../core/design/model.ts'
import { EMPTY_LINE, type LineText } from '../../core/typing/edits.ts'
import type { WaitingLine } from '../stores/unfinished.ts'
import { useLines, type Lines, type Row } from './useLines.ts'

const column = (name: string): Column => ({ id: `c_${name}`, name, type: { kind: 'text' }, required: false })
const pen = (...names: string[]): Table => ({ ...emptyTable('pen', 't_pen'), columns: names.map(column) })

/** The lines of a table, and where the keyboard was sent last. */
function sheet(first: Table): { lines: Lines; table: { value: Table }; at: () => string } {
  const table = shallowRef(first)
  let at = ''
  // Every line that there may be has a view that says when the keyboard comes to it.
  const views = [
    'c_ward',
    'c_no',
    'c_capacity',
    'c_floor',
    'new',
    ...[1, 2, 3].map((n) => `waiting ${n}`)
  ].map((id) => ({
    row: () => id,
    focusLine: () => {
      at = id
    },
    focusCell: (cell: string) => {
      at = `${id} ${cell}`
    }
  }))
  const waiting = ref(new Map<string, readonly WaitingLine[]>())
  const here = computed({
    get: () => waiting.value.get(table.value.id) ?? [],
    set: (now) => void waiting.value.set(table.value.id, now)
  })
  return { lines: useLines(() => table.value, ref(views), here), table, at: () => at }
}
const ids = (lines: Lines): string[] => lines.rows.value.map((row) => row.id)
const click = (keys: Partial<MouseEvent> = {}): MouseEvent =>
  ({ shiftKey: false, ctrlKey: false, metaKey: false, ...keys }) as MouseEvent

describe('the lines of a sheet', () => {
  it('are its columns and one for a new column, which stands where it was asked for', async () => {
    const { lines, at } = sheet(pen('ward', 'no'))
    expect(ids(lines)).toEqual(['c_ward', 'c_no', 'new'])
    await lines.write(1)
    expect(ids(lines)).toEqual(['c_ward', 'new', 'c_no'])
    expect(at()).toBe('new name')
    await lines.cellLeft('line', 1)
    expect(ids(lines)).toEqual(['c_ward', 'c_no', 'new'])
  })

  it('go on below what was written, between others as at the end', async () => {
    const { lines, table, at } = sheet(pen('ward', 'no'))
    await lines.write(1)
    table.value = pen('ward', 'capacity', 'no')
    lines.added(1)
    await lines.cellLeft('newBelow', 1)
    expect(ids(lines)).toEqual(['c_ward', 'c_capacity', 'new', 'c_no'])
    expect(at()).toBe('new name')
  })

  it('are walked through with the keyboard, and left at either end', async () => {
    const { lines, at } = sheet(pen('ward', 'no'))
    expect(lines.step(0, 1, false)).toBe(true)
    await nextTick()
    expect(at()).toBe('c_no')
    expect(lines.step(0, -1, false)).toBe(false)
    expect(lines.step(2, 1, false)).toBe(false)
  })

  it('are selected one by one, from one to another, and with Shift and the arrows', () => {
    const { lines } = sheet(pen('ward', 'no', 'capacity', 'floor'))
    lines.pick(click(), 1)
    expect(lines.selected.value).toEqual(['c_no'])
    lines.pick(click({ ctrlKey: true }), 3)
    expect(lines.selected.value).toEqual(['c_no', 'c_floor'])
    lines.pick(click(), 1)
    expect(lines.selected.value).toEqual(['c_floor'])
    lines.current.value = 0
    lines.pick(click({ shiftKey: true }), 2)
    expect(lines.selected.value).toEqual(['c_ward', 'c_no', 'c_capacity'])
    lines.step(2, 1, true)
    // Past the last column there is nothing to select.
    lines.step(3, 1, true)
    expect(lines.selected.value).toEqual(['c_ward', 'c_no', 'c_capacity', 'c_floor'])
    expect(lines.step(3, -1, false)).toBe(true)
    expect(lines.selected.value).toEqual([])
  })

  it('are what a command is for: those selected in the order of the sheet, else the one with the keyboard', () => {
    const { lines } = sheet(pen('ward', 'no', 'capacity'))
    lines.current.value = 2
    expect(lines.chosen.value.map((each) => each.name)).toEqual(['capacity'])
    lines.selected.value = ['c_capacity', 'c_ward']
    expect(lines.chosen.value.map((each) => each.name)).toEqual(['ward', 'capacity'])
    lines.selected.value = []
    lines.current.value = 3
    expect(lines.chosen.value).toEqual([])
  })

  it('wait below when they cannot be taken yet, until they are written or dismissed', async () => {
    const { lines, at } = sheet(pen('ward'))
    lines.wait([
      { ...EMPTY_LINE, name: 'a', type: 'heavy' },
      { ...EMPTY_LINE, name: 'b', type: '> nobody' }
    ])
    lines.wait([{ ...EMPTY_LINE, name: 'c', type: 'light' }])
    expect(lines.rows.value.slice(2).map((row) => row.typed?.name)).toEqual(['a', 'b', 'c'])
    await lines.focusLine(3)
    expect(at()).toBe('waiting 2')
    expect(lines.dismiss()).toBe(true)
    expect(lines.rows.value.slice(2).map((row) => row.typed?.name)).toEqual(['a', 'c'])
    lines.added(2)
    expect(lines.rows.value.slice(2).map((row) => row.typed?.name)).toEqual(['c'])
    lines.current.value = 0
    expect(lines.dismiss()).toBe(false)
  })

  it('take what is pasted behind the one with the keyboard', () => {
    const { lines } = sheet(pen('ward', 'no', 'capacity'))
    expect(lines.pastesAt()).toBe(1)
    lines.current.value = 3
    expect(lines.pastesAt()).toBe(3)
  })

  it('open below the whole of a key that one is in, and of what refers together', () => {
    const table: Table = {
      ...pen('ward', 'no', 'capacity', 'floor'),
      primaryKey: { id: 'k', columns: ['c_ward', 'c_no'] },
      foreignKeys: [
        {
          id: 'f',
          table: 't_floor',
          key: 'k_floor',
          pairs: [
            { column: 'c_no', refersTo: 'c_a' },
            { column: 'c_capacity', refersTo: 'c_b' }
          ],
          onDelete: 'RESTRICT',
          onUpdate: 'RESTRICT'
        }
      ]
    }
    const { lines } = sheet(table)
    expect([0, 1, 2, 3].map(lines.below)).toEqual([3, 3, 3, 4])
    expect([0, 1].map(sheet(pen('ward', 'no')).lines.below)).toEqual([1, 2])
  })

  it('begin anew with another table, and what waited waits on in the first', async () => {
    const { lines, table } = sheet(pen('ward', 'no'))
    lines.wait([{ ...EMPTY_LINE, name: 'a' }])
    lines.selected.value = ['c_no']
    lines.current.value = 1
    table.value = { ...pen('floor'), id: 't_other' }
    await nextTick()
    expect([ids(lines), lines.selected.value, lines.current.value]).toEqual([['c_floor', 'new'], [], 0])
    table.value = pen('ward', 'no')
    expect(ids(lines)).toEqual(['c_ward', 'c_no', 'new', 'waiting 1'])
  })

  it('keep what stands in one that goes out of sight, unless it was taken or left out before', () => {
    const { lines } = sheet(pen('ward'))
    const typed = (name: string): LineText => ({ ...EMPTY_LINE, name })
    const names = (): (string | undefined)[] => lines.rows.value.flatMap((row) => row.typed?.name ?? [])
    const row = (id: string): Row => lines.rows.value.find((each) => each.id === id) ?? expect.fail(id)
    lines.unfinished(row('new'), typed('half'))
    lines.wait([typed('other')])
    const [first, second] = [row('waiting 1'), row('waiting 2')]
    lines.unfinished(first, typed('half of it'))
    expect([names(), lines.waitingCount.value]).toEqual([['half of it', 'other'], 2])
    lines.added(lines.rows.value.findIndex(({ id }) => id === second.id))
    lines.unfinished(second, typed('other'))
    expect(names()).toEqual(['half of it'])
    lines.wait([typed('more')])
    lines.dismissAll()
    lines.unfinished(first, typed('half of it'))
    expect([names(), lines.waitingCount.value]).toEqual([[], 0])
  })
})
