import type { Design } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Remark } from '../dialect/dialect.ts'
import type { Migrating } from '../dialect/index.ts'
import type { Composed } from '../carry/compose.ts'
import type { Keepsake } from '../dialect/migration.ts'
import { hash, NameGiver } from '../naming/fit.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { movesBetween } from './moves.ts'
import { carriedIn, leftOut, losses, newlyHeld, unconvertible, unfillable, type Warning } from './warnings.ts'

/** A migration from one state of a design to another, and back. */
export interface MigrationPlan {
  up: Statement[]
  down: Statement[]
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
export function planMigration(from: Design, to: Design, dialect: Migrating): MigrationPlan {
  const before = dialect.catalog(from)
  const after = dialect.catalog(to)
  // The same change of schema gives the same names, whatever the rows.
  const tail = hash(JSON.stringify([before.catalog, after.catalog]))
  const there = movesBetween(from, to, after.catalog)
  const keep = (back: Composed | undefined): ReturnType<typeof findKeepsakes> => {
    const names = new NameGiver(dialect.facts.nameLimit)
    return findKeepsakes(from, to, {
      after: after.catalog,
      early: there.early,
      back: back?.fills ?? [],
      nameFor: (table) => names.give(`keepsake_${table}_${tail}`)
    })
  }
  // What is put back can be read on the way back; what is read from elsewhere need not be kept.
  const back = movesBetween(to, from, before.catalog, keptColumns(from, keep(undefined).keepsakes))
  const { keepsakes, warnings, early } = keep(back.flow)
  const up = dialect.migrate({
    from: before.catalog,
    to: after.catalog,
    keep: keepsakes,
    restore: [],
    early,
    flow: there.flow,
    state: there.grown
  })
  const down = dialect.migrate({
    from: after.catalog,
    to: before.catalog,
    keep: [],
    restore: keepsakes,
    early: back.early,
    flow: back.flow,
    state: back.grown
  })
  return {
    up,
    down,
    keepsakes,
    warnings: {
      up: [
        ...warnings,
        ...unconvertible(from, to),
        ...unfillable(from, to, after.catalog, there),
        ...newlyHeld(from, to, there),
        ...carriedIn(to, there, after.catalog),
        ...leftOut(there)
      ],
      down: [
        ...losses(to, from, back),
        ...unconvertible(to, from),
        ...unfillable(to, from, before.catalog, back, keepsakes),
        ...newlyHeld(to, from, back),
        ...carriedIn(from, back, before.catalog),
        ...leftOut(back)
      ]
    },
    remarks: after.remarks
  }
}
