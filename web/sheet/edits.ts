import { fold, lookup, tableOf } from '../../core/design/lookup.ts'
import { newId, type Column, type Design, type Table } from '../../core/design/model.ts'
import { parseType, sameType, typeText, type Parsed } from '../../core/design/type.ts'
import { defaultText, parseDefault } from '../../core/design/value.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { proposeRelationship } from '../../core/relate/propose.ts'

/** The cells of a line, in the order that Tab goes through them. */
export const CELLS = ['name', 'type', 'required', 'default', 'note'] as const
export type Cell = (typeof CELLS)[number]

/** A line as it is typed. */
export interface LineText { name: string; type: string; required: boolean; default: string; note: string }
export const EMPTY_LINE: LineText = { name: '', type: '', required: false, default: '', note: '' }

/** Why what was typed cannot be taken over yet, and at which cell. */
export interface Slip { cell: Cell; message: string }
export type Taken = { ok: true; operation: Operation | undefined } | { ok: false; slip: Slip }

/** What the type cell shows: the type, or `> table` where the column refers to one. */
function typeWords(design: Design, table: Table, column: Column): string {
  const foreignKey = table.foreignKeys.find((each) => each.pairs.some((pair) => pair.column === column.id))
  const parent = foreignKey && tableOf(design, foreignKey.table)
  return parent ? `> ${parent.name}` : typeText(column.type)
}

/** A line as text, from the column that stands there. */
export function lineOf(design: Design, table: Table, column: Column): LineText {
  return { name: column.name, type: typeWords(design, table, column), required: column.required, default: defaultText(column.default, column.type), note: column.note ?? '' }
}

const slip = (cell: Cell, message: string): Taken => ({ ok: false, slip: { cell, message } })
const done = (operation?: Operation): Taken => ({ ok: true, operation })

/** The table that `> name` names. */
function referred(design: Design, typed: string): Parsed<Table> {
  const name = typed.slice(1).trim()
  const table = lookup(design).byName.get(fold(name))
  return table ? { ok: true, value: table } : { ok: false, message: name === '' ? 'Say which table it refers to: > and its name.' : `There is no table called ${name} to refer to.` }
}

/** The operation that a new line comes to. A line without a type is text; `> table` makes a reference. */
export function addLine(design: Design, table: Table, line: LineText, at: number): Taken {
  const name = line.name.trim()
  if (line.type.trim().startsWith('>')) {
    const parent = referred(design, line.type.trim())
    if (!parent.ok) return slip('type', parent.message)
    const proposed = proposeRelationship(design, { parent: parent.value.id, child: table.id, required: line.required, single: false, at })
    const [only] = proposed?.columns ?? []
    if (proposed && only && proposed.columns.length === 1 && name !== '') proposed.columns = [{ ...only, name }]
    return done(proposed)
  }
  if (name === '') return slip('name', 'A column needs a name.')
  const type = line.type.trim() === '' ? parseType('text') : parseType(line.type)
  if (!type.ok) return slip('type', type.message)
  const value = parseDefault(line.default, type.value)
  if (!value.ok) return slip('default', value.message)
  const column: Column = { id: newId('c'), name, type: type.value, required: line.required, default: value.value ?? undefined, note: line.note.trim() || undefined }
  return done({ kind: 'column.add', table: table.id, column, at })
}

/** The operation that a change of one cell comes to; none where nothing changed. */
export function changeCell(design: Design, table: Table, column: Column, cell: Cell, text: string): Taken {
  const where = { table: table.id, column: column.id }
  const before = lineOf(design, table, column)
  if (cell !== 'required' && text.trim() === before[cell]) return done()
  switch (cell) {
    case 'name': return text.trim() === '' ? slip('name', 'A column needs a name. To remove the line, press Delete on it.') : done({ kind: 'column.rename', ...where, name: text.trim() })
    case 'type': return changeType(design, table, column, text.trim())
    case 'required': return done({ kind: 'column.require', ...where, required: text === 'true' })
    case 'default': {
      const value = parseDefault(text, column.type)
      return value.ok ? done({ kind: 'column.setDefault', ...where, default: value.value }) : slip('default', value.message)
    }
    case 'note': return done({ kind: 'column.annotate', ...where, note: text.trim() })
  }
}

function changeType(design: Design, table: Table, column: Column, text: string): Taken {
  const where = { table: table.id, column: column.id }
  const own = table.foreignKeys.find((each) => each.pairs.some((pair) => pair.column === column.id))
  const leave: Operation[] = own ? [{ kind: 'foreignKey.remove', table: table.id, foreignKey: own.id }] : []
  if (text.startsWith('>')) {
    const parent = referred(design, text)
    if (!parent.ok) return slip('type', parent.message)
    const proposed = proposeRelationship(design, { parent: parent.value.id, child: table.id, required: column.required, single: false, column })
    return done(proposed && { kind: 'batch', label: `refer ${table.name}.${column.name} to ${parent.value.name}`, operations: [...leave, proposed] })
  }
  const type = parseType(text)
  if (!type.ok) return slip('type', type.message)
  const retype: Operation[] = sameType(type.value, column.type) ? [] : [{ kind: 'column.retype', ...where, type: type.value }]
  const operations = [...leave, ...retype]
  return done(operations.length > 0 ? { kind: 'batch', label: `make ${table.name}.${column.name} ${typeText(type.value)}`, operations } : undefined)
}
