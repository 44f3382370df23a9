import { dialectsOf } from '../../dialect/index.ts'
import type { Dialect } from '../../dialect/dialect.ts'
import type { Remark } from '../../dialect/remark.ts'
import { once } from '../../once.ts'
import type { Design, Table } from '../../design/model.ts'
import type { Found, Rule } from '../finding.ts'

/**
 * What each dialect that a design is written for refuses of a table, does not hold, or does otherwise. What
 * an engine only does otherwise is told where the design says itself that it is written for it.
 */
export const inDialects: Rule = {
  name: 'in a dialect',
  others: (design, table) => textOf(toldOf(design, table)),
  find: (table, { design, named }) =>
    toldOf(design, table).filter(({ severity }) => named || severity !== 'doubtful')
}

type Told = Found & { dialects: string[] }

/** Findings as text, which is the same as long as they are. */
const textOf = (found: readonly Told[]): string => (found.length === 0 ? '' : JSON.stringify(found))

function toldOf(design: Design, { id }: Table): Told[] {
  return dialectsOf(design).flatMap((dialect) => {
    const remarks = byTable(dialect.catalog(design).remarks).get(id) ?? []
    return remarks.flatMap((remark) => foundIn(dialect, remark))
  })
}

function foundIn(dialect: Dialect, { message, finding }: Remark): Told[] {
  if (!finding) return []
  const { rule, weight, column, fix } = finding
  const about = { rule, severity: weight, message, dialects: [dialect.name] }
  return [{ ...about, ...(column !== undefined && { column }), ...(fix && { fix }) }]
}

const byTable = once((remarks: readonly Remark[]): ReadonlyMap<string, Remark[]> => {
  const found = new Map<string, Remark[]>()
  for (const remark of remarks) {
    if (remark.table === undefined || !remark.finding) continue
    const same = found.get(remark.table)
    if (same) same.push(remark)
    else found.set(remark.table, [remark])
  }
  return found
})
