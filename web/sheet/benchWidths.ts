import type { Design, Table } from '../../core/design/model.ts'
import { typeText } from '../../core/design/type.ts'
import { lineOf } from '../../core/typing/edits.ts'

/** How wide a letter of a line is (pixels). */
const LETTER = 7.6

/**
 * On the bench, where room is scarce, types and defaults have as much as they need, as far as there is some; what a
 * reference is called and the type of its key stand side by side.
 */
export function benchWidths(design: Design, table: Table): Record<string, string> {
  const lines = table.columns.map((column) => lineOf(design, table, column))
  const types = lines.map(({ type }, at) => {
    const column = table.columns[at]
    return column && type.startsWith('>') ? `${type}  ${typeText(column.type, design.enums)}` : type
  })
  const type = wideEnough(types, 19, 28)
  const begins = wideEnough(
    lines.map((line) => line.default),
    10,
    22
  )
  return {
    '--sheet-columns': `40px minmax(var(--name-least, 96px), 1fr) minmax(var(--type-least, 110px), ${type}px) 52px minmax(var(--default-least, 70px), ${begins}px) minmax(var(--note-least, 34px), var(--note-share, 0.35fr))`
  }
}

/** Pixels for the longest of the texts, within some letters. */
const wideEnough = (texts: readonly string[], least: number, most: number): number =>
  Math.min(Math.max(least, ...texts.map(({ length }) => length)), most) * LETTER
