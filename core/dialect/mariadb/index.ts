import { NameGiver } from '../../naming/fit.ts'
import { columnsIn, generatedColumn } from '../../design/directory.ts'
import type { Column, ForeignKey, Table } from '../../design/model.ts'
import { columnsNamedBy } from '../table-builder.ts'
import type { Speech } from '../speech.ts'
import { dialectOf } from '../make.ts'
import { PLAIN_CLIENT, type Provable } from '../dialect.ts'
import type { CatalogIndex, CatalogTable } from '../catalog.ts'
import { keyBytes, type Facts } from '../facts.ts'
import { byId } from '../../design/by-id.ts'
import { read, reset, uniquesAsKeys } from './read.ts'
import { backslashLike } from '../../sql/print.ts'
import { refusing } from '../limits/refusing.ts'
import { chain } from './chain.ts'
import { effort } from './effort.ts'
import { inPlace, migrate, restart, STRICT } from './migrate.ts'
import {
  computed,
  countedInHash,
  handsOnNothing,
  indexOfComputedReference,
  largeRow,
  ownColumns,
  references,
  refersToHash
} from './limits.ts'
import { RESERVED } from './reserved.ts'
import {
  asPrinted,
  CALLS,
  KEY_BYTES,
  literal,
  now,
  oneDefault,
  oneExpression,
  oneType,
  quote,
  quoteText,
  TYPES
} from './types.ts'
import { words } from './write.ts'

/** MariaDB 10.11 and later, with InnoDB. */
export const facts: Facts = {
  title: 'MariaDB',
  nameLimit: { most: 64, of: 'characters' },
  // Names are kept in the Basic Multilingual Plane (MariaDB, "Identifier Names").
  refusedInNames: /[\u{10000}-\u{10ffff}]/gu,
  // The first key's name, the names of InnoDB's own columns and index, and those of tables that are being
  // changed.
  kept: {
    table: /^#(mysql50#|sql)/i,
    column: /^(db_row_id|db_trx_id|db_roll_ptr|fts_doc_id)$/i,
    rule: /^(primary|gen_clust_index|fts_doc_id_index)$/i
  },
  folds: 'not',
  reserved: RESERVED,
  schemas: false,
  rowPolicies: false,
  partialIndexes: false,
  holdsByColumn: true,
  emptyInKey: 'apart',
  counts: 'one column a table',
  comments: true,
  computed,
  references,
  judgesTypes: false,
  deferrable: false,
  key: { bytes: KEY_BYTES, columns: 16, refuses: 'made', longUnique: true, perCharacter: 4 },
  mostColumns: 1017,
  sameIndexTwice: true,
  lacks: [
    {
      action: 'SET DEFAULT',
      on: ['delete', 'update'],
      why: 'MariaDB takes SET DEFAULT without a word and refuses instead.'
    }
  ],
  // MariaDB, "Foreign Keys": SET NULL needs columns that may be empty.
  emptyingRequired: 'table',
  manyCascadePaths: true,
  rollsBack: false,
  runs: true
}

/** The longest notes (MariaDB, "CREATE TABLE"). */
const NOTE = { table: 2048, column: 1024 }

const speech: Speech = {
  name: 'mariadb',
  facts,
  types: TYPES,
  quote,
  literal,
  now,
  enumTypes: false,
  limits: [largeRow, countedInHash, refersToHash, handsOnNothing, indexOfComputedReference, ownColumns],
  rows: {
    saysTypes: false,
    sameOrEmpty: (left, right) => `${left} <=> ${right}`,
    // Values of a list are in the order of the list, and a uuid in an order of its own.
    inOrder: (sql, { kind }) =>
      kind === 'enum' || kind === 'uuid' ? `CONVERT(${sql} USING utf8mb4) COLLATE utf8mb4_nopad_bin` : sql
  },
  expressions: {
    text: quoteText,
    boolean: (value) => (value ? '1' : '0'),
    call: (name, args) => CALLS[name]?.(args) ?? `${name}(${args.join(', ')})`,
    // Two bars mean OR unless the server is told otherwise.
    concat: (left, right) => `concat(${left}, ${right})`,
    like: backslashLike(quoteText),
    likeOf: (pattern) => `LIKE replace(${pattern}, ${quoteText('\\')}, ${quoteText('\\\\')})`,
    // A slash gives a fraction even of whole numbers.
    quotient: (left, right, numbers) => (numbers === 'whole' ? `${left} DIV ${right}` : undefined)
  },
  typed: {},
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
    // A computed column takes no NOT NULL; whether it can be empty follows from what it is computed from.
    // A counted one always has it.
    return {
      ...column,
      generated: counted,
      required: column.computed === undefined && (from.required || counted),
      default: worked ? `(${column.default as string})` : column.default,
      note: column.note?.slice(0, NOTE.column)
    }
  },
  finish: (table) =>
    withCountedIndex(
      uniquesAsKeys({
        ...table,
        indexes: table.indexes.map((index) => (isHashed(table, index) ? upwards(index) : index)),
        note: table.note?.slice(0, NOTE.table),
        primaryKey: table.primaryKey && { ...table.primaryKey, name: 'PRIMARY' }
      })
    ),
  refusesCheck,
  remarks: (table) => [
    ...table.columns
      .filter((column) => (column.note?.length ?? 0) > NOTE.column)
      .map(
        (column) =>
          `MariaDB takes notes of up to ${NOTE.column} characters: that of ${table.name}.${column.name} is cut.`
      )
  ]
}

/** MariaDB, "CONSTRAINT": a check holds no counted column, and none that a reference changes by itself. */
function refusesCheck(
  table: Table,
  named: readonly Column[]
): ReturnType<NonNullable<Speech['refusesCheck']>> {
  const columns = withSources(table, named)
  const counted = columns.find((column) => isCounted(table, column))
  if (counted)
    return {
      column: counted.id,
      message: `MariaDB checks no column that it counts itself: a check of ${table.name} on ${counted.name} is left out.`
    }
  const moves = ({ onUpdate, onDelete }: ForeignKey): boolean =>
    onUpdate === 'CASCADE' || onUpdate === 'SET NULL' || onDelete === 'SET NULL'
  for (const key of table.foreignKeys.filter(moves)) {
    const moved = columns.find(({ id }) => key.pairs.some((pair) => pair.column === id))
    if (!moved) continue
    return {
      column: moved.id,
      message: `MariaDB checks no column that a reference changes by itself: a check of ${table.name} on ${moved.name} is left out.`,
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
function withCountedIndex(table: CatalogTable): CatalogTable {
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

export const mariadb: Provable = {
  ...dialectOf('mariadb', speech, words),
  client: {
    ...PLAIN_CLIENT,
    // A statement of several stands between others.
    begin: ['DELIMITER //'],
    settings: ['SET NAMES utf8mb4;', `${STRICT.sql};`],
    end: (sql) => `${sql} //`,
    keeps:
      'Each statement is kept at once. Keep others from writing while it runs; stopped half-way, it goes on from there when it is run again.'
  },
  inPlace,
  effort,
  migrate: (input, steps) => migrate(input, steps, speech),
  restart: (ways, way) => restart(ways, way, speech),
  chain: chain(speech),
  engine: {
    ordersColumns: true,
    oneDefault,
    oneExpression,
    oneType,
    asPrinted,
    // The counter goes on from the largest number there is by itself.
    afterRows: () => [],
    onConnect: ["SET time_zone = '+00:00'", 'SET NAMES utf8mb4', 'SET foreign_key_checks = 1'],
    reset,
    read,
    selectText: (column, type) =>
      type.kind === 'binary'
        ? `lower(hex(${quote(column)}))`
        : type.kind === 'float'
          ? quote(column)
          : `CAST(${quote(column)} AS CHAR CHARACTER SET utf8mb4)`
  }
}
