import type { Design } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { MigrationInput, Place } from '../dialect/migration.ts'
import type { WayInput } from '../dialect/restart.ts'
import { stepsOf } from '../dialect/steps.ts'
import { hash, NameGiver } from '../naming/fit.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { lookedUpIn, movesBetween, readOnTheWay, type Moves } from './moves.ts'
import type { Warning } from './warnings.ts'

/** The two ways between two states, each by its steps, with what it moves and what is to be known of it. */
export interface Ways {
  /** What names of a migration's own tables end with: the same for the same change, whatever the rows. */
  tail: string
  up: OneWay
  down: OneWay
}

export interface OneWay extends WayInput {
  moves: Moves
  /** What is told of what it keeps aside. */
  warnings: Warning[]
}

/** The ways between two states of a design in a dialect, as steps. */
export function waysBetween(from: Design, to: Design, dialect: Dialect): Ways {
  const tail = hash(JSON.stringify([dialect.catalog(from).catalog, dialect.catalog(to).catalog]))
  const { nameLimit, refusedInNames } = dialect.facts
  const names = new NameGiver(nameLimit, refusedInNames)
  const kept = keptBetween(from, to, dialect, (table) => names.give(`keepsake_${table}_${tail}`))
  // What is written by then has no place in the state before: the next way up finds it again.
  const since = keptBetween(to, from, dialect, (table) => names.give(`since_${table}_${tail}`))
  return {
    tail,
    up: oneWay(from, to, dialect, kept, since),
    down: oneWay(to, from, dialect, since, kept)
  }
}

type Kept = ReturnType<typeof findKeepsakes>

function keptBetween(from: Design, to: Design, dialect: Dialect, nameFor: (table: string) => string): Kept {
  const back = movesBetween(to, from).flow
  return findKeepsakes(from, to, {
    after: dialect.catalog(to).catalog,
    back,
    filled: lookedUpIn(back),
    isStopped: !dialect.facts.rollsBack,
    nameFor
  })
}

function oneWay(from: Design, to: Design, dialect: Dialect, keeps: Kept, restores: Kept): OneWay {
  const isEarly = ({ table, column }: Place): boolean =>
    keeps.early.some((place) => place.table === table && place.column === column)
  const read = readOnTheWay(from, to, keptColumns(to, restores.keepsakes))
  const moves = movesBetween(from, to, [...keeps.early, ...read.filter((place) => !isEarly(place))])
  const input: MigrationInput = {
    from: dialect.catalog(from).catalog,
    to: dialect.catalog(to).catalog,
    keep: keeps.keepsakes,
    restore: restores.keepsakes,
    early: moves.early,
    flow: moves.flow,
    state: moves.grown,
    after: to
  }
  return { input, steps: stepsOf(input, dialect), moves, warnings: keeps.warnings }
}
