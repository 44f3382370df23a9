import type { Design } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Remark } from '../dialect/dialect.ts'
import type { Migrating } from '../dialect/index.ts'
import type { Keepsake, LookUpStep } from '../dialect/migration.ts'
import { hash, NameGiver } from '../naming/fit.ts'
import { carriesBetween, lookUpsSince } from './carries.ts'
import { findKeepsakes, keptColumns } from './keepsakes.ts'
import { carriedIn, losses, newlyHeld, unconvertible, unfillable, type Warning } from './warnings.ts'

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
  const lookUps = lookUpsSince(from, to)
  const there = carriesBetween(from, to, lookUps.there, after.catalog)
  const keep = (back: readonly LookUpStep[]): ReturnType<typeof findKeepsakes> => {
    const names = new NameGiver(dialect.facts.nameLimit)
    return findKeepsakes(from, to, {
      after: after.catalog,
      early: there.early,
      back,
      nameFor: (table) => names.give(`keepsake_${table}_${tail}`)
    })
  }
  const back = carriesBetween(
    to,
    from,
    lookUps.back,
    before.catalog,
    keptColumns(from, keep([]).keepsakes, lookUps.back)
  )
  const { keepsakes, warnings, early } = keep(back.lookUps)
  const up = dialect.migrate({
    from: before.catalog,
    to: after.catalog,
    keep: keepsakes,
    restore: [],
    carries: there.rows,
    lookUps: there.lookUps,
    early
  })
  const down = dialect.migrate({
    from: after.catalog,
    to: before.catalog,
    keep: [],
    restore: keepsakes,
    carries: [],
    lookUps: back.lookUps,
    early: back.early
  })
  return {
    up,
    down,
    keepsakes,
    warnings: {
      up: [
        ...warnings,
        ...unconvertible(from, to),
        ...unfillable(from, to, after.catalog, there.lookUps),
        ...newlyHeld(from, to, there.lookUps),
        ...carriedIn(from, to, there, after.catalog)
      ],
      down: [
        ...losses(to, from, back.lookUps),
        ...unconvertible(to, from),
        ...unfillable(to, from, before.catalog, back.lookUps, keepsakes),
        ...newlyHeld(to, from, back.lookUps)
      ]
    },
    remarks: after.remarks
  }
}
