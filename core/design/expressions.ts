import { BOUNDS } from '../bounds.ts'
import { callsIn, columnsNamed, mapExpression, unfoldedSize, type Expression } from '../sql/expression.ts'
import { functionCalled, type Sort } from '../sql/functions.ts'
import { NotAnExpression, parseExpression } from '../sql/parse.ts'
import { plainName, plainWords, printExpression } from '../sql/print.ts'
import { MakesNoSense, sortOf, type ColumnSort } from '../sql/sorts.ts'
import { byId } from './by-id.ts'
import type { Column } from './model.ts'
import type { NamedValues, Parsed, Type } from './type.ts'
import { parseValue } from './value.ts'

/**
 * Expressions in a design: kept as text in which columns stand as ids in braces (`{c_weight} > 0`), so
 * that a renamed column is renamed in them too; shown and typed with the columns' names.
 */

export interface ExpressionContext {
  /** The type that the value must have; left out, it must be a condition. */
  wanted?: Type
  columns: readonly Column[]
  enums: readonly NamedValues[]
  /** Whether it may give something else from one moment to the next: a default may, a check may not. */
  moments?: boolean
}

const SORTS: Record<Type['kind'], Sort> = {
  integer: 'number',
  decimal: 'number',
  float: 'number',
  boolean: 'boolean',
  text: 'text',
  char: 'text',
  date: 'date',
  time: 'time',
  timestamp: 'timestamp',
  interval: 'interval',
  uuid: 'uuid',
  json: 'json',
  binary: 'binary',
  enum: 'choice',
  native: 'any'
}
export const sortOfType = (type: Type): Sort => SORTS[type.kind]

/** Reads what a person typed (columns by name) into the form that a design keeps (columns by id). */
export function readExpression(text: string, reading: ExpressionContext): Parsed<string> {
  const most = BOUNDS.typedExpression
  if (text.length > most)
    return { ok: false, message: `That is too long: an expression has at most ${most} characters.` }
  try {
    const typed = mapExpression(parseExpression(text), (part) =>
      part.kind === 'column' ? { ...part, name: find(reading.columns, part.name)?.id ?? part.name } : part
    )
    judge(typed, reading)
    return { ok: true, value: keptExpression(typed) }
  } catch (error) {
    if (error instanceof NotAnExpression || error instanceof MakesNoSense)
      return { ok: false, message: error.message }
    throw error
  }
}

function find(columns: readonly Column[], name: string): Column | undefined {
  return (
    columns.find((column) => column.id === name) ??
    columns.find((column) => column.name === name) ??
    columns.find((column) => column.name.toLowerCase() === name.toLowerCase())
  )
}

/** Throws where the expression makes no sense among the columns, or gives something else than it should. */
function judge(expression: Expression, { wanted, columns, enums, moments }: ExpressionContext): void {
  if (unfoldedSize(expression) > BOUNDS.expressionParts)
    throw new MakesNoSense('BETWEEN within BETWEEN goes too deep here: compare with >= and <= instead.')
  const sort = sortOf(expression, (id) => {
    const column = byId(columns).get(id)
    return column && columnSort(column, enums)
  })
  const fleeting = moments ? undefined : callsIn(expression).find((name) => !functionCalled(name)?.fixed)
  if (fleeting)
    throw new MakesNoSense(
      `${fleeting} gives something else each time, so what it is used in would hold at one moment and not at the next.`
    )
  if (!wanted) {
    const isTruth = sort === 'boolean' || expression.kind === 'native'
    if (!isTruth)
      throw new MakesNoSense('This is a value, not a condition. Compare it with something: weight_g > 0.')
    return
  }
  const target = sortOfType(wanted)
  if (expression.kind === 'text') {
    const value = parseValue(expression.value, wanted, enums)
    if (!value.ok) throw new MakesNoSense(value.message)
    return
  }
  if (
    sort !== target &&
    sort !== 'any' &&
    target !== 'any' &&
    !(target === 'timestamp' && sort === 'date') &&
    !(target === 'date' && sort === 'timestamp')
  )
    throw new MakesNoSense(
      `This does not give ${wanted.kind === 'enum' ? 'one of the values' : `a value for ${wanted.kind}`}.`
    )
}

function columnSort(column: Column, enums: readonly NamedValues[]): ColumnSort {
  const { type } = column
  // A text is longer or shorter than its column as it likes; a date must be one.
  const free = type.kind === 'text' || type.kind === 'char' || type.kind === 'native'
  return {
    name: column.name,
    sort: sortOfType(type),
    refuses: (text) => {
      if (free) return undefined
      const value = parseValue(text, type, enums)
      return value.ok ? undefined : value.message
    }
  }
}

/** An expression as a design keeps it. */
export const keptExpression = (expression: Expression): string =>
  printExpression(
    expression,
    plainWords((id) => `{${id}}`)
  )

const parsed = new Map<string, Expression>()
const REMEMBERED = 5000

/** The tree of an expression that a design keeps; its columns are ids. */
export function expressionOf(kept: string): Expression {
  let found = parsed.get(kept)
  if (!found) {
    if (parsed.size >= REMEMBERED) parsed.clear()
    parsed.set(kept, (found = parseExpression(kept)))
  }
  return found
}

/** An expression that a design keeps, as a person reads it; what is none is shown as it is. */
export function showExpression(kept: string, columns: readonly Column[] = []): string {
  if (!isExpression(kept)) return kept
  return printExpression(
    expressionOf(kept),
    plainWords((id) => plainName(columns.find((column) => column.id === id)?.name ?? id))
  )
}

/** An expression that a design keeps, on other columns; what is none stays as it is. */
export function renameColumns(kept: string, column: (id: string) => string): string {
  if (!isExpression(kept)) return kept
  const renamed = mapExpression(expressionOf(kept), (part) =>
    part.kind === 'column' ? { ...part, name: column(part.name) } : part
  )
  return keptExpression(renamed)
}

function isExpression(kept: string): boolean {
  try {
    return callsIn(expressionOf(kept)).every(functionCalled)
  } catch (error) {
    if (error instanceof NotAnExpression) return false
    throw error
  }
}

/** The ids of the columns that it names; none where it is no expression. */
export const columnsUsed = (kept: string): string[] =>
  isExpression(kept) ? columnsNamed(expressionOf(kept)) : []

/** Why an expression that is kept cannot stand among the columns, or nothing where it can. */
export function flawOfExpression(kept: string, reading: ExpressionContext): string | undefined {
  try {
    judge(expressionOf(kept), reading)
    return undefined
  } catch (error) {
    if (error instanceof NotAnExpression || error instanceof MakesNoSense) return error.message
    throw error
  }
}
