import { callsIn } from '../../sql/expression.ts'
import { expressionOf } from '../../design/expressions.ts'
import type { Column } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import { isBefore } from '../versions.ts'
import type { LimitContext, Limit } from './limit.ts'

/** What a column needs that came to the engine after the oldest version that the design is to run on. */
export const tooOld: Limit = (asked) => asked.table.columns.flatMap((column) => told(asked, column))

function told({ table, facts, dialect }: LimitContext, column: Column): LimitRemark[] {
  const { functions = {}, types = {} } = facts.came ?? {}
  const missing = [...callsOf(column).map((name) => functions[name]), types[column.type.kind]]
  return missing.flatMap((came): LimitRemark[] =>
    came && isBefore(facts.oldest, came.in)
      ? [
          {
            rule: 'version that is too old',
            weight: came.weight,
            column: column.id,
            message: `${column.name} of ${table.name} needs ${came.what}, which came with ${facts.title} ${came.in}: ${came.becomes}.`,
            fix: {
              label: `Write for ${facts.title} ${came.in} and later`,
              operation: { kind: 'design.setOldest', dialect, version: came.in }
            }
          }
        ]
      : []
  )
}

function callsOf({ default: begins, computed }: Column): string[] {
  const kept = [computed, begins?.kind === 'expression' ? begins.expression : undefined]
  return [...new Set(kept.flatMap((each) => (each === undefined ? [] : callsIn(expressionOf(each)))))]
}
