import { dialectsOf } from '../../dialect/index.ts'
import type { Dialect } from '../../dialect/dialect.ts'
import type { Remark } from '../../dialect/remark.ts'
import { once } from '../../once.ts'
import type { Design, TableId } from '../../design/model.ts'
import { titles, type Found, type Rule } from '../finding.ts'

/**
 * What each dialect that a design is written for refuses of a table, does not hold, or does otherwise. What
 * an engine only does otherwise is told where the design says itself that it is written for it.
 */
export const inDialects: Rule = {
  name: 'in a dialect',
  find: ({ id }, { ask, named }) => ask(toldOf, id).filter(({ severity }) => named || severity !== 'doubtful')
}

type Told = Found & { dialects: string[] }

/** What is told, once where several dialects tell the same. */
function toldOf(design: Design, id: TableId): Told[] {
  const alike = new Map<string, { first: Told; others: Dialect[] }>()
  for (const dialect of dialectsOf(design))
    for (const remark of byTable(dialect.catalog(design).remarks).get(id) ?? []) {
      const found = foundIn(dialect, remark)
      if (!found) continue
      const { told, key } = found
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

/** What is told of a remark, and a key that is the same where another dialect tells the same. */
interface Remarked {
  told: Told
  key: string
}

/** A remark is the same as long as its table is. */
const remarked = new WeakMap<Remark, Remarked>()

function foundIn(dialect: Dialect, remark: Remark): Remarked | undefined {
  const { message, finding } = remark
  if (!finding) return undefined
  const known = remarked.get(remark)
  if (known?.told.dialects[0] === dialect.name) return known
  const { rule, weight, column, fix } = finding
  const about = { rule, severity: weight, message, dialects: [dialect.name] }
  const told: Told = { ...about, ...(column !== undefined && { column }), ...(fix && { fix }) }
  const key = JSON.stringify({ ...told, message: plain(message, dialect), dialects: [] })
  remarked.set(remark, { told, key })
  return { told, key }
}

/** A message as it is whichever dialect it is about. */
const plain = (message: string, { title }: Dialect): string => message.replaceAll(title, '')

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
