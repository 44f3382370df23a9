import type { Speech } from '../speech.ts'
import { asFormat } from '../date-text.ts'
import { dialectOf } from '../make.ts'
import { PLAIN_CLIENT, PLAIN_CODE, PLAIN_INSERTS, type Provable } from '../dialect.ts'
import type { Facts, Versions } from '../facts.ts'
import { byVersion } from '../versions.ts'
import { quoteText } from '../quote.ts'
import type { Column, Table } from '../../design/model.ts'
import { likePattern } from '../../sql/like.ts'
import { chain } from './chain.ts'
import { inDigits } from './convert.ts'
import { effort } from './effort.ts'
import { guards, inPlace, migrate } from './migrate.ts'
import { sayTriggerRead } from './trigger.ts'
import { read, reset } from './read.ts'
import { computed, ownColumns, references } from './limits.ts'
import { refusal } from './refusal.ts'
import { RESERVED } from './reserved.ts'
import { CALLS, literal, now, oneExpression, quote, TYPES } from './types.ts'
import { words } from './write.ts'

/** Those with which more came that a schema leans on (SQLite, "Release History"). */
const VERSIONS: Versions = { all: ['3.35', '3.38'], usual: '3.38' }

/** With foreign keys switched on. */
const factsOf = (oldest: string): Facts => ({
  title: 'SQLite',
  versions: VERSIONS,
  oldest,
  came: {
    types: {
      // SQLite, "JSON Functions And Operators", 2.
      json: {
        in: '3.38',
        what: 'json_valid',
        becomes: 'one that was built without it refuses the table',
        weight: 'doubtful'
      }
    }
  },
  nameLimit: undefined,
  kept: { table: /^sqlite_/i, rule: /^sqlite_/i },
  folds: 'not',
  reserved: RESERVED,
  schemas: false,
  rowPolicies: false,
  lacksFunctions: {
    current_user: 'SQLite knows nobody who is connected',
    setting: 'SQLite knows no settings of a session'
  },
  partialIndexes: true,
  holdsByColumn: true,
  holdsByTrigger: false,
  // SQLite, "CREATE TRIGGER": one changes nothing of a row that is being written.
  triggers: { fillsRequired: false, readsOwn: true, needKey: false },
  emptyInKey: 'apart',
  // SQLite, "Built-In Scalar SQL Functions", lower(X).
  texts: { onlyAToZ: true },
  counts: 'only a column that is the whole primary key',
  comments: false,
  computed,
  references,
  judgesTypes: false,
  deferrable: true,
  deferredTriggers: false,
  key: { bytes: Infinity, columns: 2000, refuses: 'made', perCharacter: 4 },
  mostColumns: 2000,
  sameIndexTwice: true,
  sameReferenceTwice: true,
  lacks: [],
  emptyingRequired: 'row',
  // SQLite, "Foreign Key Support", 4.2 and 4.3; the order in which actions come is that of its own lists.
  actions: {
    runs: 'with each row',
    looks: 'at the end',
    turns: 'last made',
    rows: 'as put in',
    checksActions: true,
    changesAgain: true,
    // SQLite, "Implementation Limits", 10: the depth of trigger recursion.
    deepest: 999,
    // SQLite, "Foreign Key Support", 2: off, unless each connection switches it on.
    heldOnRequest: true,
    defers: 'all'
  },
  manyCascadePaths: true,
  rollsBack: true,
  runs: true
})

/** How a format names parts (SQLite, "Date And Time Functions"). */
const FORMAT = { year: '%Y', month: '%m', day: '%d', hour: '%H', minute: '%M', second: '%S' }

const speechOf = (facts: Facts): Speech => ({
  name: 'sqlite',
  facts,
  types: TYPES,
  quote,
  literal,
  now,
  enumTypes: false,
  limits: [ownColumns],
  rows: { saysTypes: false, sameOrEmpty: (left, right) => `${left} IS ${right}` },
  expressions: {
    text: quoteText,
    boolean: (value) => (value ? 'TRUE' : 'FALSE'),
    call: (name, args) => CALLS[name]?.(args) ?? `${name}(${args.join(', ')})`,
    // What is kept as a decimal may be a whole number there, and would divide as one; % knows whole ones only.
    quotient: (left, right, numbers) =>
      numbers === 'whole' ? undefined : `CAST(${left} AS REAL) / ${right}`,
    rest: (left, right, numbers) =>
      numbers === 'whole' ? undefined : `(${left} - ${right} * CAST(${left} / ${right} AS INTEGER))`,
    // LIKE takes large letters for small ones; GLOB does not (SQLite, "The LIKE, GLOB, REGEXP … operators").
    like: (parts) =>
      `GLOB ${quoteText(likePattern(parts, (text) => text.replaceAll(/[[*?]/g, '[$&]'), ['*', '?']))}`,
    likeOf: (pattern) =>
      `GLOB ${[
        ['[', '[[]'],
        ['*', '[*]'],
        ['?', '[?]'],
        ['%', '*'],
        ['_', '?']
      ].reduce((text, [from, to]) => `replace(${text}, '${from}', '${to}')`, pattern)}`
  },
  typed: {
    dateText: (parts, sql) =>
      `strftime(${quoteText(asFormat(parts, FORMAT, (text) => text.replaceAll('%', '%%')))}, ${sql})`
  },
  // Others round what is computed to the digits of its column.
  computes: (sql, to, _, gives) => {
    if (to.kind === 'decimal') return inDigits(sql, to)
    return to.kind === 'integer' && gives?.kind !== 'integer' ? `CAST(round(${sql}) AS INTEGER)` : sql
  },
  /**
   * A generated key is INTEGER PRIMARY KEY AUTOINCREMENT. A lone integer key that is not generated is INT
   * and not INTEGER: only the latter would fill itself (SQLite, "CREATE TABLE", 5). A default that is
   * worked out stands in parentheses.
   */
  adjust: (column, { table, column: from }) => {
    const counted = isCounted(table, from)
    const lone =
      !counted &&
      from.type.kind === 'integer' &&
      from.type.size === 'normal' &&
      table.primaryKey?.columns.length === 1 &&
      table.primaryKey.columns[0] === from.id
    const worked = from.default?.kind === 'expression' && column.default !== undefined
    return {
      ...column,
      type: counted || lone ? { ...column.type, sql: counted ? 'INTEGER' : 'INT' } : column.type,
      required: from.required,
      generated: counted,
      default: worked ? `(${column.default as string})` : column.default
    }
  }
})

/** A generated column that is the table's whole key. */
function isCounted(table: Table, column: Column): boolean {
  return (
    column.default?.kind === 'generated' &&
    table.primaryKey?.columns.length === 1 &&
    table.primaryKey.columns[0] === column.id
  )
}

export const sqlite = byVersion<Provable>('sqlite', VERSIONS, (version) => {
  const speech = speechOf(factsOf(version))
  return {
    // It adds no constraint later, so references that run in a circle stand inside their tables.
    ...dialectOf('sqlite', speech, words, 'inside'),
    client: {
      ...PLAIN_CLIENT,
      whole: [['BEGIN'], 'COMMIT'],
      guards,
      keeps:
        'One transaction: all of it, or nothing. Where it stops, sqlite3 goes on and prints further errors: the first is the reason, and sqlite3 -bail ends there.',
      remember: 'References are held only on a connection that has said PRAGMA foreign_keys = ON.'
    },
    inserts: PLAIN_INSERTS,
    inPlace,
    effort,
    migrate: (input, steps) => migrate(input, steps, speech),
    chain: chain(speech),
    engine: {
      ordersColumns: true,
      // The parentheses around what is worked out are not given back.
      oneDefault: oneExpression,
      oneExpression,
      // A type of the standard is kept in large letters.
      oneType: (sql) => sql.toUpperCase(),
      onConnect: ['PRAGMA foreign_keys = ON'],
      defer: 'PRAGMA defer_foreign_keys = ON',
      unheld: ['PRAGMA foreign_keys = OFF', 'PRAGMA foreign_keys = ON'],
      refusal,
      sayTrigger: sayTriggerRead,
      reset,
      read,
      selectText: (column, type) =>
        type.kind === 'binary'
          ? `CASE WHEN ${quote(column)} IS NOT NULL THEN lower(hex(${quote(column)})) END`
          : type.kind === 'float'
            ? quote(column)
            : `CAST(${quote(column)} AS TEXT)`,
      code: PLAIN_CODE
    }
  }
})
