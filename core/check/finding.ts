import type { Design, Table } from '../design/model.ts'
import type { Operation } from '../edit/operation.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { Weight } from '../dialect/remark.ts'
import { listed } from '../design/words.ts'

export type Severity = Weight

const RANK: Record<Severity, number> = { refused: 0, wrong: 1, doubtful: 2 }
/** The more serious of two findings comes first. */
export const bySeverity = (one: Finding, other: Finding): number => RANK[one.severity] - RANK[other.severity]

/**
 * Something that is wrong or doubtful, where, and what would mend it. `fix.says` tells what it will
 * change.
 */
export interface Finding {
  rule: string
  severity: Severity
  table: string
  /** The column concerned, where there is one. */
  column?: string
  message: string
  fix?: { label: string; operation: Operation }
  /** The dialects that it is about, by name; all where there are none. */
  dialects?: string[]
}

/** Asks the design something; the answer depends on nothing else than the design and what is asked about. */
export type Ask = <About extends readonly unknown[], Answer>(
  question: (design: Design, ...about: About) => Answer,
  ...about: About
) => Answer

/** What a rule may go by besides its table. */
export interface RuleContext {
  /** The only way to the design: what was found stays until something that was asked has another answer. */
  ask: Ask
  /** What the design is written for; `named` where it says so itself. */
  dialects: readonly Dialect[]
  named: boolean
}

/** A rule looks at one table. */
export interface Rule {
  name: string
  find(table: Table, context: RuleContext): Found[]
}

/** What a rule finds; `rule` where it is not called as the rule is. */
export type Found = Omit<Finding, 'rule' | 'table'> & { rule?: string }

/** The dialects that something is about, in words: `MariaDB and Oracle`. */
export function titles(dialects: readonly Dialect[]): string {
  return listed(dialects.map(({ title }) => title))
}
