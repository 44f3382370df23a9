import type { Design } from '../design/model.ts'
import type { Statement } from '../dialect/catalog.ts'
import type { Dialect } from '../dialect/dialect.ts'
import type { Remark } from '../dialect/remark.ts'
import type { Keepsake } from '../dialect/migration.ts'
import { takenFromSeveral } from './picked.ts'
import { schemaDelta } from './delta.ts'
import { carriedChecks } from './carried-checks.ts'
import { newlyHeld } from './held.ts'
import { movedUnfit } from './moved-types.ts'
import type { Moves } from './moves.ts'
import {
  carriedIn,
  leftEmpty,
  leftOut,
  neededFirst,
  standLast,
  stopsWhere,
  unconvertible,
  unfillable,
  type Warning
} from './warnings.ts'
import { sharing } from './sharing.ts'
import { waysBetween, type Ways } from './ways.ts'

/** A migration from one state of a design to another, and back. */
export interface MigrationPlan {
  /** For the version of its engine that the state it leads to is for. */
  dialect: Dialect
  up: Statement[]
  down: Statement[]
  /** What they are written from: their steps, by ids and without a dialect. */
  ways: Ways
  /** What the two ways move. */
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
export function planMigration(from: Design, reached: Design, anyVersion: Dialect): MigrationPlan {
  const dialect = anyVersion.for(reached)
  const to = sharing(from, reached)
  const ways = waysBetween(from, to, dialect)
  const { up, down } = ways
  const delta = { up: schemaDelta(from, to), down: schemaDelta(to, from) }
  return {
    dialect,
    up: dialect.migrate(up.input, up.steps),
    down: dialect.migrate(down.input, down.steps),
    ways,
    moves: { up: up.moves, down: down.moves },
    keepsakes: { up: up.input.keep, down: down.input.keep },
    warnings: {
      up: [
        ...up.warnings,
        ...neededFirst(up.input.from, up.input.to),
        ...unconvertible(delta.up, from, to),
        ...unfillable(from, to, up.input.to, up.moves),
        ...newlyHeld(delta.up, from, to, up.moves),
        ...carriedIn(from, to, up.moves, up.input.to),
        ...carriedChecks(from, to, up.moves),
        ...movedUnfit(to, up.moves),
        ...stopsWhere(up.moves),
        ...takenFromSeveral(from, to, up.moves),
        ...leftOut(up.moves),
        ...leftEmpty(from, to, up.moves),
        ...standLast(up.steps, up.input.from, up.input.to, dialect)
      ],
      down: [
        ...down.warnings,
        ...neededFirst(down.input.from, down.input.to),
        ...unconvertible(delta.down, to, from),
        ...unfillable(to, from, down.input.to, down.moves, down.input.restore),
        ...newlyHeld(delta.down, to, from, down.moves),
        ...carriedIn(to, from, down.moves, down.input.to),
        ...carriedChecks(to, from, down.moves),
        ...movedUnfit(from, down.moves),
        ...stopsWhere(down.moves),
        ...takenFromSeveral(to, from, down.moves),
        ...leftOut(down.moves),
        ...standLast(down.steps, down.input.from, down.input.to, dialect)
      ]
    },
    remarks: dialect.catalog(to).remarks
  }
}
