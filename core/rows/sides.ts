import { columnsIn, referencesTo, tableOf } from '../design/directory.ts'
import { keyTexts, textOfKey } from '../design/key-text.ts'
import type { Design, ForeignKey, Row, Table } from '../design/model.ts'
import { rowIndex, wayBy } from '../design/row-index.ts'
import { junctionSides } from '../relate/junction.ts'

/** What a row refers to by one reference: a row, by its place, or nothing. */
export interface OneSide {
  foreignKey: ForeignKey
  table: Table
  place: number | undefined
  /** Whether it says something that leads nowhere. */
  isLost: boolean
  /** How many others of the row's own table refer to the same. */
  others: number
}

/** What refers to a row by one reference, and through a junction what is on its far side. */
export interface ManySide {
  foreignKey: ForeignKey
  table: Table
  places: readonly number[]
  far: readonly { table: Table; foreignKey: ForeignKey; places: readonly number[] }[]
}

const NONE: readonly number[] = []

/** The places of the rows of a table that refer by a reference to what a row of it does, or another. */
function referring(
  design: Design,
  child: Table,
  key: ForeignKey,
  text: string | undefined
): readonly number[] {
  const parent = tableOf(design, key.table)
  if (!parent || text === undefined) return NONE
  const as = columnsIn(
    parent,
    key.pairs.map(({ refersTo }) => refersTo)
  )
  return (
    rowIndex(
      child,
      wayBy(
        key.pairs.map(({ column }) => column),
        as
      )
    ).get(text) ?? NONE
  )
}

function textOfReference(design: Design, child: Table, key: ForeignKey, row: Row): string | undefined {
  const parent = tableOf(design, key.table)
  if (!parent) return undefined
  const types = columnsIn(
    parent,
    key.pairs.map(({ refersTo }) => refersTo)
  )
  return textOfKey(
    child,
    key.pairs.map(({ column }) => column),
    row,
    types
  )
}

/** The place of the row that a row refers to; nothing where it refers to none, or to what is not there. */
export const referredPlace = (design: Design, child: Table, key: ForeignKey, row: Row): number | undefined =>
  referredPlaces(design, child, key)(row)

/** The same of many rows. */
export function referredPlaces(
  design: Design,
  child: Table,
  key: ForeignKey
): (row: Row) => number | undefined {
  const parent = tableOf(design, key.table)
  if (!parent) return () => undefined
  const its = key.pairs.map(({ refersTo }) => refersTo)
  const own = key.pairs.map(({ column }) => column)
  const textOf = keyTexts(child, own, columnsIn(parent, its))
  const there = rowIndex(parent, wayBy(its))
  return (row) => {
    const text = textOf(row)
    return text === undefined ? undefined : there.get(text)[0]
  }
}

/** What a row refers to, by each reference of its table. */
export function onesOf(design: Design, table: Table, row: Row): OneSide[] {
  return table.foreignKeys.flatMap((foreignKey): OneSide[] => {
    const parent = tableOf(design, foreignKey.table)
    if (!parent) return []
    const text = textOfReference(design, table, foreignKey, row)
    const place = referredPlace(design, table, foreignKey, row)
    const others = referring(design, table, foreignKey, text).length - 1
    const isLost = text !== undefined && place === undefined && !parent.external
    return [{ foreignKey, table: parent, place, isLost, others: Math.max(others, 0) }]
  })
}

/** The places of the rows that refer by a reference to a row of a table. */
export function referringPlaces(
  design: Design,
  child: Table,
  key: ForeignKey,
  table: Table,
  row: Row
): readonly number[] {
  const its = key.pairs.map(({ refersTo }) => refersTo)
  return referring(design, child, key, textOfKey(table, its, row))
}

/** What refers to a row, by each reference to its table. */
export function manysOf(design: Design, table: Table, row: Row): ManySide[] {
  return referencesTo(design, table.id).map(({ table: child, foreignKey }) => {
    const places = referringPlaces(design, child, foreignKey, table, row)
    const sides = junctionSides(child)
    const isSide = sides.some(({ id }) => id === foreignKey.id)
    const far = (isSide ? sides : []).flatMap((side) => {
      const there = tableOf(design, side.table)
      if (side.id === foreignKey.id || !there) return []
      const farPlace = referredPlaces(design, child, side)
      const found = places.flatMap((place) => farPlace(child.rows[place] as Row) ?? [])
      return [{ table: there, foreignKey: side, places: [...new Set(found)] }]
    })
    return { foreignKey, table: child, places, far }
  })
}
