import type { Design, Table } from '../design/model.ts'
import type { Operation } from '../edit/operation.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { Weight } from '../dialect/remark.ts'
import { listed } from '../design/words.ts'

export type Severity = Weight

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

/** What a rule may ask besides its table. */
export interface RuleContext {
  design: Design
  /** What the design is written for; `named` where it says so itself. */
  dialects: readonly Dialect[]
  named: boolean
}

/**
 * A rule looks at one table. It asks of the design only its policy, lists, schemas and dialects, and what
 * `others` gives: what it found stays until one of these is another value.
 */
export interface Rule {
  name: string
  /** What the rule asks of the other tables; the very same value as long as that is the same. */
  others?(design: Design, table: Table): unknown
  find(table: Table, context: RuleContext): Found[]
}

/** What a rule finds; `rule` where it is not called as the rule is. */
export type Found = Omit<Finding, 'rule' | 'table'> & { rule?: string }

/** The dialects that something is about, in words: `MariaDB and Oracle`. */
export function titles(dialects: readonly Dialect[]): string {
  return listed(dialects.map(({ title }) => title))
}
