import { parse } from 'papaparse'
import type { Design, Table } from '../../core/design/model.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { tableOf } from '../../core/design/lookup.ts'
import { addLine, EMPTY_LINE, type LineText } from './edits.ts'

/** True where a pasted text is more than what goes into one cell. */
export const isBlock = (text: string): boolean => /[\n\t]/.test(text.trim())

const YES = /^(?:yes|y|x|true|1|required|not null|mandatory|✓)$/i
const HEADS = /^(?:name|column|column name|field)$/i

/**
 * The lines of a pasted block: from a spreadsheet (name, type, required, default and note, with tabs
 * between), or a list of `name type` lines, with `required`, `default …` and a comma at the end as they come.
 */
export function linesOf(text: string): LineText[] {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '' && !/^\s*[()]+;?\s*$/.test(line))
  // A spreadsheet puts a cell with a line break into quotes, so its block is read whole; a list may have a tab in it here and there.
  const rows = lines.filter((line) => line.includes('\t')).length > lines.length / 2
    ? parse<string[]>(text.trim(), { delimiter: '\t', skipEmptyLines: 'greedy' }).data.map(fromCells)
    : lines.map((line) => (line.includes('\t') ? fromCells(line.split('\t')) : fromWords(line.trim())))
  const [first, ...rest] = rows
  return first && HEADS.test(first.name) && rest.length > 0 ? rest : rows
}

function fromCells(cells: string[]): LineText {
  const [name = '', type = '', required = '', value = '', note = ''] = cells.map((cell) => cell.trim())
  return { name, type, required: YES.test(required), default: value, note }
}

function fromWords(line: string): LineText {
  const [, bare = '', note = ''] = /^(.*?),?(?:\s+--\s*(.*))?$/s.exec(line.trim().replace(/,$/, '')) ?? []
  const [, quoted, plain, rest = ''] = /^(?:"([^"]+)"|(\S+))\s*(.*)$/s.exec(bare.trim()) ?? []
  const [, before = '', value = ''] = /^(.*?)\s*(?:\bdefault\s+(.*?))?$/is.exec(rest) ?? []
  const required = /\b(?:required|not null)\b/i
  const word = (text: string): string => text.replace(required, '').trim()
  return { name: (quoted ?? plain ?? '').replace(/,$/, ''), type: word(before), required: required.test(rest), default: word(value), note }
}

/** What a block comes to: one step for all lines that can be taken, and the others as they were typed. */
export interface Pasted { operation: Operation | undefined; count: number; left: LineText[] }

/** The lines as columns of the table, from the place on; each is tried behind those before it. */
export function pasteLines(design: Design, table: Table, lines: readonly LineText[], at: number): Pasted {
  let current = design
  const operations: Operation[] = []
  const left: LineText[] = []
  for (const line of lines) {
    const now = tableOf(current, table.id)
    const taken = now && addLine(current, now, line, at + (now.columns.length - table.columns.length))
    // What makes more than a column waits to be asked for.
    const result = taken?.ok && taken.operation && !taken.ask ? apply(current, taken.operation) : undefined
    if (result?.ok && taken?.ok && taken.operation) {
      current = result.design
      operations.push(taken.operation)
    } else left.push({ ...EMPTY_LINE, ...line })
  }
  const count = operations.length
  return { operation: count > 0 ? { kind: 'batch', label: `add ${count} ${count === 1 ? 'column' : 'columns'} to ${table.name}`, operations } : undefined, count, left }
}
