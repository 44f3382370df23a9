import { columnsIn, keyOf, nameOfTable, referencesTo } from '../design/directory.ts'
import type { KeyShape } from '../design/key-shape.ts'
import type { Design, Key, Table } from '../design/model.ts'
import { isIdentifying, isJunction } from '../relate/junction.ts'

/**
 * How a mark stands at a column: `own` the key itself, `fits` a reference to it, `open` a reference that
 * may be empty, `both` a reference that is its table's key as well.
 */
export type MarkStyle = 'own' | 'fits' | 'open' | 'both'

export interface MarkedKey {
  key: string
  style: MarkStyle
  /** The name of the table whose key it is. */
  table: string
}

/** Whether both look and say the same. */
export const sameMark = (one: MarkedKey, other: MarkedKey): boolean =>
  one.key === other.key && one.style === other.style && one.table === other.table

/** Width and height of a mark in pixels, as its path is drawn. */
export const MARK = { width: 24, height: 12 }

/** The outline of a mark, its top left corner at 0, 0. */
export function markPath({ cuts }: KeyShape): string {
  const step = (MARK.width - 6) / cuts.length
  let x = MARK.width - 0.5
  let path = `M0.5 0.5H${x}V4`
  for (const cut of [...cuts].reverse()) {
    path += `V${(3.4 + cut * 2).toFixed(1)}`
    path += `H${(x -= step).toFixed(1)}`
  }
  return `${path}V9.4H0.5Z`
}

/** The colour of a mark on a light or a dark ground, at least 3 to 1 against it. */
export function markColour({ hue }: KeyShape, dark = false): string {
  // Yellows and greens are lighter to the eye than blues at the same lightness.
  const pale = hue > 40 && hue < 190
  const [saturation, lightness] = dark ? [48, pale ? 58 : 68] : [58, pale ? 27 : 37]
  return hslToHex(hue, saturation, lightness)
}

function hslToHex(hue: number, saturation: number, lightness: number): string {
  const a = (saturation / 100) * Math.min(lightness / 100, 1 - lightness / 100)
  const channel = (n: number): string => {
    const k = (n + hue / 30) % 12
    return Math.round(255 * (lightness / 100 - a * Math.max(-1, Math.min(k - 3, 9 - k, 1))))
      .toString(16)
      .padStart(2, '0')
  }
  return `#${channel(0)}${channel(8)}${channel(4)}`
}

const known = new WeakMap<Table, { leans: string; marks: ReadonlyMap<string, MarkedKey[]> }>()

/**
 * The marks at each column that has any, by the column's id: of the keys it refers to, else of its table's
 * own. The same value as before where nothing that they show has changed.
 */
export function columnMarks(design: Design, table: Table): ReadonlyMap<string, MarkedKey[]> {
  const leans = [
    ...table.foreignKeys.map((key) => nameOfTable(design, key.table)),
    ...referencesTo(design, table.id).map((reference) => reference.foreignKey.key)
  ].join('\0')
  const before = known.get(table)
  if (before?.leans === leans) return before.marks
  const marks = makeColumnMarks(design, table)
  known.set(table, { leans, marks })
  return marks
}

function makeColumnMarks(design: Design, table: Table): Map<string, MarkedKey[]> {
  const marks = new Map<string, MarkedKey[]>()
  const add = (column: string, mark: MarkedKey): void => {
    const list = marks.get(column)
    if (!list) marks.set(column, [mark])
    else if (!list.some((each) => each.key === mark.key)) list.push(mark)
  }
  for (const foreignKey of table.foreignKeys) {
    const required = columnsIn(
      table,
      foreignKey.pairs.map((pair) => pair.column)
    ).every((column) => column.required)
    for (const { column } of foreignKey.pairs) {
      const inKey = table.primaryKey?.columns.includes(column) ?? false
      add(column, {
        key: foreignKey.key,
        style: inKey ? 'both' : required ? 'fits' : 'open',
        table: nameOfTable(design, foreignKey.table)
      })
    }
  }
  for (const key of ownKeys(design, table)) {
    for (const column of key.columns)
      if (!marks.has(column)) add(column, { key: key.id, style: 'own', table: table.name })
  }
  return marks
}

/** The primary key, and the unique keys that something refers to. */
function ownKeys(design: Design, table: Table): Key[] {
  const referred = referencesTo(design, table.id)
    .flatMap((reference) => keyOf(table, reference.foreignKey.key) ?? [])
    .filter((key) => key.id !== table.primaryKey?.id)
  return [...(table.primaryKey ? [table.primaryKey] : []), ...new Set(referred)]
}

const knownHeads = new WeakMap<Table, { leans: string; marks: MarkedKey[] }>()

/**
 * The marks beside a table's name: a junction's sides, the key of the table that one-to-one rows belong
 * to, else its own. The same value as before where nothing that they show has changed.
 */
export function tableMarks(design: Design, table: Table): MarkedKey[] {
  const leans = table.foreignKeys.map((key) => nameOfTable(design, key.table)).join('\0')
  const before = knownHeads.get(table)
  if (before?.leans === leans) return before.marks
  const marks = makeTableMarks(design, table)
  knownHeads.set(table, { leans, marks })
  return marks
}

function makeTableMarks(design: Design, table: Table): MarkedKey[] {
  const { primaryKey } = table
  if (!primaryKey) return []
  const identifying = table.foreignKeys.filter((foreignKey) => isIdentifying(table, foreignKey))
  const covered = primaryKey.columns.every((column) =>
    identifying.some((foreignKey) => foreignKey.pairs.some((pair) => pair.column === column))
  )
  if (isJunction(table) || (covered && identifying.length > 0)) {
    const sides = identifying.length > 0 ? identifying : table.foreignKeys
    return [
      ...new Map(
        sides.map((foreignKey) => [
          foreignKey.key,
          {
            key: foreignKey.key,
            style: 'both' as const,
            table: nameOfTable(design, foreignKey.table)
          }
        ])
      ).values()
    ].slice(0, 3)
  }
  return [{ key: primaryKey.id, style: 'own', table: table.name }]
}
