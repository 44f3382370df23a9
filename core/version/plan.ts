import type { Design } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Dialect, Remark } from '../dialect/dialect.ts'
import type { Keepsake, MigrationInput } from '../dialect/migration.ts'
import type { Step } from '../dialect/step.ts'
import { stepsOf } from '../dialect/steps.ts'
import { hash, NameGiver } from '../naming/fit.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { lookedUpIn, movesBetween, readOnTheWay, type Moves } from './moves.ts'
import { carriedIn, leftOut, losses, newlyHeld, unconvertible, unfillable, type Warning } from './warnings.ts'

/** A migration from one state of a design to another, and back. */
export interface MigrationPlan {
  up: Statement[]
  down: Statement[]
  /** What they say, by ids and without a dialect. */
  steps: { up: Step[]; down: Step[] }
  /** What the two steps move. */
  moves: { up: Moves; down: Moves }
  /**
   * What the up step keeps so that the down step can restore it. They stay until the down step, or a
   * person, drops them.
   */
  keepsakes: Keepsake[]
  warnings: { up: Warning[]; down: Warning[] }
  remarks: Remark[]
}

/**
 * The migration between two states of a design in a dialect. The up step keeps aside whatever it drops;
 * the down step puts it back, so that down after up is where one began, schema and rows.
 */
export function planMigration(from: Design, to: Design, dialect: Dialect): MigrationPlan {
  const before = dialect.catalog(from)
  const after = dialect.catalog(to)
  // The same change of schema gives the same names, whatever the rows.
  const tail = hash(JSON.stringify([before.catalog, after.catalog]))
  const names = new NameGiver(dialect.facts.nameLimit)
  const { keepsakes, warnings, early } = findKeepsakes(from, to, {
    after: after.catalog,
    // What is read from elsewhere on the way back need not be kept.
    back: lookedUpIn(movesBetween(to, from).flow),
    nameFor: (table) => names.give(`keepsake_${table}_${tail}`)
  })
  const there = movesBetween(from, to, early)
  const back = movesBetween(to, from, readOnTheWay(to, from, keptColumns(from, keepsakes)))
  const inputs: Record<'up' | 'down', MigrationInput> = {
    up: {
      from: before.catalog,
      to: after.catalog,
      keep: keepsakes,
      restore: [],
      early: there.early,
      flow: there.flow,
      state: there.grown
    },
    down: {
      from: after.catalog,
      to: before.catalog,
      keep: [],
      restore: keepsakes,
      early: back.early,
      flow: back.flow,
      state: back.grown
    }
  }
  const steps = { up: stepsOf(inputs.up, dialect), down: stepsOf(inputs.down, dialect) }
  return {
    up: dialect.migrate(inputs.up, steps.up),
    down: dialect.migrate(inputs.down, steps.down),
    steps,
    moves: { up: there, down: back },
    keepsakes,
    warnings: {
      up: [
        ...warnings,
        ...unconvertible(from, to),
        ...unfillable(from, to, after.catalog, there),
        ...newlyHeld(from, to, there),
        ...carriedIn(from, to, there, after.catalog),
        ...leftOut(there)
      ],
      down: [
        ...losses(to, from, back),
        ...unconvertible(to, from),
        ...unfillable(to, from, before.catalog, back, keepsakes),
        ...newlyHeld(to, from, back),
        ...carriedIn(to, from, back, before.catalog),
        ...leftOut(back)
      ]
    },
    remarks: after.remarks
  }
}
