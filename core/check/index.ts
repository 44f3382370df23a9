import type { Design, Table } from '../design/model.ts'
import { judgedSoon } from '../rehearse/ruling.ts'
import { dialectsOf } from '../dialect/index.ts'
import type { Finding, Rule, RuleContext, Severity } from './finding.ts'
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
/** Those that ask nothing of the other tables, and those that do. */
const [LOCAL, GLOBAL] = [RULES.filter((rule) => !rule.others), RULES.filter((rule) => rule.others)]

const RANK: Record<Severity, number> = { refused: 0, wrong: 1, doubtful: 2 }

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
    const context: RuleContext = { design, dialects: dialectsOf(design), named: design.dialects.length > 0 }
    const shared = [design.policy, design.enums, design.dialects, design.oldest]
    const all = new Map<string, readonly Finding[]>()
    for (const table of design.tables) {
      if (table.external) continue
      const findings = merged(
        table,
        remembered(local, LOCAL, table, context, shared),
        remembered(global, GLOBAL, table, context, [
          ...shared,
          ...GLOBAL.map((rule) => rule.others?.(design, table))
        ])
      )
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

/** What rules found on a table, and what they had asked of the design. */
type Memory = WeakMap<Table, { asked: readonly unknown[]; findings: readonly Finding[] }>
const local: Memory = new WeakMap()
const global: Memory = new WeakMap()

function remembered(
  memory: Memory,
  rules: readonly Rule[],
  table: Table,
  context: RuleContext,
  asked: readonly unknown[]
): readonly Finding[] {
  const before = memory.get(table)
  if (before?.asked.every((each, at) => each === asked[at])) return before.findings
  const findings = rules.flatMap((rule) =>
    rule.find(table, context).map((finding) => ({ rule: rule.name, ...finding, table: table.id }))
  )
  memory.set(table, { asked, findings })
  return findings
}

const before = new WeakMap<
  Table,
  { local: readonly Finding[]; global: readonly Finding[]; all: readonly Finding[] }
>()

/**
 * Both kinds together, the most serious first; the same value as before where the same was found. What a
 * fix would do is worked out anew and may be another id.
 */
function merged(table: Table, local: readonly Finding[], global: readonly Finding[]): readonly Finding[] {
  const old = before.get(table)
  if (
    old?.local === local &&
    (old.global === global ||
      (old.global.length === global.length &&
        old.global.every((each, at) => each.message === global[at]?.message)))
  )
    return old.all
  const all = [...local, ...global].sort((a, b) => RANK[a.severity] - RANK[b.severity])
  before.set(table, { local, global, all })
  return all
}
