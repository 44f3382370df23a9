import type { Design } from '../design/model.ts'
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
/** What was found, and whether the rulings were judged by then. */
const byDesign = new WeakMap<Design, { found: ReadonlyMap<string, readonly Finding[]>; isWhole: boolean }>()

/**
 * Every finding, by the id of its table; worked out again only for tables that changed. Another system's
 * tables are left alone.
 */
export function findingsIn(design: Design): ReadonlyMap<string, readonly Finding[]> {
  let known = byDesign.get(design)
  const isWhole = known?.isWhole === true || judgedSoon(design) !== undefined
  if (!known || known.isWhole !== isWhole) {
    const dialects = dialectsOf(design)
    const looking = new Looking(design, dialects, design.dialects.length > 0)
    const all = new Map<string, readonly Finding[]>()
    for (const table of design.tables) {
      const findings = table.external ? NOTHING : inRank(RULES.map((rule) => looking.find(rule, table)))
      if (findings.length > 0) all.set(table.id, findings)
    }
    byDesign.set(design, (known = { found: all, isWhole }))
  }
  return known.found
}

/** What was found on one table, the most serious first. */
export const findingsOn = (design: Design, table: string): readonly Finding[] =>
  findingsIn(design).get(table) ?? NOTHING
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
