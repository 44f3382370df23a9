import { columnOf, keysOf, sameSet } from '../design/directory.ts'
import type { Action, ForeignKey, Table } from '../design/model.ts'
import { isIdentifying } from './junction.ts'
import { article, plural } from '../naming/words.ts'

/** A relationship as it follows from keys and nulls, and as two sentences say it. */
export interface Reading {
  /** How many parents each child has. */
  ofChild: 'exactly one' | 'at most one'
  /** How many children each parent has. */
  ofParent: 'at most one' | 'any number of' | 'at least one' | 'exactly one'
  identifying: boolean
  verbs: { child: string; parent: string }
}

/** What each relationship says until its designer gives it words of their own. */
const DEFAULT_VERBS = { child: 'has', parent: 'has' }

/** How many children a parent has, by the least and the most of them. */
const HOW_MANY = {
  none: { one: 'at most one', many: 'any number of' },
  some: { one: 'exactly one', many: 'at least one' }
} as const

/** Whether a parent has at most one child. */
export const isSingle = ({ ofParent }: Pick<Reading, 'ofParent'>): boolean =>
  ofParent === 'at most one' || ofParent === 'exactly one'

/**
 * The cardinality of a foreign key: optional where a column of it may be empty, at most one where its
 * columns hold a key of their own table.
 */
export function readingOf(child: Table, foreignKey: ForeignKey): Reading {
  const columns = foreignKey.pairs.map((pair) => pair.column)
  const required = columns.every((id) => columnOf(child, id)?.required)
  const keys = keysOf(child)
  const one = keys.some(
    (key) => sameSet(key.columns, columns) || key.columns.every((id) => columns.includes(id))
  )
  return {
    ofChild: required ? 'exactly one' : 'at most one',
    ofParent: HOW_MANY[foreignKey.atLeastOne ? 'some' : 'none'][one ? 'one' : 'many'],
    identifying: isIdentifying(child, foreignKey),
    verbs: foreignKey.verbs ?? DEFAULT_VERBS
  }
}

/** A sentence in parts: the words around the choice. `Each admission has` · `exactly one` · `patient.` */
export interface Sentence<Choice extends string = string> {
  before: string
  choice: Choice
  after: string
}

/** “Each admission is of *exactly one* patient.” and “Each patient has *any number of* admissions.” */
export function cardinalitySentences(
  child: Table,
  parent: Table,
  reading: Reading
): { child: Sentence<Reading['ofChild']>; parent: Sentence<Reading['ofParent']> } {
  return {
    child: {
      before: `Each ${child.name} ${reading.verbs.child}`,
      choice: reading.ofChild,
      after: `${parent.name}.`
    },
    parent: {
      before: `Each ${parent.name} ${reading.verbs.parent}`,
      choice: reading.ofParent,
      after: `${reading.ofParent === 'any number of' ? plural(child.name) : child.name}.`
    }
  }
}

/** What a rule does, for colour and for the eye: nothing without words beside it. */
export type ActionEffect = 'refused' | 'deleted' | 'emptied' | 'changed' | 'defaulted'

/** What happens to the children when a parent is deleted, in words, and the effect that it stands for. */
export function deleteWords(
  action: Action,
  child: string,
  many: boolean
): { words: string; effect: ActionEffect } {
  const children = many ? plural(child) : child
  switch (action) {
    case 'NO ACTION':
      return {
        words: many
          ? `is refused if ${children} still refer to it in the end`
          : `is refused if ${article(child)} ${child} still refers to it in the end`,
        effect: 'refused'
      }
    case 'RESTRICT':
      return {
        words: `is refused while ${many ? `${children} refer` : `${article(child)} ${child} refers`} to it`,
        effect: 'refused'
      }
    case 'CASCADE':
      return { words: `deletes its ${children} too`, effect: 'deleted' }
    case 'SET NULL':
      return { words: `empties it in its ${children}`, effect: 'emptied' }
    case 'SET DEFAULT':
      return { words: `puts the default in its ${children}`, effect: 'defaulted' }
  }
}

/** What happens to the children when a parent's key changes. */
export function updateWords(
  action: Action,
  child: string,
  many: boolean
): { words: string; effect: ActionEffect } {
  const children = many ? plural(child) : child
  if (action === 'CASCADE') return { words: `changes it in its ${children} too`, effect: 'changed' }
  return deleteWords(action, child, many)
}
