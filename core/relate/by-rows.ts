import type { Design, Row, Table } from '../design/model.ts'
import type { Operation } from '../edit/operation.ts'
import type { Parsed } from '../design/type.ts'
import { proposeJunction, proposeRelationship } from './propose.ts'

/** Example rows of two tables that somebody has connected, by their places, and what was answered about that. */
export interface Connected {
  pairs: readonly (readonly [left: number, right: number])[]
  /** Whether one row of the left table may have several of the right, and the other way round; nothing where it was not asked. */
  severalRight?: boolean | undefined
  severalLeft?: boolean | undefined
}

/** What has to be asked: a row of one side has a second on the other. */
export interface RowsQuestion {
  /** On which side the row stands that has several. */
  side: 'left' | 'right'
  place: number
  /** Those that it has, in the order in which they were connected. */
  others: readonly number[]
}

/** The first row that has more than one on the other side where nobody has said whether it may. */
export function askedOf({ pairs, severalRight, severalLeft }: Connected): RowsQuestion | undefined {
  const others = (at: 0 | 1, place: number): number[] =>
    pairs.filter((pair) => pair[at] === place).map((pair) => pair[1 - at] as number)
  for (const [left, right] of pairs) {
    if (severalRight === undefined && others(0, left).length > 1)
      return { side: 'left', place: left, others: others(0, left) }
    if (severalLeft === undefined && others(1, right).length > 1)
      return { side: 'right', place: right, others: others(1, right) }
  }
  return undefined
}

/** What is left of the pairs where a row may have one only: of each the one that was connected last. */
export function keptPairs({ pairs, severalRight, severalLeft }: Connected): (readonly [number, number])[] {
  const kept: (readonly [number, number])[] = []
  for (const pair of [...pairs].reverse()) {
    const isSecond = kept.some(
      ([left, right]) =>
        (severalRight === false && left === pair[0]) || (severalLeft === false && right === pair[1])
    )
    if (!isSecond) kept.unshift(pair)
  }
  return kept
}

/** How two tables hang together by what was connected and answered. */
export type LinksShape = 'junction' | 'left refers' | 'right refers' | 'one to one'

/** A side that nobody has asked about has one on the other, as all that were connected do. */
export function shapeOfLinks({ severalRight = false, severalLeft = false }: Connected): LinksShape {
  if (severalRight && severalLeft) return 'junction'
  if (severalRight) return 'right refers'
  return severalLeft ? 'left refers' : 'one to one'
}

/**
 * What relates the tables so, with the rows connected as they were, as one step; or why it cannot.
 * @param required whether each row that refers must have the one that it refers to.
 */
export function relateByRows(
  design: Design,
  left: Table,
  right: Table,
  connected: Connected,
  required: boolean
): Parsed<Extract<Operation, { kind: 'batch' }>> {
  const pairs = keptPairs(connected)
  const shape = shapeOfLinks(connected)
  const keyless = [left, right].find(({ primaryKey }) => !primaryKey)
  const needsBoth = shape === 'junction'
  const [parent, child] = shape === 'right refers' || shape === 'one to one' ? [left, right] : [right, left]
  if (keyless && (needsBoth || keyless === parent))
    return {
      ok: false,
      message: `${keyless.name} has no primary key yet, by which its rows could be referred to.`
    }
  if (pairs.length === 0)
    return { ok: false, message: 'Connect a row of one side with one of the other first.' }
  if (shape === 'junction') return { ok: true, value: byJunction(design, left, right, pairs) }
  const isTurned = parent === right
  const links = pairs.map(([one, other]) => (isTurned ? [other, one] : [one, other]) as [number, number])
  return {
    ok: true,
    value: byReference(design, parent, child, links, { required, single: shape === 'one to one' })
  }
}

type Batch = Extract<Operation, { kind: 'batch' }>

function byReference(
  design: Design,
  parent: Table,
  child: Table,
  links: readonly [parent: number, child: number][],
  how: { required: boolean; single: boolean }
): Batch {
  const operations: Operation[] = []
  const made = proposeRelationship(design, { parent: parent.id, child: child.id, ...how })
  if (made) {
    const its = parent.primaryKey?.columns ?? []
    const values = (at: number): Row =>
      Object.fromEntries(
        made.columns.map(({ id }, index) => [id, parent.rows[at]?.[its[index] ?? ''] ?? null])
      )
    const changed = links.map(([one, at]) => {
      const was = child.rows[at] ?? {}
      return { at, was, row: { ...was, ...values(one) } }
    })
    operations.push(made, { kind: 'rows.change', table: child.id, changed, gone: [], come: [] })
  }
  return { kind: 'batch', label: `relate ${parent.name} and ${child.name} by their rows`, operations }
}

function byJunction(
  design: Design,
  left: Table,
  right: Table,
  pairs: readonly (readonly [number, number])[]
): Batch {
  const junction = proposeJunction(design, left, right)
  const rows = pairs.map((pair): Row => {
    const values = junction.sides.flatMap((side, at) => {
      const table = at === 0 ? left : right
      const row = table.rows[pair[at] as number] ?? {}
      return side.columns.map(({ id }, index) => [id, row[table.primaryKey?.columns[index] ?? ''] ?? null])
    })
    return Object.fromEntries(values)
  })
  const { id } = junction.table
  return {
    kind: 'batch',
    label: `relate ${left.name} and ${right.name} by their rows`,
    operations: [
      { kind: 'relationship.addJunction', junction },
      { kind: 'rows.change', table: id, changed: [], gone: [], come: rows.map((row, at) => ({ at, row })) }
    ]
  }
}
