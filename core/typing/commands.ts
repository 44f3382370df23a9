import { referencesTo, sameSet } from '../design/directory.ts'
import { newKeyId } from '../design/key-shape.ts'
import { newId, type Column, type Design, type Policy, type Table } from '../design/model.ts'
import type { Offer } from '../edit/refusal.ts'
import type { Operation } from '../edit/operation.ts'
import { proposeKey } from '../relate/keys.ts'
import { switchTo } from '../restructure/another-key.ts'

/**
 * What a key pressed on the chosen lines of a sheet comes to, and what undo calls it; nothing where there
 * is nothing to do.
 */
export interface SheetStep {
  operation: Operation
  label?: string
  /** What could be done instead, should it be refused. */
  instead?: Offer[]
}

/** Several operations as one step. */
export function together(operations: Operation[], label: string): SheetStep | undefined {
  const [only] = operations
  if (!only) return undefined
  return operations.length === 1 ? { operation: only } : { operation: { kind: 'batch', label, operations } }
}

/**
 * The chosen columns become the primary key, or stop being it. Where others refer by the key that there
 * is, they can follow.
 */
export function keyOfThem(design: Design, table: Table, chosen: readonly Column[]): SheetStep | undefined {
  const columns = chosen.map((column) => column.id)
  if (columns.length === 0) return undefined
  const same = table.primaryKey !== undefined && sameSet(table.primaryKey.columns, columns)
  const follow =
    !same && referencesTo(design, table.id).some(({ foreignKey }) => foreignKey.key === table.primaryKey?.id)
      ? switchTo(design, table, columns)
      : undefined
  return {
    operation: {
      kind: 'key.setPrimary',
      table: table.id,
      key: same ? null : { id: newKeyId(design), columns }
    },
    ...(follow?.ok && {
      instead: [
        {
          label: `Make ${chosen.map((column) => column.name).join(', ')} the key, and let what refers follow`,
          operation: follow.value
        }
      ]
    })
  }
}

/** The best key that there is for a table without one. */
export function bestKey(table: Table, policy: Policy): SheetStep {
  const { operation, says } = proposeKey(table, policy)
  return { operation, label: says.charAt(0).toLowerCase() + says.slice(1) }
}

/** The chosen columns become a unique key, or stop being it. */
export function uniqueOfThem(table: Table, chosen: readonly Column[]): SheetStep | undefined {
  const columns = chosen.map((column) => column.id)
  if (columns.length === 0) return undefined
  const there = table.uniques.find((each) => sameSet(each.columns, columns))
  return {
    operation: there
      ? { kind: 'unique.remove', table: table.id, key: there.id }
      : { kind: 'unique.add', table: table.id, key: { id: newId('k'), columns } }
  }
}

/** An index on the chosen columns; more about it is said where it then stands. */
export function indexOfThem(table: Table, chosen: readonly Column[]): SheetStep | undefined {
  if (chosen.length === 0) return undefined
  return {
    operation: {
      kind: 'index.add',
      table: table.id,
      index: {
        id: newId('i'),
        columns: chosen.map((column) => ({ column: column.id, descending: false })),
        unique: false
      }
    }
  }
}

export function removeThem(table: Table, chosen: readonly Column[]): SheetStep | undefined {
  return together(
    chosen.map((column) => ({ kind: 'column.remove', table: table.id, column: column.id })),
    `remove ${chosen.length} columns of ${table.name}`
  )
}

/** All of them are required, or none: the other of what the first is. */
export function requireThem(table: Table, chosen: readonly Column[]): SheetStep | undefined {
  const required = !chosen[0]?.required
  return together(
    chosen.map((column) => ({ kind: 'column.require', table: table.id, column: column.id, required })),
    `${required ? 'require' : 'let be empty'} ${chosen.length} columns`
  )
}

/** The chosen columns go, in their order, before what stands at the place (one behind the last is the end). */
export function moveThemTo(table: Table, chosen: readonly Column[], place: number): SheetStep | undefined {
  const others = table.columns.filter((column) => !chosen.includes(column))
  const before = table.columns.slice(0, place).filter((column) => !chosen.includes(column)).length
  const wanted = [...others.slice(0, before), ...chosen, ...others.slice(before)]
  const now = [...table.columns]
  const moves: Operation[] = []
  for (const [to, column] of wanted.entries()) {
    const at = now.indexOf(column)
    if (at === to) continue
    now.splice(to, 0, ...now.splice(at, 1))
    moves.push({ kind: 'column.move', table: table.id, column: column.id, to })
  }
  return together(moves, `move ${chosen.length} columns of ${table.name}`)
}

/** The chosen columns go one place up (-1) or down (1) together, as long as all of them can. */
export function moveThem(table: Table, chosen: readonly Column[], by: -1 | 1): SheetStep | undefined {
  const places = chosen.map((column) => table.columns.indexOf(column)).sort((a, b) => a - b)
  const [first, last] = [places[0], places.at(-1)]
  if (first === undefined || last === undefined || first + by < 0 || last + by >= table.columns.length)
    return undefined
  // The one in front goes first, so that none passes another.
  const inTurn = by > 0 ? [...places].reverse() : places
  return together(
    inTurn.map((at) => ({
      kind: 'column.move',
      table: table.id,
      column: (table.columns[at] as Column).id,
      to: at + by
    })),
    `move ${places.length} columns of ${table.name}`
  )
}
