import { tableOf } from '../design/directory.ts'
import type { Design, Table, TableId } from '../design/model.ts'
import type { Paused } from '../design/paused.ts'
import { judgedSoon } from '../rehearse/ruling.ts'
import { dialectsOf } from '../dialect/index.ts'
import { bySeverity, type Finding, type Rule } from './finding.ts'
import { Looking } from './looking.ts'
import { cutNames } from './rules/cut-names.ts'
import { hiddenRule } from './rules/hidden-rule.ts'
import { inDialects } from './rules/in-dialects.ts'
import { emptiedRequired } from './rules/emptied-required.ts'
import { brokenRuling } from './rules/broken-ruling.ts'
import { defaultNowhere } from './rules/default-nowhere.ts'
import { directBesideJunction } from './rules/direct-beside-junction.ts'
import { faultyJunction } from './rules/faulty-junction.ts'
import { farCascade } from './rules/far-cascade.ts'
import { followingReference } from './rules/following-reference.ts'
import { floatMoney } from './rules/float-money.ts'
import { halfEmptyReference } from './rules/half-empty-reference.ts'
import { lostFigure } from './rules/lost-figure.ts'
import { longKey } from './rules/long-key.ts'
import { namesFit } from './rules/names.ts'
import { noPrimaryKey } from './rules/no-primary-key.ts'
import { openKey } from './rules/open-key.ts'
import { repeatedGroup } from './rules/repeated-group.ts'
import { rowSecurity } from './rules/row-security.ts'
import { sameRoles } from './rules/same-roles.ts'
import { sameIndex } from './rules/same-index.ts'
import { undeclaredReference } from './rules/undeclared-reference.ts'
import { rowsUnfit } from './rules/unfit-rows.ts'
import { wideKey } from './rules/wide-key.ts'

export const RULES: readonly Rule[] = [
  noPrimaryKey,
  openKey,
  wideKey,
  namesFit,
  cutNames,
  emptiedRequired,
  defaultNowhere,
  farCascade,
  hiddenRule,
  inDialects,
  rowSecurity,
  sameIndex,
  floatMoney,
  repeatedGroup,
  faultyJunction,
  directBesideJunction,
  followingReference,
  sameRoles,
  halfEmptyReference,
  longKey,
  lostFigure,
  brokenRuling,
  undeclaredReference,
  rowsUnfit
]

/** How far a design was looked through, and whether the rulings were judged by then. */
interface Looked {
  looking: Looking
  isWhole: boolean
  byTable: Map<TableId, readonly Finding[]>
  all?: ReadonlyMap<TableId, readonly Finding[]>
}
const looked = new WeakMap<Design, Looked>()

function lookedAt(design: Design): Looked {
  const known = looked.get(design)
  const isWhole = known?.isWhole === true || judgedSoon(design) !== undefined
  if (known?.isWhole === isWhole) return known
  const looking = new Looking(design, dialectsOf(design), design.dialects.length > 0)
  const now = { looking, isWhole, byTable: new Map() }
  looked.set(design, now)
  return now
}

function findIn({ looking, byTable }: Looked, table: Table): readonly Finding[] {
  const known = byTable.get(table.id)
  if (known) return known
  const found = table.external ? NOTHING : inRank(RULES.map((rule) => looking.find(rule, table)))
  byTable.set(table.id, found)
  return found
}

/**
 * Every finding, by the id of its table; worked out again only for tables that changed. Another system's
 * tables are left alone.
 */
export function findingsIn(design: Design): ReadonlyMap<TableId, readonly Finding[]> {
  const now = lookedAt(design)
  now.all ??= new Map(
    design.tables
      .map((table): [TableId, readonly Finding[]] => [table.id, findIn(now, table)])
      .filter(([, found]) => found.length > 0)
  )
  return now.all
}

/** Every finding, looked for with a stop after some tables. */
export function* findingsInTurns(design: Design): Paused<ReadonlyMap<TableId, readonly Finding[]>> {
  const now = lookedAt(design)
  for (const [at, table] of design.tables.entries()) {
    if (at > 0 && at % SOME === 0) yield
    findIn(now, table)
  }
  return findingsIn(design)
}
const SOME = 10

/** What was found on one table, the most serious first; no other is looked at. */
export function findingsOn(design: Design, id: TableId): readonly Finding[] {
  const table = tableOf(design, id)
  return table ? findIn(lookedAt(design), table) : NOTHING
}
const NOTHING: readonly Finding[] = []

/** What each rule found on a table, the most serious first; the same value where each has found the same. */
function inRank(found: readonly (readonly Finding[])[]): readonly Finding[] {
  const some = found.filter((each) => each.length > 0)
  const [first] = some
  if (!first) return NOTHING
  const before = ranked.get(first)
  if (before?.of.length === some.length && before.of.every((each, at) => each === some[at])) return before.all
  const all = some.flat().sort(bySeverity)
  ranked.set(first, { of: some, all })
  return all
}
const ranked = new WeakMap<
  readonly Finding[],
  { of: readonly (readonly Finding[])[]; all: readonly Finding[] }
>()
