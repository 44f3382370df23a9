import type { Column } from '../../design/model.ts'
import type { LimitRemark } from '../remark.ts'
import { unsaidIn } from '../unsaid.ts'
import type { LimitContext, Limit } from './limit.ts'

/** What is left out because a dialect has no words for a function in it. */
export const unsaid: Limit = (asked) => {
  const { table, facts } = asked
  return [
    ...table.checks.flatMap(({ condition }) =>
      told(asked, condition, `a check of ${table.name} is left out`)
    ),
    ...table.columns.flatMap((column) => ofColumn(asked, column)),
    ...(facts.rowPolicies
      ? table.rowPolicies.flatMap(({ name, condition, writes = condition }) =>
          [...new Set([condition, writes])].flatMap((each) =>
            told(asked, each, `the row policy ${name} of ${table.name} is left out`)
          )
        )
      : [])
  ]
}

function ofColumn(asked: LimitContext, { id, name, computed, default: begins }: Column): LimitRemark[] {
  const place = `${name} of ${asked.table.name}`
  return [
    ...(computed === undefined ? [] : told(asked, computed, `${place} is not computed`, id)),
    ...(begins?.kind === 'expression'
      ? told(asked, begins.expression, `${place} begins with nothing`, id)
      : [])
  ]
}

function told(
  { dialect, facts }: LimitContext,
  kept: string,
  becomes: string,
  column?: string
): LimitRemark[] {
  const why = unsaidIn(kept, dialect, facts)
  return why === undefined
    ? []
    : [
        {
          rule: 'function that is not there',
          weight: 'wrong',
          ...(column !== undefined && { column }),
          message: `${why}: ${becomes}.`
        }
      ]
}
