import type { Design } from '../design/model.ts'
import { textOf, type Catalog, type CatalogTable } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { Composed } from '../carry/compose.ts'
import { once } from '../once.ts'
import type { MigrationInput, ColumnOfTable } from '../dialect/migration.ts'
import type { WayInput } from '../dialect/step.ts'
import { stepsOf } from '../dialect/steps.ts'
import { hash, NameGiver } from '../naming/fit.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { filledWhereEmpty, lookedUpIn, movesBetween, readOnTheWay, type Moves } from './moves.ts'
import type { Warning } from './warnings.ts'

/** The two ways between two states. The way back is the way there of the states the other way round. */
export interface Ways {
  up: OneWay
  down: OneWay
}

/** A way by its steps, with what it moves and what is to be known of it. */
export interface OneWay extends WayInput {
  moves: Moves
  /** What is told of what it keeps aside. */
  warnings: Warning[]
}

/** The ways between two states of a design in a dialect, as steps. */
export function waysBetween(from: Design, to: Design, dialect: Dialect): Ways {
  const [up, down] = [movesBetween(from, to).flow, movesBetween(to, from).flow]
  const there = keptBetween(from, to, dialect, up, down)
  const back = keptBetween(to, from, dialect, down, up)
  return { up: oneWay(from, to, dialect, there, back), down: oneWay(to, from, dialect, back, there) }
}

/** What names of a way's own tables end with: the same for the same change of schema, whatever the rows. */
const tailOf = (from: Design, to: Design, dialect: Dialect): string =>
  hash([from, to].map((design) => hashOf(dialect.catalog(design).catalog)).join(' '))

const hashOf = once(({ schemas, enums, tables }: Catalog): string =>
  hash([JSON.stringify([schemas, enums]), ...tables.map(hashOfTable)].join(' '))
)

/** A table that is in both states is looked at once. */
const hashOfTable = once((table: CatalogTable): string => hash(textOf(table)))

type Kept = ReturnType<typeof findKeepsakes>

function keptBetween(from: Design, to: Design, dialect: Dialect, there: Composed, back: Composed): Kept {
  const names = new NameGiver(dialect.facts.nameLimit, dialect.facts.refusedInNames)
  return findKeepsakes(from, to, {
    before: dialect.catalog(from).catalog,
    after: dialect.catalog(to).catalog,
    there,
    back,
    // What was filled in once is the row's own from then on.
    filled: lookedUpIn(back).filter((fill) => !fill.whereEmpty),
    inPart: back.fills.filter(({ partly, whereEmpty }) => partly && !whereEmpty),
    emptied: filledWhereEmpty(from, to),
    isStopped: !dialect.facts.rollsBack,
    nameFor: (table) => names.give(`keepsake_${table}_${tailOf(from, to, dialect)}`)
  })
}

function oneWay(from: Design, to: Design, dialect: Dialect, keeps: Kept, restores: Kept): OneWay {
  const isEarly = ({ table, column }: ColumnOfTable): boolean =>
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
  return {
    // Most ways are not asked for it.
    get id() {
      return tailOf(from, to, dialect)
    },
    input,
    steps: stepsOf(input, dialect),
    moves,
    warnings: keeps.warnings
  }
}
