import type { Column, ForeignKey, Table } from '../core/design/model.ts'
import { parseType } from '../core/design/type.ts'

/** What a made table refers to: another, or itself where none is named. */
export interface MadeReference {
  parent?: Table
  /** What its column is called by, where that is not the name of the table. */
  role?: string
  open?: boolean
}

/**
 * A table with a number for its key, whose references stand behind it and whose other columns follow. Where it is a
 * junction, its references are its key. Ids are spelled out from names.
 */
export function makeTable(
  name: string,
  columns: readonly (readonly [name: string, type: string])[],
  refersTo: readonly MadeReference[],
  isJunction = false
): Table {
  // Spelled out where that is short enough for an id, else numbered.
  let numbered = 0
  const id = (column: string): string => short(`c_${name}_${column}`, `c_${name}_${++numbered}`)
  const key: Column = {
    id: id('key'),
    name: `${name}_id`,
    type: { kind: 'integer', size: 'normal' },
    required: true,
    default: { kind: 'generated' }
  }
  const references = refersTo.map(({ parent, role, open = false }) => {
    const called = role ?? parent?.name ?? 'parent'
    const theirs = parent ? keyColumns(parent) : [key]
    const pairs = theirs.map((column): [Column, Column] => {
      const referring = theirs.length === 1 ? `${called}_id` : `${called}_${column.name}`
      const refers = {
        ...column,
        id: id(theirs.length === 1 ? `ref_${called}` : `ref_${referring}`),
        name: referring,
        required: !open
      }
      delete refers.default
      return [refers, column]
    })
    const foreignKey: ForeignKey = {
      id: short(`f_${name}_${called}`, `f_${name}_${++numbered}`),
      table: parent?.id ?? `t_${name}`,
      key: parent ? (parent.primaryKey?.id ?? '') : `k_${name}`,
      pairs: pairs.map(([own, its]) => ({ column: own.id, refersTo: its.id })),
      onDelete: open ? 'SET NULL' : 'CASCADE',
      onUpdate: 'CASCADE'
    }
    return { columns: pairs.map(([own]) => own), foreignKey }
  })
  const own = columns.map(([column, type]): Column => {
    const parsed = parseType(type)
    if (!parsed.ok) throw new Error(parsed.message)
    return { id: id(column), name: column, type: parsed.value, required: false }
  })
  const referring = references.flatMap((each) => each.columns)
  return {
    id: `t_${name}`,
    name,
    columns: [...(isJunction ? [] : [key]), ...referring, ...own],
    primaryKey: { id: `k_${name}`, columns: isJunction ? referring.map((each) => each.id) : [key.id] },
    uniques: [],
    foreignKeys: references.map((each) => each.foreignKey),
    checks: [],
    indexes: [],
    rowPolicies: [],
    rows: []
  }
}

const keyColumns = ({ primaryKey, columns }: Table): Column[] =>
  columns.filter(({ id }) => primaryKey?.columns.includes(id))

/** How long an id may be. */
const LONGEST = 42
const short = (spelled: string, numbered: string): string =>
  (spelled.length <= LONGEST ? spelled : numbered).toLowerCase()
