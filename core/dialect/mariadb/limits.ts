import { byId } from '../../design/by-id.ts'
import { columnOf, columnsIn, tableOf } from '../../design/directory.ts'
import type { Column } from '../../design/model.ts'
import type { Type } from '../../design/type.ts'
import type { CatalogColumn, CatalogTable } from '../catalog.ts'
import { keyBytes, type ComputedFacts, type ReferenceFacts } from '../facts.ts'
import type { Limit } from '../limits/limit.ts'
import { refusing } from '../limits/refusing.ts'
import { KEY_BYTES } from './types.ts'

/** MariaDB, "Generated (Virtual and Persistent/Stored) Columns". */
export const computed: ComputedFacts = {
  fromComputed: true,
  fromCounted: false,
  required: false,
  inPrimaryKey: false,
  folded: false
}

/**
 * What InnoDB keeps alike it takes for alike, and compares as it is kept (MariaDB, "Foreign Keys": types must
 * be the same, which is held for whole numbers only; seen on 10.11).
 */
export const references: ReferenceFacts = {
  types: ({ type: from, sql: own }, { type: to, sql: its }, lists) => {
    if (own === its || from.kind === 'native' || to.kind === 'native') return 'taken'
    const [one, other] = [keptAs(own), keptAs(its)]
    if (one !== other) return 'refused'
    if (one === 'text') return 'taken'
    if (one === 'enum') return sameValues(from, to, lists) ? 'taken' : 'otherwise'
    const areBytes = from.kind === 'binary' && to.kind === 'binary'
    return areBytes || (isMomentText(own) && isMomentText(its)) ? 'taken' : 'otherwise'
  },
  changingComputed: 'table',
  indexesComputed: true
}

const isMomentText = (sql: string): boolean => sql === 'datetime(6)'

function sameValues(
  from: Type,
  to: Type,
  lists: readonly { id: string; values: readonly string[] }[]
): boolean {
  const values = (type: Type): string =>
    JSON.stringify(lists.find(({ id }) => type.kind === 'enum' && id === type.enum)?.values)
  return values(from) === values(to)
}

/** What InnoDB keeps a type as. */
function keptAs(sql: string): string {
  if (/^(varchar|char|longtext)/.test(sql)) return 'text'
  if (sql.startsWith('enum')) return 'enum'
  return /^(decimal|time|datetime|uuid|varbinary|longblob)/.test(sql) ? 'bytes' : sql
}

/** The most bytes of a row, and of what stands of it on one page of 16 KiB (MariaDB, "InnoDB Row Formats"). */
const ROW = { bytes: 65_535, page: 8125, columns: 1017 }

/** A row that is too large, which is refused when the table is made. */
export const largeRow: Limit = ({ table, made, facts }) => {
  const sizes = made.columns.map((column) => ({ column, ...bytesOf(column.type.sql) }))
  const empties = Math.ceil(made.columns.filter(({ required }) => !required).length / 8)
  const stored = sizes.filter(({ column }) => column.computed === undefined)
  const row = sizes.reduce((sum, { row }) => sum + row, empties)
  // The head of a record, the transaction and its way back; a number of its own where there is no key.
  const head = 18 + (keyOf(made) ? 0 : 6)
  const page = stored.reduce((sum, { page }) => sum + page, head + empties)
  const passed =
    made.columns.length > ROW.columns
      ? `${made.columns.length.toLocaleString('en')} columns, of ${ROW.columns.toLocaleString('en')} at most`
      : row > ROW.bytes
        ? `${row.toLocaleString('en')} bytes, of ${ROW.bytes.toLocaleString('en')} at most`
        : page > ROW.page
          ? `${page.toLocaleString('en')} bytes beside what is kept apart, of ${ROW.page.toLocaleString('en')} at most`
          : undefined
  if (passed === undefined) return []
  const [largest] = [...sizes].sort((a, b) => (row > ROW.bytes ? b.row - a.row : b.page - a.page))
  return [
    {
      rule: 'row too large',
      weight: 'refused',
      column: largest?.column.id,
      message: `A row of ${table.name} can have ${passed}: ${facts.title} refuses the table. Texts without a length are kept apart.`,
      fix: unbounded(table, row > ROW.bytes ? sizes : [])
    }
  ]

  /** The longest texts lose their length, as many as are needed. */
  function unbounded(
    { id }: typeof table,
    all: readonly { column: CatalogColumn; row: number }[]
  ): ReturnType<Limit>[number]['fix'] {
    const free = all
      .filter(({ column }) => column.type.sql.startsWith('varchar') && !isInKey(made, column.id))
      .sort((a, b) => b.row - a.row)
    let over = row - ROW.bytes
    const needed = free.filter((each) => over > 0 && (over -= each.row - APART.row) > -Infinity)
    if (over > 0 || needed.length === 0) return undefined
    const names = needed.map(({ column }) => column.name)
    return {
      label: `Make ${names.slice(0, 3).join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''} text`,
      operation: {
        kind: 'batch',
        label: `let texts of ${table.name} be of any length`,
        operations: needed.map(({ column }) => ({
          kind: 'column.retype',
          table: id,
          column: column.id,
          type: { kind: 'text' }
        }))
      }
    }
  }
}

/** InnoDB makes a key of its own where a table has none whose columns are all required. */
function keyOf({ columns, primaryKey, uniques }: CatalogTable): boolean {
  const isRequired = (id: string): boolean => byId(columns).get(id)?.required === true
  return primaryKey !== undefined || uniques.some((key) => key.columns.every(isRequired))
}

function isInKey({ primaryKey, uniques, indexes, foreignKeys }: CatalogTable, id: string): boolean {
  return [primaryKey, ...uniques, ...indexes, ...foreignKeys].some((key) => key?.columns.includes(id))
}

/** What is kept beside the row: a length and an address in it, and the beginning of an address on the page. */
const APART = { row: 12, page: 21 }
const FIXED: [RegExp, number][] = [
  [/^smallint|^enum/, 2],
  [/^int/, 4],
  [/^bigint|^double|^datetime/, 8],
  [/^tinyint/, 1],
  [/^date$/, 3],
  [/^time/, 6],
  [/^uuid/, 16]
]

/** The most bytes that a column takes of a row, and of its page. */
function bytesOf(sql: string): { row: number; page: number } {
  const [, kind = '', first = '0', second = '0'] = /^(\w+)(?:\((\d+)(?:,(\d+))?\))?/.exec(sql) ?? []
  if (kind.startsWith('long')) return APART
  if (kind === 'varchar' || kind === 'varbinary' || kind === 'char') {
    const bytes = Number(first) * (kind === 'varbinary' ? 1 : 4)
    const length = bytes > 255 ? 2 : 1
    // From 256 bytes on, a text may be kept apart.
    return { row: kind === 'char' ? bytes : bytes + length, page: bytes > 255 ? APART.page : bytes + 1 }
  }
  if (kind === 'decimal') {
    const digits = (count: number): number => Math.floor(count / 9) * 4 + Math.ceil((count % 9) / 2)
    const bytes = digits(Number(first) - Number(second)) + digits(Number(second))
    return { row: bytes, page: bytes }
  }
  const bytes = FIXED.find(([pattern]) => pattern.test(sql))?.[1] ?? 8
  return { row: bytes, page: bytes }
}

/** A counted column in a unique key that is longer than a key may be, and is held by a hash. */
export const countedInHash: Limit = ({ table, made, facts }) => {
  const counted = made.columns.find(({ generated }) => generated)
  const bytes = (id: string): number => {
    const type = byId(made.columns).get(id)?.type.type
    return type ? (keyBytes(type) ?? 0) : 0
  }
  const hashed = [...made.uniques, ...made.indexes.filter(({ unique }) => unique)].some(
    ({ columns }) =>
      counted !== undefined &&
      columns.includes(counted.id) &&
      columns.reduce((sum, id) => sum + bytes(id), 0) > KEY_BYTES
  )
  return hashed && counted
    ? [
        {
          rule: 'key too long',
          weight: 'refused',
          column: counted.id,
          message: `${counted.name} of ${table.name} is counted, and stands in a unique key of more than ${KEY_BYTES.toLocaleString('en')} bytes: ${facts.title} refuses it.`
        }
      ]
    : []
}

/** A reference to a unique key that is held by a hash, which nothing refers to (seen on 10.11). */
export const refersToHash: Limit = ({ table, design, facts, words }) =>
  table.foreignKeys.flatMap((foreignKey) => {
    const parent = tableOf(design, foreignKey.table)
    const key = parent?.uniques.find(({ id }) => id === foreignKey.key)
    if (!parent || !key) return []
    const columns = columnsIn(parent, key.columns)
    const bytes = columns.reduce((sum, column) => sum + bytesOf(words(parent, column).sql).row, 0)
    if (bytes <= KEY_BYTES + 2 * columns.length) return []
    return [
      {
        rule: 'key too long',
        weight: 'refused' as const,
        column: foreignKey.pairs[0]?.column,
        message: `${table.name} refers to ${columns.map(({ name }) => name).join(', ')} of ${parent.name}, a key of more than ${KEY_BYTES.toLocaleString('en')} bytes: ${facts.title} refuses the reference.`
      }
    ]
  })

/**
 * A key that may become empty cannot be handed on to a column that is required; where the rows are deleted with
 * what they refer to, and where nothing is done in so many words, the engine takes it all the same (seen on 10.11).
 */
export const handsOnNothing: Limit = ({ table, made, design, facts }) =>
  made.foreignKeys.flatMap(({ id, table: referred, columns, refersTo, onUpdate, onDelete }) => {
    const parent = tableOf(design, referred)
    const isHandedOn = onUpdate === 'CASCADE' && onDelete !== 'CASCADE' && onDelete !== 'NO ACTION'
    if (!parent || !isHandedOn) return []
    const mayBeEmpty = (column: Column | undefined): boolean =>
      column !== undefined && !column.required && column.computed === undefined
    const known = byId(made.columns)
    const at = columns.findIndex(
      (own, place) => known.get(own)?.required === true && mayBeEmpty(columnOf(parent, refersTo[place] ?? ''))
    )
    const [own, its] = [columnOf(table, columns[at] ?? ''), columnOf(parent, refersTo[at] ?? '')]
    if (!own || !its) return []
    return [
      {
        rule: 'required, and handed on',
        weight: 'refused' as const,
        column: own.id,
        message: `${its.name} of ${parent.name} may be empty, and ${own.name} of ${table.name} is to change with it and may not: ${facts.title} refuses the reference.`,
        fix: {
          label: 'Refuse a change of the key instead',
          operation: refusing(
            table.id,
            {
              id,
              onUpdate,
              onDelete: table.foreignKeys.find((each) => each.id === id)?.onDelete ?? onDelete
            },
            ['update']
          )
        }
      }
    ]
  })

/** An index beside the one that the engine makes for a reference of a computed column (seen on 10.11). */
export const indexOfComputedReference: Limit = ({ table, made, facts }) =>
  made.foreignKeys.flatMap(({ columns }) => {
    const computed = columnsIn(table, columns).find((column) => column.computed !== undefined)
    const index = made.indexes.find((each) => columns.every((id, at) => each.columns[at] === id))
    const own = table.indexes.find(({ id }) => id === index?.id)
    const hasKey = [made.primaryKey, ...made.uniques].some((key) =>
      columns.every((id, at) => key?.columns[at] === id)
    )
    if (!computed || !own || hasKey) return []
    return [
      {
        rule: 'index on a computed reference',
        weight: 'refused' as const,
        column: computed.id,
        message: `${computed.name} of ${table.name} is computed, and refers: ${facts.title} makes an index for that by itself, and refuses another that begins with it.`,
        fix: {
          label: 'Remove the index',
          operation: { kind: 'index.remove', table: table.id, index: own.id }
        }
      }
    ]
  })

/** MariaDB, "Generated Columns": a table has a column of its own. */
export const ownColumns: Limit = ({ table, facts }) =>
  table.columns.every((column) => column.computed !== undefined)
    ? [
        {
          rule: 'nothing of its own',
          weight: 'refused',
          message: `${facts.title} has no table without columns of its own: it will refuse ${table.name}.`
        }
      ]
    : []

/** Texts that refer must be of one collation (InnoDB; MySQL says the same), and that of another system's is not known. */
export const othersCollation =
  (collation: string): Limit =>
  ({ table, design, facts, words }) =>
    table.foreignKeys.flatMap((key) => {
      const parent = tableOf(design, key.table)
      if (!parent?.external) return []
      const isText = (column: Column): boolean => /^(varchar|char|enum)/.test(words(table, column).sql)
      const own = columnsIn(
        table,
        key.pairs.map(({ column }) => column)
      ).find(isText)
      return own
        ? [
            {
              rule: 'collation of another system',
              weight: 'doubtful' as const,
              column: own.id,
              message: `${own.name} of ${table.name} refers to a text of ${parent.name}, which another system keeps: ${facts.title} takes the reference only where that is of the collation ${collation}.`
            }
          ]
        : []
    })
