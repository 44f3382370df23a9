import { columnsIn } from '../../design/directory.ts'
import { expressionOf } from '../../design/expressions.ts'
import { partsOf, type Expression } from '../../sql/expression.ts'
import type { Limit } from '../limits/limit.ts'
import type { LimitRemark } from '../remark.ts'
import type { ComputedFacts, ReferenceFacts } from '../facts.ts'

/** A virtual column is computed from no other (ORA-54012). */
export const computed: ComputedFacts = {
  fromComputed: false,
  fromCounted: true,
  required: true,
  inPrimaryKey: true,
  folded: false
}

/** The kinds must be the same, the lengths need not (ORA-02267); a virtual column is changed by nothing. */
export const references: ReferenceFacts = {
  types: ({ sql: own }, { sql: its }) => (kindOf(own) === kindOf(its) ? 'taken' : 'refused'),
  changingComputed: 'table',
  indexesComputed: false
}

const kindOf = (sql: string): string => sql.replace(/\(.*?\)/g, '')

/** Where something of a key is filled and something empty, two rows that are so alike are the same. */
export const halfEmpty: Limit = ({ table }) =>
  table.uniques.flatMap(({ columns: ids }): LimitRemark[] => {
    const columns = columnsIn(table, ids)
    const open = columns.find(({ required }) => !required)
    if (columns.length < 2 || !open) return []
    const names = columns.map(({ name }) => name).join(', ')
    return [
      {
        rule: 'half-empty key',
        weight: 'doubtful',
        column: open.id,
        message: `${names} of ${table.name} is unique, and ${open.name} may be empty: to Oracle two rows that have it empty and are otherwise the same are the same, and the second is refused.`
      }
    ]
  })

/** An empty text is nothing: a default of it fills nothing, and nothing is the same as it. */
export const emptyText: Limit = ({ table }) => [
  ...table.columns
    .filter(({ required, default: given }) => required && given?.kind === 'value' && given.value === '')
    .map((column): LimitRemark => ({
      rule: 'empty text',
      weight: 'wrong',
      column: column.id,
      message: `To Oracle an empty text is no value: the default of ${table.name}.${column.name} will be refused.`
    })),
  ...[
    ...table.checks.map(({ condition }) => condition),
    ...table.columns.flatMap(({ computed }) => computed ?? [])
  ]
    .filter((kept) => hasEmptyText(expressionOf(kept)))
    .slice(0, 1)
    .map((): LimitRemark => ({
      rule: 'empty text',
      weight: 'doubtful',
      message: `To Oracle an empty text is no value, so that nothing can be told by '' on ${table.name}: ask whether something is null instead.`
    }))
]

const hasEmptyText = (part: Expression): boolean =>
  (part.kind === 'text' && part.value === '') || partsOf(part).some(hasEmptyText)
