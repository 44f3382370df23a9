import { dialectsOf } from '../../dialect/index.ts'
import type { Dialect } from '../../dialect/dialect.ts'
import type { Remark } from '../../dialect/remark.ts'
import { once } from '../../once.ts'
import type { Design, Table } from '../../design/model.ts'
import { titles, type Found, type Rule } from '../finding.ts'

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

/** What is told, once where several dialects tell the same. */
function toldOf(design: Design, { id }: Table): Told[] {
  const alike = new Map<string, { first: Told; others: Dialect[] }>()
  for (const dialect of dialectsOf(design))
    for (const remark of byTable(dialect.catalog(design).remarks).get(id) ?? [])
      for (const told of foundIn(dialect, remark)) {
        const key = JSON.stringify({ ...told, message: plain(told.message, dialect), dialects: [] })
        const known = alike.get(key)
        const isSaid =
          known && [known.first.dialects[0], ...known.others.map(({ name }) => name)].includes(dialect.name)
        if (isSaid) continue
        if (known) known.others.push(dialect)
        else alike.set(key, { first: told, others: [] })
      }
  return [...alike.values()].map(({ first, others }) =>
    others.length === 0
      ? first
      : {
          ...first,
          dialects: [...first.dialects, ...others.map(({ name }) => name)],
          message: `${first.message} The same holds for ${titles(others)}.`
        }
  )
}

/** A message as it is whichever dialect it is about. */
const plain = (message: string, { title }: Dialect): string => message.replaceAll(title, '')

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
