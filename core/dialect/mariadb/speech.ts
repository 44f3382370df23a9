import { NameGiver } from '../../naming/fit.ts'
import { columnsIn, generatedColumn } from '../../design/directory.ts'
import type { Column, ForeignKey, Table } from '../../design/model.ts'
import { columnsNamedBy } from '../table-builder.ts'
import type { Speech } from '../speech.ts'
import type { DatePart } from '../../sql/date-text.ts'
import { asTexts } from '../date-text.ts'
import type { CatalogIndex, CatalogTable } from '../catalog.ts'
import { keyBytes, type Facts, type TypeTable } from '../facts.ts'
import { byId } from '../../design/by-id.ts'
import { uniquesAsKeys } from './read.ts'
import { backslashLike } from '../../sql/print.ts'
import type { Limit } from '../limits/limit.ts'
import { refusing } from '../limits/refusing.ts'
import { KEY_BYTES, literal, now, quote, quoteText } from './types.ts'

/** What tells a part of a moment. */
const PART: Record<DatePart, string> = {
  year: 'year',
  month: 'month',
  day: 'dayofmonth',
  hour: 'hour',
  minute: 'minute',
  second: 'second'
}

/** The longest notes (MariaDB, "CREATE TABLE"). */
const NOTE = { table: 2048, column: 1024 }

/** What the two engines that say things this way do not share. */
export interface Own {
  name: string
  facts: Facts
  types: TypeTable
  /** Tells texts apart as they are written, blanks at their ends included. */
  collation: string
  calls: Record<string, (args: readonly string[]) => string>
  limits: readonly Limit[]
  /** What it changes in a column, and in a table, besides. */
  adjust?: Speech['adjust']
  finish?: Speech['finish']
}

export const speechOf = ({ name, facts, types, collation, calls, limits, adjust, finish }: Own): Speech => ({
  name,
  facts,
  types,
  quote,
  literal,
  now,
  // What is now by the session's clock, and no other (MariaDB, "TIMESTAMP", ON UPDATE).
  renewsInColumn: (type) => type.kind === 'timestamp' && !type.zone,
  enumTypes: false,
  limits,
  rows: {
    saysTypes: false,
    // A text by itself is of the character set that the client speaks, and compared as that likes (MariaDB,
    // "Setting Character Sets and Collations").
    saidText: (sql) => `CONVERT(${sql} USING utf8mb4) COLLATE ${collation}`,
    sameOrEmpty: (left, right) => `${left} <=> ${right}`,
    // Values of a list are in the order of the list, and a uuid in an order of its own.
    inOrder: (sql, { kind }) =>
      kind === 'enum' || kind === 'uuid' ? `CONVERT(${sql} USING utf8mb4) COLLATE ${collation}` : sql
  },
  expressions: {
    text: quoteText,
    boolean: (value) => (value ? '1' : '0'),
    call: (name, args) => calls[name]?.(args) ?? `${name}(${args.join(', ')})`,
    // Two bars mean OR unless the server is told otherwise.
    concat: (left, right) => `concat(${left}, ${right})`,
    like: backslashLike(quoteText),
    likeOf: (pattern) => `LIKE replace(${pattern}, ${quoteText('\\')}, ${quoteText('\\\\')})`,
    // A slash gives a fraction even of whole numbers.
    quotient: (left, right, numbers) => (numbers === 'whole' ? `${left} DIV ${right}` : undefined)
  },
  typed: {
    // What depends on the session's language, as DATE_FORMAT may, stands in no check.
    dateText: (parts, sql) =>
      `concat(${asTexts(parts, (part, digits) => `lpad(${PART[part]}(${sql}), ${digits}, '0')`, quoteText).join(', ')})`
  },
  // A truth value is a number, and its negation is printed as a comparison with 0: it is written as one
  // with 1.
  truth: { toCondition: (value) => `${value} = 1`, toValue: (condition) => `(${condition})` },
  // What spaces a char ends with is the server's choice, so that nothing computed from one can be in a
  // key, unless they are cut off.
  source: (name, { type }) => (type.kind === 'char' ? `rtrim(${name})` : name),
  adjust: (column, { table, column: from }) => {
    const counted = isCounted(table, from)
    const worked =
      (from.default?.kind === 'expression' ||
        (from.default?.kind === 'value' && from.type.kind === 'binary')) &&
      column.default !== undefined
    // Where a computed column takes no NOT NULL, whether it can be empty follows from what it is computed from.
    // A counted one always has it.
    const takesRequired = column.computed === undefined || facts.computed.required
    const own = {
      ...column,
      generated: counted,
      required: takesRequired && (from.required || counted),
      default: worked ? `(${column.default as string})` : column.default,
      note: column.note?.slice(0, NOTE.column)
    }
    return adjust?.(own, { table, column: from }) ?? own
  },
  finish: (table, from) => {
    const own = finish?.(table, from) ?? table
    return withCountedIndex(
      uniquesAsKeys({
        ...own,
        indexes: own.indexes.map((index) => (isHashed(own, index) ? upwards(index) : index)),
        note: own.note?.slice(0, NOTE.table),
        primaryKey: own.primaryKey && { ...own.primaryKey, name: 'PRIMARY' }
      }),
      facts
    )
  },
  refusesCheck: (table, named) => refusesCheck(table, named, facts.title),
  remarks: (table) => [
    ...table.columns
      .filter((column) => (column.note?.length ?? 0) > NOTE.column)
      .map(
        (column) =>
          `${facts.title} takes notes of up to ${NOTE.column} characters: that of ${table.name}.${column.name} is cut.`
      )
  ]
})

/** MariaDB, "CONSTRAINT": a check holds no counted column, and none that a reference changes by itself. */
function refusesCheck(
  table: Table,
  named: readonly Column[],
  title: string
): ReturnType<NonNullable<Speech['refusesCheck']>> {
  const columns = withSources(table, named)
  const counted = columns.find((column) => isCounted(table, column))
  if (counted)
    return {
      column: counted.id,
      message: `${title} checks no column that it counts itself: a check of ${table.name} on ${counted.name} is left out.`
    }
  const moves = ({ onUpdate, onDelete }: ForeignKey): boolean =>
    onUpdate === 'CASCADE' || onUpdate === 'SET NULL' || onDelete === 'SET NULL'
  for (const key of table.foreignKeys.filter(moves)) {
    const moved = columns.find(({ id }) => key.pairs.some((pair) => pair.column === id))
    if (!moved) continue
    return {
      column: moved.id,
      message: `${title} checks no column that a reference changes by itself: a check of ${table.name} on ${moved.name} is left out.`,
      unseen: `Triggers hold a check of ${table.name} on ${moved.name}: where a reference changes ${moved.name} by itself, they do not look.`,
      fix: {
        label: 'Refuse what would change it, and hold the check',
        operation: refusing(table.id, key, key.onDelete === 'SET NULL' ? ['delete', 'update'] : ['update'])
      }
    }
  }
  return undefined
}

/** The columns and all that they are computed from, which a check on them checks as well. */
function withSources(table: Table, named: readonly Column[]): Column[] {
  const all = new Set(named)
  for (const { computed } of all)
    if (computed !== undefined)
      for (const column of columnsIn(table, columnsNamedBy(computed, table))) all.add(column)
  return [...all]
}

/** A unique index that is longer than a key may be is held by a hash, which has no direction. */
function isHashed({ columns }: CatalogTable, index: CatalogIndex): boolean {
  const bytes = (id: string): number => {
    const type = byId(columns).get(id)?.type.type
    return type ? (keyBytes(type) ?? 0) : 0
  }
  return index.unique && index.columns.reduce((sum, id) => sum + bytes(id), 0) > KEY_BYTES
}

const upwards = (index: CatalogIndex): CatalogIndex => ({
  ...index,
  descending: index.columns.map(() => false)
})

/** One column a table is counted. */
const isCounted = (table: Table, column: Column): boolean => generatedColumn(table) === column

/** AUTO_INCREMENT stands only on a column that a key or an index begins with: where none does, one is made. */
function withCountedIndex(table: CatalogTable, facts: Facts): CatalogTable {
  const counted = table.columns.find(({ generated }) => generated)
  const keys = [table.primaryKey, ...table.uniques, ...table.indexes]
  if (!counted || keys.some((key) => key?.columns[0] === counted.id)) return table
  const names = new NameGiver(facts.nameLimit)
  for (const key of [...keys, ...table.foreignKeys]) if (key) names.give(key.name)
  const index: CatalogIndex = {
    id: `${counted.id}_counted`,
    name: names.give(`${counted.name}_counted`),
    columns: [counted.id],
    descending: [false],
    unique: false,
    where: undefined
  }
  return { ...table, indexes: [...table.indexes, index] }
}
