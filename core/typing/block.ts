import { parse } from 'papaparse'
import { apply } from '../edit/apply.ts'
import { freeName } from '../naming/names.ts'
import type { Operation } from '../edit/operation.ts'
import { referencesTo, tableOf } from '../design/directory.ts'
import { newKeyId } from '../design/key-shape.ts'
import type { Column, Design, Table } from '../design/model.ts'
import { parseType, type NamedValues } from '../design/type.ts'
import { countedType, ownDefault } from '../design/spellings.ts'
import { addLine, EMPTY_LINE, type LineText } from './edits.ts'

/** True where a pasted text is more than what goes into one cell. */
export const isBlock = (text: string): boolean => /[\n\t]/.test(text.trim())

const YES = /^(?:yes|y|x|true|1|required|not null|mandatory|✓)$/i
const NO = /^(?:no|n|false|0|not null|-)$/i

/** A line, and whether it was said to be in the primary key. */
export interface PastedLine extends LineText {
  key?: boolean
}

/** What stands under a heading: a part of the line, or something that says one of them in another way. */
type Part = keyof PastedLine | 'nullable' | 'extra'
const HEADINGS: [heading: RegExp, part: Part][] = [
  [/^(?:name|column|column[ _]name|field|attribute)$/, 'name'],
  [/^(?:type|data[ _]?type|column[ _]type)$/, 'type'],
  [/^(?:required|mandatory|not null)$/, 'required'],
  [/^(?:null|nullable|is[ _]nullable|optional|allows? nulls?)$/, 'nullable'],
  [/^(?:default|default[ _]value|column[ _]default|data[ _]default)$/, 'default'],
  [/^(?:note|notes|comment|comments|description|remarks?)$/, 'note'],
  [/^(?:key|pk|primary[ _]?key|column[ _]key)$/, 'key'],
  [/^(?:extra|identity|auto[ _]?increment)$/, 'extra']
]
/** The order of a block without headings. */
const PLACES: Part[] = ['name', 'type', 'required', 'default', 'note']

/**
 * The lines of a pasted block: from a spreadsheet (with tabs between), what a database's client prints of
 * a table
 * (with bars between), or a list of `name type` lines, with `required`, `default …` and a comma at the end as
 * they come. Under headings what stands in the columns is known by these; else it is name, type, required,
 * default
 * and note.
 */
export function linesOf(text: string): PastedLine[] {
  const lines = text
    .split(/\r?\n/)
    .filter((line) => line.trim() !== '' && !/^\s*(?:[()]+;?|[-+|]{3,})\s*$/.test(line))
  const mostHave = (mark: string): boolean =>
    lines.filter((line) => line.includes(mark)).length > lines.length / 2
  // A spreadsheet puts a cell with a line break into quotes, so its block is read whole; a list may have a
  // tab in it here and there.
  if (mostHave('\t'))
    return fromRows(parse<string[]>(text.trim(), { delimiter: '\t', skipEmptyLines: 'greedy' }).data)
  if (mostHave('|'))
    return fromRows(
      lines
        .filter((line) => line.includes('|'))
        .map((line) =>
          line
            .trim()
            .replace(/^\||\|$/g, '')
            .split('|')
        )
    )
  return lines.map((line) =>
    line.includes('\t') ? fromCells(line.split('\t'), PLACES) : fromWords(line.trim())
  )
}

function fromRows(rows: readonly string[][]): PastedLine[] {
  const [first = [], ...rest] = rows
  const parts = first.map(
    (cell) => HEADINGS.find(([heading]) => heading.test(cell.trim().toLowerCase().replace(/\?$/, '')))?.[1]
  )
  // A column may well be called name: then a type stands beside it.
  const isHead =
    parts.includes('name') &&
    (parts.includes('type') || (parts[0] === 'name' && !parseType(first[1] ?? '').ok))
  if (!isHead) return rows.map((row) => fromCells(row, PLACES))
  return rest.map((row) => fromCells(row, parts.includes('type') ? parts : PLACES))
}

function fromCells(cells: readonly string[], parts: readonly (Part | undefined)[]): PastedLine {
  const under = (part: Part): string =>
    parts.includes(part) ? (cells[parts.indexOf(part)] ?? '').trim() : ''
  return known({
    name: under('name'),
    type: under('type'),
    required: parts.includes('nullable') ? NO.test(under('nullable')) : YES.test(under('required')),
    default: /auto_?increment|identity|^(?:yes|true|1)$/i.test(under('extra'))
      ? 'generated'
      : under('default'),
    note: under('note'),
    ...(/^(?:pri|pk|p|primary(?: key)?|yes|y|x|true|1)$/i.test(under('key')) && { key: true })
  })
}

/** What stands before a mark and behind it; all of it before, where there is none. */
function parted(text: string, mark: RegExp): [before: string, behind: string] {
  const found = mark.exec(text)
  return found ? [text.slice(0, found.index), text.slice(found.index + found[0].length)] : [text, '']
}

function fromWords(line: string): PastedLine {
  const [bare, note] = parted(line.replace(/,$/, ''), /\s--/)
  const [said, after] = parted(bare.trim().replace(/,$/, ''), /\scomment\s+(?=')/i)
  const [, comment] = /^'((?:[^']|'')*)'/.exec(after) ?? []
  const [, quoted, ticked, plain, rest = ''] =
    /^(?:"([^"]+)"|`([^`]+)`|(\S+))\s*(.*)$/s.exec(said.trim()) ?? []
  const [before, value] = parted(rest, /(?:^|\s)default\s+/i)
  const required = /\b(?:required|not null)\b/i
  const key = /\bprimary key\b/i
  const counted =
    /\b(?:auto_increment|generated (?:always|by default) as identity|identity(?:\(\d+, ?\d+\))?)/i
  const word = (text: string): string =>
    text.replace(required, '').replace(key, '').replace(counted, '').trim()
  return known({
    name: (quoted ?? ticked ?? plain ?? '').replace(/,$/, ''),
    type: word(before),
    required: required.test(rest),
    default: counted.test(rest) ? 'generated' : word(value),
    note: comment?.replaceAll("''", "'") ?? note.trim(),
    ...(key.test(rest) && { key: true })
  })
}

/**
 * A new line whose name goes on with what a name does not have, taken apart: `bought date`, `name text
 * required`, `nurse > volunteer`. Names with a blank in them stay whole, where what follows is no type.
 */
export function takenApart(line: LineText, enums: readonly NamedValues[]): LineText {
  if (line.type.trim() !== '' || !/\s/.test(line.name.trim())) return line
  const { key: _, ...read } = fromWords(line.name.trim())
  const isType = /^(?:>|one of\b)/i.test(read.type) || parseType(read.type, enums).ok
  return isType ? { ...read, required: line.required || read.required, note: line.note || read.note } : line
}

/** The line in the design's words, where it is in an engine's. */
function known(line: PastedLine): PastedLine {
  const counted = countedType(line.type)
  if (counted !== undefined) return { ...line, type: counted, required: true, default: 'generated' }
  const type = parseType(line.type)
  // A key is never empty.
  return {
    ...line,
    required: line.required || line.key === true,
    default: ownDefault(line.default, type.ok && type.value.kind === 'boolean')
  }
}

/** What a block comes to: one step for all lines that can be taken, and the others as they were typed. */
export interface PastedLines {
  operation: Operation | undefined
  count: number
  left: LineText[]
}

/**
 * The lines as columns of the table, from the place on; each is tried behind those before it. Those that were
 * said to be its key are, where it has none, or only the one that it was made with.
 */
export function pasteLines(
  design: Design,
  table: Table,
  lines: readonly PastedLine[],
  at: number
): PastedLines {
  const old = lines.some((line) => line.key) ? asMade(design, table) : undefined
  // What the table was made with makes room for what is counted, and called, as it is.
  const operations: Operation[] = old
    ? [
        { kind: 'column.setDefault', table: table.id, column: old.id, default: null },
        {
          kind: 'column.rename',
          table: table.id,
          column: old.id,
          name: freeName(
            `was_${old.name}`,
            lines.map((line) => line.name)
          )
        }
      ]
    : []
  const room = operations.length
  let current = operations.reduce((state, operation) => applied(state, operation) ?? state, design)
  const left: LineText[] = []
  const keyed: string[] = []
  for (const { key, ...line } of lines) {
    const now = tableOf(current, table.id)
    const taken = now && addLine(current, now, line, at + (now.columns.length - table.columns.length))
    // What makes more than a column waits to be asked for.
    const after = taken?.ok && taken.operation && !taken.ask ? applied(current, taken.operation) : undefined
    if (after && taken?.ok && taken.operation) {
      if (key) keyed.push(...madeColumns(now, tableOf(after, table.id)))
      current = after
      operations.push(taken.operation)
    } else left.push({ ...EMPTY_LINE, ...line })
  }
  if (old && keyed.length === 0)
    return pasteLines(
      design,
      table,
      lines.map((line) => ({ ...line, key: false })),
      at
    )
  const count = operations.length - room
  if (keyed.length > 0 && (old || !table.primaryKey))
    operations.push({
      kind: 'key.setPrimary',
      table: table.id,
      key: { id: newKeyId(design), columns: keyed }
    })
  if (old) operations.push({ kind: 'column.remove', table: table.id, column: old.id })
  return {
    operation:
      count > 0
        ? {
            kind: 'batch',
            label: `add ${count} ${count === 1 ? 'column' : 'columns'} to ${table.name}`,
            operations
          }
        : undefined,
    count,
    left
  }
}

function applied(design: Design, operation: Operation): Design | undefined {
  const result = apply(design, operation)
  return result.ok ? result.design : undefined
}

const madeColumns = (before: Table | undefined, after: Table | undefined): string[] =>
  after?.columns.flatMap(({ id }) => (before?.columns.some((each) => each.id === id) ? [] : id)) ?? []

/** The one column that the table was made with, where nothing has been added and nothing leans on it. */
function asMade(design: Design, table: Table): Column | undefined {
  const [only, other] = table.columns
  return only?.default?.kind === 'generated' &&
    !other &&
    table.rows.length === 0 &&
    referencesTo(design, table.id).length === 0
    ? only
    : undefined
}
