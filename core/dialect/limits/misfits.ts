import { columnOf } from '../../design/directory.ts'
import { columnsUsed, expressionOf, showExpression } from '../../design/expressions.ts'
import type { Table } from '../../design/model.ts'
import type { Type } from '../../design/type.ts'
import { parseValue } from '../../design/value.ts'
import { columnsNamed, partsOf, type Expression } from '../../sql/expression.ts'
import { folded } from '../../sql/fold.ts'
import { foldedIn } from '../unfolded.ts'
import { comparedIn, typesThatMeet, type Meeting } from '../typed.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'

/**
 * Expressions that cannot be worked out: values of two lists beside each other, a text that is no value of
 * what it stands for, a division by zero. Engines that look at types refuse the table; others fail, or give
 * nothing, row by row.
 */
export const misfits: Limit = (asked) => expressionsOf(asked.table).flatMap((each) => told(asked, each))

interface Place {
  column: string | undefined
  kept: string
  wanted?: Type
  /** Whether the engine works on it when it is made, and not only when a row comes. */
  planned: boolean
}

function expressionsOf(table: Table): Place[] {
  const first = (kept: string): string | undefined => columnsUsed(kept)[0]
  const conditions = [
    ...table.checks.map(({ condition }) => condition),
    ...table.rowPolicies.flatMap(({ condition, writes }) => [
      condition,
      ...(writes === undefined ? [] : [writes])
    ])
  ]
  return [
    ...table.columns.flatMap(({ id, computed, type }) =>
      computed === undefined ? [] : [{ column: id, kept: computed, wanted: type, planned: true }]
    ),
    ...conditions.map((condition) => ({
      column: first(condition),
      kept: condition,
      planned: false
    })),
    ...table.indexes.flatMap(({ where }) =>
      where === undefined ? [] : [{ column: first(where), kept: where, planned: true }]
    )
  ]
}

function told(asked: LimitContext, { column, kept, wanted, planned }: Place): LimitRemark[] {
  const { table, facts } = asked
  const typeOf = (id: string): Type | undefined => columnOf(table, id)?.type
  const isFolded = facts.computed.folded && wanted !== undefined
  const written = isFolded ? foldedIn(table, kept) : expressionOf(kept)
  const misfit = typesThatMeet(written, typeOf, wanted)
    .map((meeting) => flawOf(meeting, asked))
    .find((each) => each !== undefined)
  const large = misfit ?? comparesLarge(written, asked)
  const zero = large === undefined ? dividesByZero(folded(written)) : 'no'
  if (large === undefined && zero === 'no') return []
  const flaw = large ?? 'it divides by zero'
  const strict = zero === 'no' ? facts.judgesTypes : zero === 'always' && planned && facts.computed.folded
  return [
    {
      rule: 'cannot be worked out',
      weight: strict ? 'refused' : 'wrong',
      column,
      message: `${showExpression(kept, table.columns)} on ${table.name} cannot be worked out everywhere: ${flaw}${strict ? `, and ${facts.title} refuses it` : ''}.`
    }
  ]
}

/** A comparison of what is kept apart, where the engine has none. */
function comparesLarge(written: Expression, { table, facts, words }: LimitContext): string | undefined {
  const { neverCompared } = facts
  if (!neverCompared) return undefined
  const large = comparedIn(written).flatMap((part) => {
    const column = part.kind === 'column' ? columnOf(table, part.name) : undefined
    return column && neverCompared.test(words(table, column).sql) ? [column.name] : []
  })
  return large.length === 0 ? undefined : `${large[0] as string} has no length, and is compared`
}

function flawOf({ types, texts }: Meeting, { design }: LimitContext): string | undefined {
  const lists = new Set(types.flatMap((type) => (type.kind === 'enum' ? [type.enum] : [])))
  const names = [...lists].map((id) => design.enums.find((list) => list.id === id)?.name ?? id)
  if (names.length > 1) return `values of ${names.join(' and ')} are of two lists`
  const [type] = types
  if (!type || type.kind === 'text' || type.kind === 'char' || type.kind === 'native') return undefined
  const unfit = texts.map((text) => parseValue(text, type, design.enums)).find((each) => !each.ok)
  return unfit && !unfit.ok ? unfit.message.replace(/\.$/, '') : undefined
}

/** Whether it divides by zero: always, which can be seen when it is made, or what a row holds. */
function dividesByZero(part: Expression): 'no' | 'always' | 'in a row' {
  const divides = part.kind === 'binary' && (part.op === '/' || part.op === '%')
  const zero = divides && part.right.kind === 'number' && Number(part.right.text) === 0
  if (zero) return columnsNamed(part).length === 0 ? 'always' : 'in a row'
  return (
    partsOf(part)
      .map(dividesByZero)
      .find((each) => each !== 'no') ?? 'no'
  )
}
