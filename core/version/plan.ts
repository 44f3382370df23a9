import type { Design } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Dialect, Remark } from '../dialect/dialect.ts'
import type { Keepsake, MigrationInput, Place } from '../dialect/migration.ts'
import type { WayInput } from '../dialect/restart.ts'
import type { Step } from '../dialect/step.ts'
import { stepsOf } from '../dialect/steps.ts'
import { hash, NameGiver } from '../naming/fit.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { lookedUpIn, movesBetween, readOnTheWay, type Moves } from './moves.ts'
import { carriedIn, leftOut, newlyHeld, unconvertible, unfillable, type Warning } from './warnings.ts'

/** A migration from one state of a design to another, and back. */
export interface MigrationPlan {
  up: Statement[]
  down: Statement[]
  /** What they are written from. */
  ways: Record<'up' | 'down', WayInput>
  /** The same, but for names that go by what changes: of tables that a migration has of its own. */
  tail: string
  /** What they say, by ids and without a dialect. */
  steps: { up: Step[]; down: Step[] }
  /** What the two steps move. */
  moves: { up: Moves; down: Moves }
  /**
   * What each way keeps so that the other can put it back. They stay until that, or a person, drops them.
   */
  keepsakes: { up: Keepsake[]; down: Keepsake[] }
  warnings: { up: Warning[]; down: Warning[] }
  remarks: Remark[]
}

/**
 * The migration between two states of a design in a dialect. Each way keeps aside whatever it drops, and
 * the other puts it back: down after up is where one began, schema and rows, and up after that finds what
 * was written in between.
 */
export function planMigration(from: Design, to: Design, dialect: Dialect): MigrationPlan {
  const before = dialect.catalog(from)
  const after = dialect.catalog(to)
  // The same change of schema gives the same names, whatever the rows.
  const tail = hash(JSON.stringify([before.catalog, after.catalog]))
  const { nameLimit, refusedInNames } = dialect.facts
  const names = new NameGiver(nameLimit, refusedInNames)
  const [thereFlow, backFlow] = [movesBetween(from, to).flow, movesBetween(to, from).flow]
  const kept = findKeepsakes(from, to, {
    after: after.catalog,
    back: backFlow,
    // What is read from elsewhere on the way back need not be kept, unless one may be stopped half-way.
    filled: dialect.facts.rollsBack ? lookedUpIn(backFlow) : [],
    nameFor: (table) => names.give(`keepsake_${table}_${tail}`)
  })
  // What is written by then has no place in the state before: the next way up finds it again.
  const since = findKeepsakes(to, from, {
    after: before.catalog,
    back: thereFlow,
    filled: dialect.facts.rollsBack ? lookedUpIn(thereFlow) : [],
    nameFor: (table) => names.give(`since_${table}_${tail}`)
  })
  const there = movesBetween(from, to, [
    ...kept.early,
    ...readOnTheWay(from, to, keptColumns(to, since.keepsakes)).filter(
      (place) => !includes(kept.early, place)
    )
  ])
  const back = movesBetween(to, from, [
    ...since.early,
    ...readOnTheWay(to, from, keptColumns(from, kept.keepsakes)).filter(
      (place) => !includes(since.early, place)
    )
  ])
  const inputs: Record<'up' | 'down', MigrationInput> = {
    up: {
      from: before.catalog,
      to: after.catalog,
      keep: kept.keepsakes,
      restore: since.keepsakes,
      early: there.early,
      flow: there.flow,
      state: there.grown,
      after: to
    },
    down: {
      from: after.catalog,
      to: before.catalog,
      keep: since.keepsakes,
      restore: kept.keepsakes,
      early: back.early,
      flow: back.flow,
      state: back.grown,
      after: from
    }
  }
  const steps = { up: stepsOf(inputs.up, dialect), down: stepsOf(inputs.down, dialect) }
  return {
    up: dialect.migrate(inputs.up, steps.up),
    down: dialect.migrate(inputs.down, steps.down),
    steps,
    tail,
    ways: { up: { input: inputs.up, steps: steps.up }, down: { input: inputs.down, steps: steps.down } },
    moves: { up: there, down: back },
    keepsakes: { up: kept.keepsakes, down: since.keepsakes },
    warnings: {
      up: [
        ...kept.warnings,
        ...unconvertible(from, to),
        ...unfillable(from, to, after.catalog, there),
        ...newlyHeld(from, to, there),
        ...carriedIn(from, to, there, after.catalog),
        ...leftOut(there)
      ],
      down: [
        ...since.warnings,
        ...unconvertible(to, from),
        ...unfillable(to, from, before.catalog, back, kept.keepsakes),
        ...newlyHeld(to, from, back),
        ...carriedIn(to, from, back, before.catalog),
        ...leftOut(back)
      ]
    },
    remarks: after.remarks
  }
}

const includes = (places: readonly Place[], { table, column }: Place): boolean =>
  places.some((place) => place.table === table && place.column === column)
