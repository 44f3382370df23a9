import { sortOfType } from '../../design/expressions.ts'
import type { Type } from '../../design/type.ts'
import type { ComputedFacts, ReferenceFacts } from '../facts.ts'

/** What a computed column may be (PostgreSQL manual, 5.4). */
export const computed: ComputedFacts = {
  fromComputed: false,
  fromCounted: true,
  required: true,
  inPrimaryKey: true,
  // PostgreSQL 17 works such parts out before it has told their collation, and fails on texts.
  folded: true
}

const RANK: Partial<Record<Type['kind'], number>> = { integer: 0, decimal: 1, float: 2 }
const isZoned = (type: Type): boolean => type.kind === 'timestamp' && type.zone

/**
 * There must be an operator that compares the two, once what refers is cast, without being told, to what is
 * referred to (PostgreSQL manual, CREATE TABLE, REFERENCES; 10.4).
 */
export const references: ReferenceFacts = {
  types: ({ type: from }, { type: to }) => {
    if (from.kind === 'native' || to.kind === 'native') return 'taken'
    if (from.kind === 'enum' || to.kind === 'enum')
      return from.kind === to.kind && 'enum' in from && 'enum' in to && from.enum === to.enum
        ? 'taken'
        : 'refused'
    const [own, its] = [RANK[from.kind], RANK[to.kind]]
    if (own !== undefined && its !== undefined) return own <= its ? 'taken' : 'refused'
    if (from.kind === 'time' && to.kind === 'interval') return 'otherwise'
    const isMoment = ({ kind }: Type): boolean => kind === 'date' || kind === 'timestamp'
    // Which moment a day, or one without a zone, is hangs on the session.
    if (isMoment(from) && isMoment(to)) return isZoned(from) === isZoned(to) ? 'taken' : 'otherwise'
    return sortOfType(from) === sortOfType(to) ? 'taken' : 'refused'
  },
  changingComputed: 'table',
  indexesComputed: false
}
