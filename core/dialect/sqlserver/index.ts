import { byId } from '../../design/by-id.ts'
import { generatedColumn, referencesTo, sameSet } from '../../design/directory.ts'
import type { Column, Table } from '../../design/model.ts'
import type { Speech } from '../speech.ts'
import { asTexts } from '../date-text.ts'
import { dialectOf } from '../make.ts'
import type { CatalogKey, CatalogTable } from '../catalog.ts'
import { PLAIN_CLIENT, PLAIN_INSERTS, type Dialect, type Inserts } from '../dialect.ts'
import type { Facts, Versions } from '../facts.ts'
import { byVersion, isBefore } from '../versions.ts'
import { sayTable } from '../qualified.ts'
import { written, type Written } from '../written.ts'
import { likePattern } from '../../sql/like.ts'
import { chain } from './chain.ts'
import { effort } from './effort.ts'
import { filterOf } from './filter.ts'
import { inPlace, migrate } from './migrate.ts'
import { computed, defaultNeeded, oneEmpty, references } from './limits.ts'
import { RESERVED } from './reserved.ts'
import { CALLS, computedLiteral, literal, now, quote, quoteText, TYPES } from './types.ts'
import { OWN_SCHEMA, words } from './write.ts'
import { tableIn } from '../sql-words.ts'

const VERSIONS: Versions = { all: ['2016', '2017', '2019', '2022', '2025'], usual: '2019' }

const factsOf = (oldest: string): Facts => ({
  title: 'SQL Server',
  versions: VERSIONS,
  oldest,
  nameLimit: { most: 128, of: 'characters' },
  // A table whose name begins with # is gone with the session.
  kept: { table: /^#/, schema: /^(sys|information_schema)$/i, rule: /^#/ },
  folds: 'not',
  reserved: RESERVED,
  schemas: true,
  ownSchema: OWN_SCHEMA,
  rowPolicies: false,
  partialIndexes: true,
  holdsByColumn: false,
  holdsByTrigger: false,
  // Transact-SQL, "CREATE TRIGGER": one runs when the rows of a statement are written.
  triggers: { fillsRequired: false, readsOwn: true, needKey: true },
  emptyInKey: 'same',
  // Texts are padded with blanks before they are compared (Transact-SQL reference, = (Equals)).
  texts: { blanksAlike: true },
  counts: 'one column a table',
  comments: true,
  computed,
  references,
  judgesTypes: true,
  deferrable: false,
  deferredTriggers: false,
  // A clustered index, as that of a primary key, has fewer bytes; what is kept apart is in none (Msg 1919).
  key: {
    bytes: 1700,
    columns: 32,
    refuses: 'row',
    primaryBytes: 900,
    refusesTypes: { any: /\(max\)$/ },
    perCharacter: 2
  },
  mostColumns: 1024,
  sameIndexTwice: true,
  sameReferenceTwice: true,
  lacks: [
    {
      action: 'RESTRICT',
      on: ['delete', 'update'],
      why: 'SQL Server has no RESTRICT; NO ACTION refuses at the end of the statement.'
    }
  ],
  // Msg 1761 (SQL Server, "Database engine errors").
  emptyingRequired: 'table',
  // Msg 1785 (SQL Server, "Database engine errors").
  // SQL Server, "Primary and Foreign Key Constraints": what is left in the end is looked at with the statement's end.
  actions: {
    runs: 'with each row',
    looks: 'at the end',
    turns: 'first made',
    rows: 'as put in',
    checksActions: true,
    changesAgain: true,
    defers: 'deferrable'
  },
  manyCascadePaths: false,
  rollsBack: true,
  runs: false
})

const speechOf = (facts: Facts): Speech => ({
  name: 'sqlserver',
  facts,
  types: TYPES,
  quote,
  literal,
  now,
  enumTypes: false,
  limits: [oneEmpty, defaultNeeded],
  filter: filterOf,
  rows: {
    saysTypes: true,
    // SQL Server, "ORDER BY clause": FETCH stands behind OFFSET alone.
    firstOnly: 'OFFSET 0 ROWS FETCH NEXT 1 ROWS ONLY',
    // IS NOT DISTINCT FROM came with SQL Server 2022; a set operation takes empty for the same as empty.
    sameOrEmpty: (left, right) => `EXISTS (SELECT ${left} INTERSECT SELECT ${right})`,
    inOrder: (sql, { kind }) => {
      if (kind === 'uuid') return `CAST(${sql} AS char(36))`
      const isText = kind === 'text' || kind === 'char' || kind === 'enum'
      return isText ? `${sql} COLLATE Latin1_General_100_BIN2` : sql
    }
  },
  expressions: {
    text: quoteText,
    boolean: (value) => (value ? '1' : '0'),
    call: (name, args) => {
      // TRIM came with SQL Server 2017.
      if (name === 'trim' && isBefore(facts.oldest, '2017')) return `ltrim(rtrim(${args.join(', ')}))`
      return CALLS[name]?.(args) ?? `${name}(${args.join(', ')})`
    },
    concat: (left, right) => `${left} + ${right}`,
    // There is no rest of floating point (Msg 402).
    rest: (left, right, numbers) =>
      numbers === 'float'
        ? `CAST(${left} AS decimal(38, 10)) % CAST(${right} AS decimal(38, 10))`
        : undefined,
    // A bracket begins a set of characters, and a set of one is how a wildcard stands for itself.
    like: (parts) => `LIKE ${quoteText(likePattern(parts, (text) => text.replaceAll(/[[%_]/g, '[$&]')))}`,
    likeOf: (pattern) => `LIKE replace(${pattern}, '[', '[[]')`
  },
  typed: {
    dateText: (parts, sql) =>
      asTexts(
        parts,
        (part, digits) =>
          `right('${'0'.repeat(digits)}' + CAST(datepart(${part}, ${sql}) AS varchar(4)), ${digits})`,
        quoteText
      ).join(' + '),
    unpadded: (sql) => `rtrim(${sql})`,
    cast: (sql, type) => `CAST(${sql} AS ${type})`,
    // One without a zone is taken as UTC beside one with; the other way round it must be said.
    moment: (sql, from) =>
      from.kind === 'timestamp' && from.zone ? `CAST(switchoffset(${sql}, '+00:00') AS datetime2)` : sql
  },
  truth: {
    toCondition: (value) => `${value} = 1`,
    // What cannot be told is neither.
    toValue: (condition, isSure) =>
      isSure
        ? `CAST(CASE WHEN ${condition} THEN 1 ELSE 0 END AS bit)`
        : `CAST(CASE WHEN ${condition} THEN 1 WHEN NOT (${condition}) THEN 0 END AS bit)`
  },
  computedLiteral,
  // The type of a computed column follows from what it is computed from.
  computes: (sql, to, typeSql, gives) => {
    if (gives?.kind === 'boolean' && to.kind === 'boolean') return sql
    // A cast to a whole number cuts, where others round.
    const isRounded = to.kind === 'integer' && gives?.kind !== 'integer'
    return `CAST(${isRounded ? `round(${sql}, 0)` : sql} AS ${typeSql})`
  },
  adjust: (column, { table, column: from }) => ({
    ...column,
    generated: isCounted(table, from),
    required: from.required || isCounted(table, from)
  }),
  finish: (table, { table: from, design }) => {
    const keys = new Set(referencesTo(design, from.id).map(({ foreignKey }) => foreignKey.key))
    const referred = from.uniques.filter(({ id }) => keys.has(id))
    // Of keys on the same columns one is written.
    return emptyUniques(table, (key) => referred.some((each) => sameSet(each.columns, key.columns)))
  }
})

const isCounted = (table: Table, column: Column): boolean => generatedColumn(table) === column

/**
 * Two empty values count as equal in a unique constraint, so one whose columns may be empty becomes a
 * unique index on the rows that are filled; not where a reference leans on it, which needs the constraint.
 */
function emptyUniques(table: CatalogTable, isReferred: (key: CatalogKey) => boolean): CatalogTable {
  const byKey = byId(table.columns)
  const mayBeEmpty = (id: string): boolean => byKey.get(id)?.required === false
  // The condition of an index names no computed column (Msg 10609).
  const canTell = (id: string): boolean => !mayBeEmpty(id) || byKey.get(id)?.computed === undefined
  const open = table.uniques.filter(
    (key) => !isReferred(key) && key.columns.some(mayBeEmpty) && key.columns.every(canTell)
  )
  if (open.length === 0) return table
  const filled = (columns: readonly string[]): Written =>
    written((name) =>
      columns
        .filter(mayBeEmpty)
        .map((id) => `${name(id)} IS NOT NULL`)
        .join(' AND ')
    )
  return {
    ...table,
    uniques: table.uniques.filter((key) => !open.includes(key)),
    indexes: [
      ...open.map((key) => ({
        ...key,
        unique: true,
        descending: key.columns.map(() => false),
        where: filled(key.columns)
      })),
      ...table.indexes
    ]
  }
}

/** Its own client begins with quotes off; they are on from the next batch (SQL Server, "SET QUOTED_IDENTIFIER"). */
const SETTINGS = ['SET QUOTED_IDENTIFIER ON;', 'SET ANSI_NULLS ON;', 'SET ANSI_PADDING ON;', 'GO']

/** A counted column takes numbers only while that is said; the counter goes on behind the largest of them. */
const numbered =
  (on: 'ON' | 'OFF'): Inserts['before'] =>
  (table, columns) =>
    table.columns.some(({ id, generated }) => generated && columns.includes(id))
      ? [
          {
            sql: `SET IDENTITY_INSERT ${tableIn(words, table.name)} ${on}`,
            says: `numbers of ${sayTable(table.name)} are ${on === 'ON' ? 'put in' : 'counted again'}`
          }
        ]
      : []

const SAYS_LETTERS =
  "IF N'a' = N'A' COLLATE DATABASE_DEFAULT PRINT N'This database takes large and small letters for the same, in keys and checks too: one whose collation ends in _BIN2 does not.';"

export const sqlserver = byVersion<Dialect>('sqlserver', VERSIONS, (version) => {
  const speech = speechOf(factsOf(version))
  return {
    ...dialectOf('sqlserver', speech, words),
    // A batch ends with a line of its own; a column cannot be used in the batch that adds it.
    client: {
      ...PLAIN_CLIENT,
      begin: SETTINGS,
      // What the database takes for the same follows from its collation.
      settings: [...SETTINGS, SAYS_LETTERS, 'GO'],
      end: (sql) => `${sql};\nGO`,
      // Msg 111: CREATE VIEW is the first of its batch.
      afterView: 'GO',
      whole: [['SET XACT_ABORT ON', 'BEGIN TRANSACTION'], 'COMMIT TRANSACTION']
    },
    inserts: { ...PLAIN_INSERTS, before: numbered('ON'), after: numbered('OFF') },
    inPlace,
    effort,
    migrate: (input, steps) => migrate(input, steps, speech),
    chain: chain(speech),
    engine: undefined
  }
})
