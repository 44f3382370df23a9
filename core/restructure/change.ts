import type { Column, Design, ForeignKey, Table } from '../design/model.ts'
import type { Parsed } from '../design/type.ts'
import type { Operation } from '../edit/operation.ts'

/** Where a change of mind is asked for: a table, or one of its relationships to what it refers to. */
export interface ChangePlace {
  table: Table
  foreignKey?: ForeignKey | undefined
}

interface Option {
  value: string
  words: string
}

/** Something that is to be said before a change is done; what is proposed is taken when nothing is. */
export type ChangeQuestion = OptionQuestion | Several | Naming

/** Which one of some. */
export interface OptionQuestion {
  id: string
  kind: 'choice'
  asks: string
  options: readonly Option[]
  proposed: string
}

/** Which of some, as many as one likes. */
export interface Several {
  id: string
  kind: 'several'
  asks: string
  options: readonly Option[]
  proposed: readonly string[]
}

/** What something new is called. */
export interface Naming {
  id: string
  kind: 'name'
  asks: string
  proposed: string
}

export type Answers = Readonly<Record<string, string | readonly string[]>>

/** A change of mind as it is offered. */
export interface ChangeOffer {
  /** Which kind of change it is; the same for the same change at another place. */
  kind: string
  /** The sentence that it makes true. */
  says: string
  /** The trade's term. */
  term: string
  asks: readonly ChangeQuestion[]
  /** What carries it out as it was answered, as one step; or why it cannot be, and what would let it. */
  operation(answers?: Answers): Parsed<Operation>
}

/** A kind of change of mind: which of it fit a place. */
export type ChangeOfMind = (design: Design, place: ChangePlace) => ChangeOffer[]

/** What is answered to a question of which one is chosen or named. */
export function answerTo(ask: OptionQuestion | Naming, answers: Answers = {}): string {
  const given = answers[ask.id]
  const said = typeof given === 'string' ? given.trim() : ''
  if (ask.kind === 'name') return said || ask.proposed
  return ask.options.some(({ value }) => value === said) ? said : ask.proposed
}

/** Those that are answered to a question of which ones, in their order. */
export function thoseOf(ask: Several, answers: Answers = {}): string[] {
  const given = answers[ask.id]
  const wanted = typeof given === 'string' ? [given] : (given ?? ask.proposed)
  return ask.options.map(({ value }) => value).filter((value) => wanted.includes(value))
}

/** Which columns: by their ids. */
export function askColumns(
  id: string,
  asks: string,
  columns: readonly Column[],
  proposed: readonly string[]
): Several {
  return {
    id,
    kind: 'several',
    asks,
    options: columns.map((each) => ({ value: each.id, words: each.name })),
    proposed
  }
}

/** Which of several rows has the say, where only one can: none may be there, or the first or last by their key. */
export function askWhich(id: string, asks: string, of: string): OptionQuestion {
  return {
    id,
    kind: 'choice',
    asks,
    proposed: 'none',
    options: [
      { value: 'none', words: 'it stops' },
      { value: 'first', words: `the first ${of} by its key is taken` },
      { value: 'last', words: `the last ${of} by its key is taken` }
    ]
  }
}
