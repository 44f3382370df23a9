import { columnsUsed, expressionOf, showExpression } from '../../design/expressions.ts'
import type { Table } from '../../design/model.ts'
import { partsOf, type Expression } from '../../sql/expression.ts'
import type { LimitRemark } from '../remark.ts'
import type { Limit } from './limit.ts'

/** Letters that an engine does not know as small and large, where a table asks for one of the two. */
export const letters: Limit = ({ table, facts }) => {
  if (!facts.texts?.onlyAToZ) return []
  return placesIn(table)
    .filter(({ kept }) => asksForLetters(expressionOf(kept)))
    .map(({ column, kept }): LimitRemark => ({
      rule: 'letters that stay as they are',
      weight: 'doubtful',
      column,
      message: `${facts.title} makes no letter beyond A to Z small or large: ${showExpression(kept, table.columns)} on ${table.name} leaves ä, É and the like as they are.`
    }))
}

function placesIn(table: Table): { column: string | undefined; kept: string }[] {
  const ofColumns = table.columns.flatMap(({ id, computed, default: begins }) => [
    ...(computed === undefined ? [] : [{ column: id, kept: computed }]),
    ...(begins?.kind === 'expression' ? [{ column: id, kept: begins.expression }] : [])
  ])
  const conditions = [
    ...table.checks.map(({ condition }) => condition),
    ...table.indexes.flatMap(({ where }) => where ?? [])
  ]
  return [...ofColumns, ...conditions.map((kept) => ({ column: columnsUsed(kept)[0], kept }))]
}

/** Whether small or large letters are asked for of what may hold others than A to Z. */
function asksForLetters(part: Expression): boolean {
  const isAsked = part.kind === 'call' && (part.name === 'lower' || part.name === 'upper')
  return (isAsked && part.args.some(mayHoldOthers)) || partsOf(part).some(asksForLetters)
}

function mayHoldOthers(part: Expression): boolean {
  if (part.kind === 'column') return true
  const isBeyond = part.kind === 'text' && [...part.value].some((character) => character > '\u007f')
  return isBeyond || partsOf(part).some(mayHoldOthers)
}
