import { byId } from '../design/by-id.ts'
import { expressionOf } from '../design/expressions.ts'
import type { Design, Table } from '../design/model.ts'
import { partsOf, type Expression } from '../sql/expression.ts'
import { sort, type MigrationInput } from './migration.ts'
import type { InPlace } from './survival.ts'

/** Whether two lists of values are the same, in the same order. */
export const same = (one: readonly string[], other: readonly string[]): boolean =>
  one.length === other.length && one.every((each, at) => each === other[at])

/**
 * The lists of values that another takes the place of, by their ids: one that loses a value or is ordered anew, or
 * gets a value that is used in the same step.
 */
export function replacedLists(input: MigrationInput, inPlace: Pick<InPlace, 'addsToList'>): Set<string> {
  const { from, to, flow, restore, after } = input
  const touched = new Set([...flow.adds, ...flow.fills, ...restore].map(({ table }) => table))
  const isTouched = (list: string): boolean =>
    to.tables.some(({ id, columns }) => touched.has(id) && columns.some(({ type }) => type.list === list))
  const changed = sort(from.enums, to.enums).kept.filter((pair) => !same(pair.from.values, pair.to.values))
  const replaced = changed.filter(({ from: old, to: list }) => {
    const values = valuesSaid(after, list.id)
    const isUsed = (value: string): boolean => values.has(value) || becomesOne(input, list.id)
    return isTouched(list.id) || !inPlace.addsToList(old.values, list.values, isUsed)
  })
  return new Set(replaced.map((pair) => pair.to.id))
}

/** The texts that tables with a column of a list say in what they begin with, and in their expressions. */
function valuesSaid({ tables }: Design, list: string): Set<string> {
  const has = ({ columns }: Table): boolean =>
    columns.some(({ type }) => type.kind === 'enum' && type.enum === list)
  return new Set(tables.filter(has).flatMap(textsIn))
}

function textsIn({ columns, checks, indexes, rowPolicies }: Table): string[] {
  const begins = columns.map((column) => column.default)
  const expressions = [
    ...columns.flatMap(({ computed }) => computed ?? []),
    ...begins.flatMap((each) => (each?.kind === 'expression' ? [each.expression] : [])),
    ...checks.map(({ condition }) => condition),
    ...indexes.flatMap(({ where }) => where ?? []),
    ...rowPolicies.flatMap(({ condition, writes }) => [condition, writes ?? condition])
  ]
  const texts = (part: Expression): string[] =>
    part.kind === 'text' ? [part.value] : partsOf(part).flatMap(texts)
  const values = begins.flatMap((each) =>
    each?.kind === 'value' && typeof each.value === 'string' ? [each.value] : []
  )
  return [...values, ...expressions.flatMap((each) => texts(expressionOf(each)))]
}

/** Whether a column that is there becomes one of a list, so that any value may come of what it holds. */
function becomesOne({ from, to }: MigrationInput, list: string): boolean {
  return to.tables.some((table) => {
    const before = byId(byId(from.tables).get(table.id)?.columns ?? [])
    return table.columns.some(({ id, type }) => {
      const old = before.get(id)
      return type.list === list && old !== undefined && old.type.list !== list
    })
  })
}
