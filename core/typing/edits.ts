import { showExpression } from '../design/expressions.ts'
import { columnOf, columnsIn, fold, fullName, directory, referencesTo, tableOf } from '../design/directory.ts'
import { newId, type Column, type Design, type Enum, type Table, type Verbs } from '../design/model.ts'
import { countedType } from '../design/spellings.ts'
import { parseType, sameType, typeText, type Parsed, type Type } from '../design/type.ts'
import { defaultText } from '../design/default.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { columnName, freeName } from '../naming/names.ts'
import { proposeRelationship, tableCalled } from '../relate/propose.ts'
import { roleIn, roleVerbs } from '../relate/role.ts'
import { readGiven, sayHow, sayRenewed, type DefaultCell } from './given.ts'

/** The cells of a line, in the order that Tab goes through them. */
export const CELLS = ['name', 'type', 'required', 'default', 'note'] as const
export type Cell = (typeof CELLS)[number]

/** A line as it is typed. */
export interface LineText {
  name: string
  type: string
  required: boolean
  default: string
  note: string
}
export const EMPTY_LINE: LineText = { name: '', type: '', required: false, default: '', note: '' }

/** Why what was typed cannot be taken over yet, and at which cell. */
export interface Slip {
  cell: Cell
  message: string
}
/** What else an operation does, to be said before it is done, and what the button says that does it. */
export interface Confirmation {
  says: string
  does: string
}
export type Taken =
  { ok: true; operation: Operation | undefined; ask?: Confirmation } | { ok: false; slip: Slip }

/** What the type cell shows: the type, or `> table` where the column refers to one. */
function typeWords(design: Design, table: Table, column: Column): string {
  const foreignKey = table.foreignKeys.find((each) => each.pairs.some((pair) => pair.column === column.id))
  const parent = foreignKey && tableOf(design, foreignKey.table)
  return parent ? `> ${fullName(design, parent)}` : typeText(column.type, design.enums)
}

/** What the default cell shows: a default, or what the column is computed or copied from. */
function valueWords(design: Design, table: Table, column: Column): string {
  if (column.computed !== undefined) return `computed ${showExpression(column.computed, table.columns)}`
  const { copied } = column
  const source =
    copied && tableOf(design, table.foreignKeys.find((each) => each.id === copied.foreignKey)?.table ?? '')
  if (copied && source)
    return `copied ${fullName(design, source)}.${columnOf(source, copied.column)?.name ?? ''}${sayHow(copied)}`
  return sayRenewed(defaultText(column.default, column.type), column.renewed)
}

/** A line as text, from the column that stands there. */
export function lineOf(design: Design, table: Table, column: Column): LineText {
  return {
    name: column.name,
    type: typeWords(design, table, column),
    required: column.required,
    default: valueWords(design, table, column),
    note: column.note ?? ''
  }
}

const slip = (cell: Cell, message: string): Taken => ({ ok: false, slip: { cell, message } })
const done = (operation?: Operation, ask?: Confirmation): Taken => ({
  ok: true,
  operation,
  ...(ask !== undefined && { ask })
})

/** The table that `> name` names, in the design as it is or with that table made for it. */
interface Referred {
  table: Table
  design: Design
  first: Operation[]
  ask?: Confirmation
}

function referred(design: Design, typed: string): Parsed<Referred> {
  const name = typed.slice(1).trim()
  if (name === '') return { ok: false, message: 'Say which table it refers to: > and its name.' }
  const table = directory(design).byName.get(fold(name))
  if (table) return { ok: true, value: { table, design, first: [] } }
  const { table: made, operation, newSchema } = tableCalled(design, name)
  const result = apply(design, operation)
  if (!result.ok) return { ok: false, message: result.refusal.message }
  return {
    ok: true,
    value: {
      table: made,
      design: result.design,
      first: [operation],
      ask: {
        says:
          newSchema === undefined
            ? `There is no table called ${name} yet.`
            : `There is no table called ${name} yet, and no schema ${newSchema}.`,
        does: 'Make it, and refer'
      }
    }
  }
}

/** A type as typed; `one of calm, wary, fierce` makes a list of values that is called as the column is. */
function readType(design: Design, text: string, column: string): Parsed<{ type: Type; first: Operation[] }> {
  const values =
    /^one of\b(.*)$/is.exec(text.trim()) ?? /^(?:enum|list|choice)\s*\((.*)\)$/is.exec(text.trim())
  if (!values) {
    const type = parseType(text, design.enums)
    return type.ok ? { ok: true, value: { type: type.value, first: [] } } : type
  }
  const list = (values[1] ?? '')
    .split(',')
    .map((value) => value.trim().replace(/^(['"])(.*)\1$/, '$2'))
    .filter((value) => value !== '')
  if (list.length === 0)
    return { ok: false, message: 'Say which values there are: one of calm, wary, fierce.' }
  const same = design.enums.find((each) => each.values.join('\0') === list.join('\0'))
  if (same) return { ok: true, value: { type: { kind: 'enum', enum: same.id }, first: [] } }
  const made: Enum = {
    id: newId('e'),
    name: freeName(
      columnName(column, design.policy) || 'values',
      design.enums.map((each) => each.name)
    ),
    values: list
  }
  return {
    ok: true,
    value: { type: { kind: 'enum', enum: made.id }, first: [{ kind: 'enum.add', enum: made }] }
  }
}

/** A line whose type is that of a number which is counted. */
function counted(line: LineText): LineText {
  const type = countedType(line.type)
  const isFree = ['', 'generated'].includes(line.default.trim().toLowerCase())
  return type !== undefined && isFree ? { ...line, type, default: 'generated', required: true } : line
}

/** The operation that a new line comes to. A line without a type is text; `> table` makes a reference. */
export function addLine(design: Design, table: Table, typed: LineText, at: number): Taken {
  const line = counted(typed)
  const name = line.name.trim()
  if (line.type.trim().startsWith('>')) return addReference(design, table, line, at)
  if (name === '') return slip('name', 'A column needs a name.')
  const type = readType(design, line.type.trim() === '' ? 'text' : line.type, name)
  if (!type.ok) return slip('type', type.message)
  const { first } = type.value
  const lists = [
    ...design.enums,
    ...first.flatMap((operation) => (operation.kind === 'enum.add' ? [operation.enum] : []))
  ]
  const given = readGiven(design, table, type.value.type, line.default, lists)
  if (!given.ok) return slip('default', given.message)
  const column: Column = {
    id: newId('c'),
    name,
    type: type.value.type,
    required: line.required,
    note: line.note.trim() || undefined,
    ...('default' in given.value
      ? { ...given.value, default: given.value.default ?? undefined }
      : given.value)
  }
  const add: Operation = { kind: 'column.add', table: table.id, column, at }
  return done(
    first.length > 0
      ? { kind: 'batch', label: `add ${table.name}.${name}`, operations: [...first, add] }
      : add
  )
}

/** How a reference reads whose column says more than the name of what it refers to: `mentor > member`. */
function verbsOf(column: string, parent: Table): Verbs | undefined {
  const [key, ...more] = columnsIn(parent, parent.primaryKey?.columns ?? [])
  const role = key && more.length === 0 ? roleIn(column, parent, key.name) : undefined
  return role === undefined ? undefined : roleVerbs(role)
}

function addReference(design: Design, table: Table, line: LineText, at: number): Taken {
  const read = referred(design, line.type.trim())
  if (!read.ok) return slip('type', read.message)
  const { table: parent, design: current, first, ask } = read.value
  const name = line.name.trim()
  const proposed = proposeRelationship(current, {
    parent: parent.id,
    child: table.id,
    required: line.required,
    single: false,
    verbs: verbsOf(name, parent),
    at
  })
  const [only] = proposed?.columns ?? []
  if (!proposed || !only) return done(proposed)
  if (proposed.columns.length === 1 && name !== '') proposed.columns = [{ ...only, name }]
  const note = line.note.trim()
  const said: Operation[] =
    note === '' ? [] : [{ kind: 'column.annotate', table: table.id, column: only.id, note }]
  const operations = [...first, proposed, ...said]
  return done(
    operations.length === 1
      ? proposed
      : { kind: 'batch', label: `refer ${table.name} to ${parent.name}`, operations },
    ask
  )
}

/** The operation that a change of one cell comes to; none where nothing changed. */
export function changeCell(design: Design, table: Table, column: Column, cell: Cell, text: string): Taken {
  const where = { table: table.id, column: column.id }
  const before = lineOf(design, table, column)
  if (cell !== 'required' && text.trim() === before[cell]) return done()
  switch (cell) {
    case 'name':
      return text.trim() === ''
        ? slip('name', 'A column needs a name. To remove the line, press Delete on it.')
        : done({ kind: 'column.rename', ...where, name: text.trim() })
    case 'type':
      return changeType(design, table, column, text.trim())
    case 'required':
      return done({ kind: 'column.require', ...where, required: text === 'true' })
    case 'default':
      return changeGiven(design, table, column, text)
    case 'note':
      return done({ kind: 'column.annotate', ...where, note: text.trim() })
  }
}

function changeGiven(design: Design, table: Table, column: Column, text: string): Taken {
  const where = { table: table.id, column: column.id }
  // A column cannot be computed from itself; the others are what there is.
  const given = readGiven(design, table, column.type, text)
  if (!given.ok) return slip('default', given.message)
  const { value } = given
  const operations: Operation[] = [
    ...(column.computed !== undefined && !('computed' in value)
      ? [{ kind: 'column.compute' as const, ...where, expression: null }]
      : []),
    ...(column.copied && !('copied' in value)
      ? [{ kind: 'column.copy' as const, ...where, copied: null }]
      : []),
    ...('computed' in value
      ? [{ kind: 'column.compute' as const, ...where, expression: value.computed }]
      : []),
    ...('copied' in value
      ? [
          ...(column.default ? [{ kind: 'column.setDefault' as const, ...where, default: null }] : []),
          { kind: 'column.copy' as const, ...where, copied: value.copied }
        ]
      : []),
    ...('default' in value ? changeDefault(where, column, value) : [])
  ]
  const [only] = operations
  return done(
    operations.length === 1 && only
      ? only
      : { kind: 'batch', label: `change what ${table.name}.${column.name} holds at first`, operations }
  )
}

/** What a row begins with, and what becomes of it with each change, as far as either is another. */
function changeDefault(
  where: { table: string; column: string },
  column: Column,
  { default: begins, renewed }: Extract<DefaultCell, { default: unknown }>
): Operation[] {
  const isSame = JSON.stringify(begins) === JSON.stringify(column.default ?? null)
  return [
    ...(isSame && column.renewed !== renewed
      ? []
      : [{ kind: 'column.setDefault' as const, ...where, default: begins }]),
    ...(column.renewed === renewed
      ? []
      : [{ kind: 'column.renew' as const, ...where, renewed: renewed ?? null }])
  ]
}

function changeType(design: Design, table: Table, column: Column, text: string): Taken {
  const where = { table: table.id, column: column.id }
  const own = table.foreignKeys.find((each) => each.pairs.some((pair) => pair.column === column.id))
  const leave: Operation[] = own ? [{ kind: 'foreignKey.remove', table: table.id, foreignKey: own.id }] : []
  if (text.startsWith('>')) {
    const read = referred(design, text)
    if (!read.ok) return slip('type', read.message)
    const { table: parent, design: current, first, ask } = read.value
    const proposed = proposeRelationship(current, {
      parent: parent.id,
      child: table.id,
      required: column.required,
      single: false,
      verbs: verbsOf(column.name, parent),
      column
    })
    return done(
      proposed && {
        kind: 'batch',
        label: `refer ${table.name}.${column.name} to ${parent.name}`,
        operations: [...leave, ...first, proposed]
      },
      ask
    )
  }
  const number = countedType(text)
  const type = readType(design, number ?? text, column.name)
  if (!type.ok) return slip('type', type.message)
  const counting: Operation[] =
    number !== undefined && column.default === undefined
      ? [{ kind: 'column.setDefault', ...where, default: { kind: 'generated' } }]
      : []
  const retype: Operation[] = sameType(type.value.type, column.type)
    ? []
    : [...type.value.first, { kind: 'column.retype', ...where, type: type.value.type }]
  const operations = [...leave, ...retype, ...counting]
  const followers = retype.length > 0 ? followersOf(design, table, column.id) : []
  const says = `${followers.length === 1 ? `${followers[0] as string} refers to it and changes` : `${followers.length} columns refer to it and change`} with it${followers.length > 1 ? `: ${followers.slice(0, 6).join(', ')}${followers.length > 6 ? ' …' : ''}` : ''}.`
  return done(
    operations.length > 0
      ? { kind: 'batch', label: `make ${table.name}.${column.name} ${text}`, operations }
      : undefined,
    followers.length > 0 ? { says, does: 'Change them all' } : undefined
  )
}

/** The columns that take their type from this one, near and far, as a person names them. */
function followersOf(design: Design, table: Table, column: string): string[] {
  const found = new Map<string, string>()
  const visit = (from: Table, id: string): void => {
    for (const { table: child, foreignKey } of referencesTo(design, from.id)) {
      const pair = foreignKey.pairs.find((each) => each.refersTo === id)
      if (!pair || found.has(pair.column) || pair.column === column) continue
      found.set(pair.column, `${child.name}.${columnOf(child, pair.column)?.name ?? ''}`)
      visit(child, pair.column)
    }
  }
  visit(table, column)
  return [...found.values()]
}
