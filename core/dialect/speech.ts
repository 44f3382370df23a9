import { once } from '../once.ts'
import { expressionOf } from '../design/expressions.ts'
import { byId } from '../design/by-id.ts'
import type { Column, Design, Table } from '../design/model.ts'
import type { Type } from '../design/type.ts'
import type { Default, Value } from '../design/value.ts'
import type { Expression, NativeCall } from '../sql/expression.ts'
import { printExpression, Unwritable, type ExpressionWords } from '../sql/print.ts'
import type { CatalogColumn, CatalogTable } from './catalog.ts'
import type { Limit } from './limits/limit.ts'
import type { LimitRemark } from './remark.ts'
import { typed, typeOfExpression, type TypedInput, type TypedWords } from './typed.ts'
import { LOOSE, typeWords, type Facts, type TypeTable, type TypeWords } from './facts.ts'

/** How a dialect says what row queries need beyond expressions. */
export interface RowWords {
  /** A condition: both are the same, or both are empty. */
  sameOrEmpty(left: string, right: string): string
  /** A value as what orders rows by its code points, bytes or size. */
  inOrder?(sql: string, type: Type): string
  /** A text that is said by itself, as one of a column: it is the same as another, and comes before it, as that is. */
  saidText?(sql: string): string
  /** Whether a value that is said must have its type said with it, since nothing beside it tells. */
  saysTypes: boolean
  /** What stands behind the order of a SELECT of which the first row is wanted; LIMIT 1 where nothing is said. */
  firstOnly?: string
  /** What stands behind a SELECT from no table. */
  noTable?: string
}

/** Why a check cannot be made. `unseen`: what triggers that hold it instead do not see. */
export interface RefusedCheck extends Pick<LimitRemark, 'column' | 'message' | 'fix'> {
  unseen?: string
}

/** How a dialect says what a design holds; ./build.ts puts it together. */
export interface Speech {
  name: string
  facts: Facts
  types: TypeTable
  quote(name: string): string
  literal(value: Value, type: Type): string
  /** The present moment for a column of the type. */
  now(type: Type): string
  /** Whether a column of the type says by itself that it becomes the present moment with each change of its row. */
  renewsInColumn?(type: Type): boolean
  expressions: Omit<ExpressionWords, 'column' | 'truth'>
  /** What is said otherwise where the types of parts ask for it. */
  typed: TypedWords
  /** What makes a truth value a condition and a condition a value, where the dialect tells them apart. */
  truth?: Pick<NonNullable<ExpressionWords['truth']>, 'toCondition' | 'toValue'>
  /** A value in what is computed, where it is said otherwise there. */
  computedLiteral?(value: Value, type: Type): string
  /** What is computed, as a value of its column, where the engine does not see to that by itself. */
  computes?(sql: string, to: Type, typeSql: string, gives: Type | undefined): string
  /** A column as what another is computed from, where that is said otherwise. */
  source?(name: string, column: Column): string
  rows: RowWords
  /** Whether a list of values is a type of its own. */
  enumTypes: boolean
  /** What a dialect changes in a column when everything else is said. */
  adjust?(column: CatalogColumn, from: { table: Table; column: Column }): CatalogColumn
  /** What it changes in a table when its columns, keys and indexes are known. */
  finish?(table: CatalogTable, from: { table: Table; design: Design }): CatalogTable
  /** Why a check on the columns cannot be made, what is left out, or nothing where it can. */
  refusesCheck?(table: Table, columns: readonly Column[]): RefusedCheck | undefined
  /** The condition of an index on some of the rows as the engine takes it; nothing where it takes none such. */
  filter?(condition: Expression, column: (id: string) => Column | undefined): Expression | undefined
  /** Where the engine has limits of its own, besides those that all are asked for. */
  limits?: readonly Limit[]
  /** What else the dialect has to say on a table. */
  remarks?(table: Table): string[]
}

/** The types of columns by their ids; worked out once for each list of them. */
const typesOf = once((columns: readonly Column[]): ReadonlyMap<string, Type> => {
  return new Map(columns.map((column) => [column.id, column.type]))
})

/** A type as the dialect writes it on a column of a table. */
export function typeOn(
  speech: Speech,
  design: Design,
  table: Table,
  type: Type,
  column: string,
  listName?: string
): TypeWords {
  const list = type.kind === 'enum' ? byId(design.enums).get(type.enum) : undefined
  return typeWords(speech.types, speech.name, speech.facts.title, type, {
    values: list?.values ?? [],
    listName: listName ?? list?.name ?? '',
    inKey: keyWidths(table).get(column) ?? 0
  })
}

/**
 * Of how many columns the widest key or index is that each column stands in; those that stand in none are
 * left out.
 */
const keyWidths = once((table: Table): ReadonlyMap<string, number> => {
  const lists = [
    ...(table.primaryKey ? [table.primaryKey.columns] : []),
    ...table.uniques.map((key) => key.columns),
    ...table.indexes.map((index) => index.columns.map((each) => each.column)),
    ...table.foreignKeys.map((key) => key.pairs.map((pair) => pair.column))
  ]
  const found = new Map<string, number>()
  for (const list of lists) for (const id of list) found.set(id, Math.max(found.get(id) ?? 0, list.length))
  return found
})

/** A default as SQL; `generated` is none. */
export function defaultSql(speech: Speech, value: Default, type: Type): string | undefined {
  switch (value.kind) {
    case 'generated':
      return undefined
    case 'now':
      return speech.now(type)
    case 'value':
      return speech.literal(value.value, type)
    case 'expression':
      return expressionSql(speech, [], value.expression, type, speech.quote)
  }
}

/**
 * An expression that a design keeps, as SQL. `type`: what it gives a value of; left out where it is a
 * condition.
 */
export function expressionSql(
  speech: Speech,
  columns: readonly Column[],
  kept: string | Expression,
  type: Type | undefined,
  name: (id: string) => string,
  more: Partial<Pick<TypedInput, 'typeSql' | 'instead' | 'literal'>> = {}
): string {
  const types = typesOf(columns)
  const isTruth = (part: Expression): boolean =>
    part.kind === 'spoken' ? part.isTruth : typeOfExpression(part, (id) => types.get(id))?.kind === 'boolean'
  const words: ExpressionWords = {
    ...speech.expressions,
    column: name,
    native: (calls, write) => nativeSql(speech, calls, write),
    ...(speech.truth && { truth: { ...speech.truth, isValue: isTruth } })
  }
  const expression = typeof kept === 'string' ? expressionOf(kept) : kept
  const said = typed(expression, {
    typeOf: (id) => types.get(id),
    wanted: type,
    literal: speech.literal,
    words: speech.typed,
    typeSql: (of) => looseType(speech, of),
    ...more
  })
  return printExpression(said, words, type === undefined ? 'condition' : 'value')
}

/** An engine's own function; a name that was said without quotes is written without. */
function nativeSql(
  speech: Speech,
  calls: readonly NativeCall[],
  write: (argument: Expression) => string
): string {
  const own = nativeIn(calls, speech.name)
  if (!own) throw new Unwritable(`a function of another engine is written for ${speech.facts.title}`)
  const name = own.path.map(({ text, quoted }) => (quoted ? speech.quote(text) : text)).join('.')
  return `${name}(${own.args.map(write).join(', ')})`
}

/** What of an engine's own functions a dialect takes: its own, or what is said for every one. */
export const nativeIn = (calls: readonly NativeCall[], dialect: string): NativeCall | undefined =>
  calls.find((call) => call.dialect === dialect) ?? calls.find((call) => call.dialect === 'any')

/** A type as the dialect writes it, where it depends on no list of values. */
function looseType(speech: Speech, type: Type): string | undefined {
  if (type.kind === 'enum') return undefined
  return typeWords(speech.types, speech.name, speech.facts.title, type, LOOSE).sql
}
