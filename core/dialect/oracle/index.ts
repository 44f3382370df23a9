import { generatedColumn } from '../../design/directory.ts'
import type { Column, Table } from '../../design/model.ts'
import type { Speech } from '../speech.ts'
import { asFormat } from '../date-text.ts'
import { dialectOf } from '../make.ts'
import { PLAIN_INSERTS, type Dialect, type Inserts } from '../dialect.ts'
import type { Facts, Versions } from '../facts.ts'
import { byVersion, isBefore } from '../versions.ts'
import { quoteText } from '../quote.ts'
import { sayTable } from '../qualified.ts'
import { plainLike } from '../../sql/print.ts'
import { chain } from './chain.ts'
import { effort } from './effort.ts'
import { inPlace, migrate, restart } from './migrate.ts'
import { computed, emptyText, halfEmpty, references } from './limits.ts'
import { RESERVED } from './reserved.ts'
import { CALLS, literal, now, quote, TYPES } from './types.ts'
import { words } from './write.ts'
import { tableIn } from '../sql-words.ts'

/** Oracle Database. */
const VERSIONS: Versions = { all: ['12.2', '18', '19', '21', '23'], usual: '19' }

const factsOf = (oldest: string): Facts => ({
  title: 'Oracle',
  versions: VERSIONS,
  oldest,
  nameLimit: { most: 128, of: 'bytes' },
  // A quote cannot stand in a name, not even doubled (Oracle, "Database Object Naming Rules").
  refusedInNames: /"/g,
  kept: { column: /^ROWID$/ },
  folds: 'upper',
  reserved: RESERVED,
  schemas: true,
  rowPolicies: false,
  partialIndexes: false,
  holdsByColumn: true,
  holdsByTrigger: false,
  // ORA-04091.
  triggers: { fillsRequired: true, readsOwn: false, needKey: false },
  // Oracle, "SQL Language Reference", unique constraints: a key is left out of its index only where all is empty.
  emptyInKey: 'same beside others',
  // An empty text is null (Oracle SQL Language Reference, Nulls).
  texts: { emptyIsNothing: true },
  counts: 'one column a table',
  comments: true,
  computed,
  references,
  judgesTypes: true,
  deferrable: true,
  deferredTriggers: false,
  // ORA-02327, ORA-02329.
  key: {
    bytes: 6398,
    columns: 32,
    refuses: 'made',
    refusesTypes: { any: /^[cb]lob$/, unique: /with time zone$/ },
    perCharacter: 4
  },
  // ORA-00932: a large text is told from another by a function, and by no sign.
  neverCompared: /^[cb]lob$/,
  mostColumns: 1000,
  // ORA-01408.
  sameIndexTwice: false,
  // ORA-02274.
  sameReferenceTwice: false,
  lacks: [
    {
      action: 'RESTRICT',
      on: ['delete', 'update'],
      why: 'Oracle has no RESTRICT; what it does without a rule is NO ACTION.'
    },
    {
      action: 'CASCADE',
      on: ['update'],
      why: 'Oracle changes no key in what refers to it: there is no ON UPDATE.'
    },
    { action: 'SET NULL', on: ['update'], why: 'Oracle has no ON UPDATE.' },
    { action: 'SET DEFAULT', on: ['delete', 'update'], why: 'Oracle has no SET DEFAULT.' }
  ],
  emptyingRequired: 'row',
  // Oracle, "Data Integrity": what is left in the end is looked at with the statement's end, or the transaction's.
  actions: {
    runs: 'with each row',
    looks: 'at the end',
    turns: 'first made',
    rows: 'as put in',
    checksActions: true,
    changesAgain: true,
    defers: 'deferrable'
  },
  manyCascadePaths: true,
  rollsBack: false,
  runs: false
})

/** Truth values came with 23 (Oracle Database 23ai, "New Features", SQL). */
const hasTruth = ({ oldest }: Facts): boolean => !isBefore(oldest, '23')

/** Before that they are numbers, and no condition is one. */
const TRUTH_AS_NUMBER: NonNullable<Speech['truth']> = {
  toCondition: (value) => `${value} = 1`,
  // What cannot be told is neither.
  toValue: (condition, isSure) =>
    isSure
      ? `CASE WHEN ${condition} THEN 1 ELSE 0 END`
      : `CASE WHEN ${condition} THEN 1 WHEN NOT (${condition}) THEN 0 END`
}

/** How a format names parts (Oracle, "Format Models"). */
const FORMAT = { year: 'YYYY', month: 'MM', day: 'DD', hour: 'HH24', minute: 'MI', second: 'SS' }

const speechOf = (facts: Facts): Speech => ({
  name: 'oracle',
  facts,
  types: hasTruth(facts) ? { ...TYPES, boolean: () => ({ sql: 'boolean' }) } : TYPES,
  quote,
  literal: (value, type) =>
    hasTruth(facts) && typeof value === 'boolean' ? (value ? 'TRUE' : 'FALSE') : literal(value, type),
  now,
  enumTypes: false,
  limits: [halfEmpty, emptyText],
  // A text that may be longer than its column would be refused, whatever it is (ORA-12899).
  computes: (sql, _, typeSql) =>
    /^(varchar2|char|raw)\b/.test(typeSql) ? `CAST(${sql} AS ${typeSql})` : sql,
  rows: {
    saysTypes: true,
    noTable: ' FROM dual',
    firstOnly: 'FETCH FIRST 1 ROWS ONLY',
    // DECODE takes two empty values for the same (Oracle, "SQL Language Reference", DECODE).
    sameOrEmpty: (left, right) => `DECODE(${left}, ${right}, 1, 0) = 1`,
    inOrder: (sql, { kind }) =>
      kind === 'text' || kind === 'char' || kind === 'enum' ? `NLSSORT(${sql}, 'NLS_SORT = BINARY')` : sql
  },
  expressions: {
    text: quoteText,
    boolean: (value) => (hasTruth(facts) ? (value ? 'TRUE' : 'FALSE') : value ? '1' : '0'),
    call: (name, args) => CALLS[name]?.(args) ?? `${name}(${args.join(', ')})`,
    like: plainLike,
    quotient: (left, right, numbers) => (numbers === 'whole' ? `trunc(${left} / ${right})` : undefined),
    rest: (left, right) => `mod(${left}, ${right})`
  },
  typed: {
    dateText: (parts, sql) =>
      `to_char(${sql}, ${quoteText(asFormat(parts, FORMAT, (text) => `"${text.replaceAll('"', '')}"`))})`,
    unpadded: (sql) => `rtrim(${sql})`,
    cast: (sql, type) => (/^[cb]lob$/.test(type) ? `(${sql})` : `CAST(${sql} AS ${type})`),
    moment: (sql, from) =>
      from.kind === 'timestamp' && from.zone
        ? `sys_extract_utc(${sql})`
        : `from_tz(CAST(${sql} AS timestamp), '+00:00')`
  },
  ...(!hasTruth(facts) && { truth: TRUTH_AS_NUMBER }),
  adjust: (column, { table, column: from }) => ({
    ...column,
    generated: isCounted(table, from),
    required: from.required || isCounted(table, from)
  }),
  remarks: (table) => [
    ...(table.schema === undefined
      ? []
      : [`A schema is a user in Oracle: the one that ${table.name} stands in must be there first.`])
  ]
})

const isCounted = (table: Table, column: Column): boolean => generatedColumn(table) === column

/** No variables, blank lines within a statement, and an end at the first error. */
const SETTINGS = ['SET DEFINE OFF', 'SET SQLBLANKLINES ON', 'WHENEVER SQLERROR EXIT FAILURE ROLLBACK']
const BLOCK = /^(BEGIN|DECLARE|CREATE OR REPLACE TRIGGER)\b/

/**
 * Rows are kept when that is said; the counter goes on behind the largest number there is (Oracle, "ALTER TABLE",
 * START WITH LIMIT VALUE).
 */
const keptAndCounted: Inserts['last'] = (tables) => [
  ...(tables.length > 0 ? [{ sql: 'COMMIT', says: 'keep the rows' }] : []),
  ...tables.flatMap(({ name: table, columns }) =>
    columns
      .filter(({ generated }) => generated)
      .map(({ name }) => ({
        sql: `ALTER TABLE ${tableIn(words, table)} MODIFY (${quote(name)} GENERATED BY DEFAULT AS IDENTITY (START WITH LIMIT VALUE))`,
        says: `count ${sayTable(table)}.${name} on from the largest number there is`
      }))
  )
]

export const oracle = byVersion<Dialect>('oracle', VERSIONS, (version) => {
  const speech = speechOf(factsOf(version))
  return {
    ...dialectOf('oracle', speech, words),
    client: {
      begin: SETTINGS,
      settings: SETTINGS,
      block: BLOCK,
      // A block ends by itself, and is sent by a line of its own.
      end: (sql) => (BLOCK.test(sql) ? `${sql}\n/` : `${sql};`),
      keeps:
        'Each statement is kept at once. Keep others from writing while it runs; stopped half-way, it goes on from there when it is run again.',
      // ORA-00942 is said of views too.
      dropIfThere: (name, what = 'TABLE') =>
        `BEGIN\n  EXECUTE IMMEDIATE ${quoteText(`DROP ${what} ${name}`)};\nEXCEPTION WHEN OTHERS THEN IF SQLCODE <> -942 THEN RAISE; END IF;\nEND;`
    },
    // Several rows of VALUES came with 23.
    inserts: { ...PLAIN_INSERTS, most: 1, last: keptAndCounted },
    inPlace,
    effort,
    migrate: (input, steps) => migrate(input, steps, speech),
    restart: (ways, way) => restart(ways, way, speech),
    chain: chain(speech),
    engine: undefined
  }
})
