import { filledRow } from '../../core/design/filled.ts'
import { tableOf } from '../../core/design/directory.ts'
import type { Column, Row, Table } from '../../core/design/model.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { addRows } from '../../core/edit/row.ts'
import { counted } from '../../core/naming/words.ts'
import { typedInto } from '../../core/rows/cells.ts'
import type { MissingRow } from '../../core/rows/make-referred.ts'
import { pasteBlock } from '../../core/rows/paste.ts'
import { moment } from '../parts/moment.ts'
import { useDesign } from '../stores/design.ts'
import { useUnfinished } from '../stores/unfinished.ts'
import type { Taken } from './CellField.vue'

/** Writes rows of a table into the draft; what cannot stand in a cell waits there, marked, until it is put right. */
export function useRowWriting(
  table: () => Table,
  /** A key that others refer to is to become another, which is tried first. */
  rekey: (place: number, values: Row) => void
): {
  take: (place: number, column: Column, taken: Taken) => void
  paste: (places: readonly number[], columns: readonly (Column | undefined)[], text: string) => void
  add: () => Row | undefined
} {
  const store = useDesign()
  const unfinished = useUnfinished()

  /** A row as it is when something was just done, which is not handed here yet. */
  const rowNow = (place: number): Row | undefined =>
    store.design && tableOf(store.design, table().id)?.rows[place]

  const changing = (place: number, was: Row, row: Row): Operation => {
    const changed = [{ at: place, was, row }]
    return { kind: 'rows.change', table: table().id, changed, gone: [], come: [] }
  }

  function take(place: number, column: Column, taken: Taken): void {
    const row = table().rows[place]
    if (!row || !store.design) return
    if ('missing' in taken) return make(place, row, taken.missing)
    const read =
      'offer' in taken
        ? { ok: true as const, value: { ...row, ...taken.offer.values } }
        : typedInto(store.design, table(), column, row, taken.text)
    if (!read.ok) {
      const text = 'text' in taken ? taken.text : ''
      return unfinished.setCell(table(), row, column.id, { text, why: read.message })
    }
    write(place, row, read.value)
    unfinished.setCell(table(), row, column.id, undefined, rowNow(place) ?? row)
  }

  /** Makes the row that is missing, and lets this one refer to it, as one step. */
  function make(place: number, was: Row, { parent, row, values }: MissingRow): void {
    store.submit({
      kind: 'batch',
      label: `make a ${parent.name} and refer to it`,
      operations: [addRows(parent, [row]), changing(place, was, { ...was, ...values })]
    })
  }

  function write(place: number, was: Row, row: Row): void {
    const changed = Object.keys(row).filter((id) => (row[id] ?? null) !== (was[id] ?? null))
    if (changed.length === 0) return
    const values = Object.fromEntries(changed.map((id) => [id, row[id] ?? null]))
    if (changed.some(isReferredTo)) rekey(place, values)
    else store.submit(changing(place, was, row))
  }

  const isReferredTo = (column: string): boolean =>
    store.design?.tables.some(({ foreignKeys }) =>
      foreignKeys.some(
        (key) => key.table === table().id && key.pairs.some(({ refersTo }) => refersTo === column)
      )
    ) ?? false

  /** Writes a block over the cells of rows, from the first column on; further lines become new rows. */
  function paste(places: readonly number[], columns: readonly (Column | undefined)[], text: string): void {
    if (!store.design) return
    const block = pasteBlock(store.design, table(), places, columns, text, moment())
    const lines = block.changed.length + block.come.length
    const come = block.come.map((row, index) => ({ at: table().rows.length + index, row }))
    if (lines > 0) {
      const { changed } = block
      const change: Operation = { kind: 'rows.change', table: table().id, changed, gone: [], come }
      if (store.submit(change, `paste ${counted(lines, 'row')}`)) return
    }
    for (const { place, column, text: typed, why } of block.waits) {
      const row = rowNow(place)
      if (row) unfinished.setCell(table(), row, column, { text: typed, why })
    }
    if (block.waits.length > 0)
      store.say(`${counted(block.waits.length, 'cell')} cannot stand there and waits to be put right.`)
  }

  /** Makes a row with what its columns begin with; none where that is refused. */
  function add(): Row | undefined {
    if (!store.design) return undefined
    const row = filledRow(store.design, table(), {}, new Map(), moment())
    return store.submit(addRows(table(), [row])) ? undefined : row
  }

  return { take, paste, add }
}
