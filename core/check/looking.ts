import equal from 'fast-deep-equal/es6/index.js'
import type { Design, Table } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { Ask, Finding, Rule } from './finding.ts'

/** Something that a rule asked of a design, and the answer. */
interface Asked {
  question: (design: Design, ...about: readonly unknown[]) => unknown
  about: readonly unknown[]
  answer: unknown
}

/** What a rule found on a table, and all that it went by. */
interface Known {
  dialects: readonly Dialect[]
  named: boolean
  asked: Asked[]
  found: readonly Finding[]
}

/** What each rule found on a table that is still the very same. */
const known = new WeakMap<Table, Map<Rule, Known>>()

/**
 * Looks through a design by the rules. What a rule found on a table stays as long as the table is the same and all that
 * it asked of the design has the same answer: it is asked again, in the same order, so that a question that follows
 * from an answer is never asked where that answer is another one.
 */
export class Looking {
  /** Whether two answers are the same, by both, to questions that many tables have asked. */
  private readonly compared = new WeakMap<object, { other: unknown; isSame: boolean }>()

  constructor(
    private readonly design: Design,
    private readonly dialects: readonly Dialect[],
    private readonly named: boolean
  ) {}

  /** What a rule finds on a table; the very same value as before where it is the same. */
  find(rule: Rule, table: Table): readonly Finding[] {
    let ofTable = known.get(table)
    if (!ofTable) known.set(table, (ofTable = new Map()))
    const before = ofTable.get(rule)
    if (before && this.holds(before)) return before.found
    const { design, dialects, named } = this
    const asked: Asked[] = []
    const ask: Ask = (question, ...about) => {
      const answer = question(design, ...about)
      asked.push({ question: question as Asked['question'], about, answer })
      return answer
    }
    const now = rule
      .find(table, { ask, dialects, named })
      .map((finding): Finding => ({ rule: rule.name, ...finding, table: table.id }))
    const found = before && equal(before.found, now) ? before.found : now
    ofTable.set(rule, { dialects, named, asked, found })
    return found
  }

  private holds(before: Known): boolean {
    const { dialects, named } = before
    const isForTheSame =
      named === this.named &&
      dialects.length === this.dialects.length &&
      dialects.every((each, at) => each === this.dialects[at])
    return isForTheSame && before.asked.every((each) => this.isAnsweredAlike(each))
  }

  private isAnsweredAlike(asked: Asked): boolean {
    const { question, about, answer: before } = asked
    const now = question(this.design, ...about)
    const isSame = before === now || (about.length > 0 ? equal(before, now) : this.areSame(before, now))
    // The newer is kept: it is the one that the next design is likely to have in part, and the older can go.
    if (isSame) asked.answer = now
    return isSame
  }

  private areSame(one: unknown, other: unknown): boolean {
    if (typeof one !== 'object' || one === null) return false
    const before = this.compared.get(one)
    if (before && before.other === other) return before.isSame
    const isSame = equal(one, other)
    this.compared.set(one, { other, isSame })
    return isSame
  }
}
