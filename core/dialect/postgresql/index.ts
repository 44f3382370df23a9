import type { Speech } from '../speech.ts'
import { asTexts } from '../date-text.ts'
import { dialectOf } from '../make.ts'
import { PLAIN_CLIENT, PLAIN_INSERTS, type Provable } from '../dialect.ts'
import type { Facts, Versions } from '../facts.ts'
import { byVersion } from '../versions.ts'
import { quoteText } from '../quote.ts'
import { backslashLike } from '../../sql/print.ts'
import { chain } from './chain.ts'
import { effort } from './effort.ts'
import { inPlaceIn, migrate } from './migrate.ts'
import { sayTriggerRead } from './trigger.ts'
import { read, reset } from './read.ts'
import { refusal } from './refusal.ts'
import { computed, references } from './limits.ts'
import { RESERVED, TYPE_NAMES } from './reserved.ts'
import { CALLS, canonicalDefault, literal, now, oneExpression, oneType, quote, TYPES } from './types.ts'
import { resetCounter, words } from './write.ts'

/** The versions that are cared for, and those a little older (PostgreSQL, "Versioning Policy"). */
const VERSIONS: Versions = { all: ['12', '13', '14', '15', '16', '17', '18'], usual: '15' }

const factsOf = (oldest: string): Facts => ({
  title: 'PostgreSQL',
  versions: VERSIONS,
  oldest,
  came: {
    functions: {
      // PostgreSQL 13 Release Notes; before it, an extension has it.
      new_uuid: {
        in: '13',
        what: 'gen_random_uuid',
        becomes: 'without an extension, the table is refused',
        weight: 'refused'
      }
    }
  },
  nameLimit: { most: 63, of: 'bytes' },
  kept: {
    column: /^(tableoid|[cx](min|max)|ctid)$/,
    schema: /^(pg_.*|information_schema)$/,
    list: TYPE_NAMES
  },
  folds: 'lower',
  reserved: RESERVED,
  schemas: true,
  ownSchema: 'public',
  rowPolicies: true,
  partialIndexes: true,
  holdsByColumn: true,
  holdsByTrigger: false,
  triggers: { fillsRequired: true, readsOwn: true, needKey: false },
  emptyInKey: 'apart',
  // A value of a list is as long as a name (PostgreSQL manual, 8.7.4).
  texts: { listValueBytes: 63 },
  counts: 'any whole number',
  comments: true,
  computed,
  references,
  judgesTypes: true,
  deferrable: true,
  deferredTriggers: true,
  // A third of a page of the index (PostgreSQL manual, 65.1).
  key: { bytes: 2704, columns: 32, refuses: 'row', perCharacter: 4 },
  mostColumns: 1600,
  sameIndexTwice: true,
  sameReferenceTwice: true,
  lacks: [],
  emptyingRequired: 'row',
  // PostgreSQL manual, 5.5.5 and 39.1: actions are triggers behind the statement, in the order of their names.
  actions: {
    runs: 'behind the statement',
    looks: 'in turn',
    turns: 'first made',
    rows: 'as put in',
    checksActions: true,
    changesAgain: true,
    defers: 'deferrable'
  },
  manyCascadePaths: true,
  rollsBack: true,
  runs: true
})

const speechOf = (facts: Facts): Speech => ({
  name: 'postgresql',
  facts,
  types: TYPES,
  quote,
  literal,
  now,
  enumTypes: true,
  rows: {
    saysTypes: true,
    sameOrEmpty: (left, right) => `${left} IS NOT DISTINCT FROM ${right}`,
    // Lists are in the order of their values, and texts in that of the database's language.
    inOrder: (sql, { kind }) => {
      if (kind === 'enum') return `${sql}::text COLLATE "C"`
      return kind === 'text' || kind === 'char' ? `${sql} COLLATE "C"` : sql
    }
  },
  expressions: {
    text: quoteText,
    boolean: (value) => (value ? 'true' : 'false'),
    call: (name, args) => CALLS[name]?.(args) ?? `${name}(${args.join(', ')})`,
    like: backslashLike(quoteText),
    likeOf: (pattern) => `LIKE replace(${pattern}, '\\', '\\\\')`,
    // There is no rest of floating point (PostgreSQL manual, 9.3).
    rest: (left, right, numbers) =>
      numbers === 'float' ? `(${left})::numeric % (${right})::numeric` : undefined
  },
  typed: {
    // What is cast is immutable, where to_char is not.
    dateText: (parts, sql) =>
      asTexts(
        parts,
        (part, digits) => `lpad(date_part('${part}', (${sql})::timestamp)::integer::text, ${digits}, '0')`,
        quoteText
      ).join(' || '),
    said: (literal, type) => `${literal}::${type}`,
    cast: (sql, type) => `(${sql})::${type}`,
    unpadded: (sql, inLike) => (inLike ? `(${sql})::text` : sql),
    // The function is immutable, where a cast depends on the session's zone.
    moment: (sql, from) => `timezone('UTC', ${from.kind === 'date' ? `(${sql})::timestamp` : sql})`
  }
})

export const postgresql = byVersion<Provable>('postgresql', VERSIONS, (version) => {
  const speech = speechOf(factsOf(version))
  return {
    ...dialectOf('postgresql', speech, words),
    client: { ...PLAIN_CLIENT, whole: [['BEGIN'], 'COMMIT'] },
    inserts: { ...PLAIN_INSERTS, last: (tables) => tables.flatMap(resetCounter) },
    inPlace: inPlaceIn(speech.facts),
    effort,
    migrate: (input, steps) => migrate(input, steps, speech),
    chain: chain(speech),
    engine: {
      ordersColumns: false,
      oneDefault: canonicalDefault,
      oneExpression,
      oneType,
      onConnect: ["SET TIME ZONE 'UTC'", "SET intervalstyle = 'iso_8601'"],
      defer: 'SET CONSTRAINTS ALL DEFERRED',
      unheld: ['SET session_replication_role = replica', 'SET session_replication_role = origin'],
      refusal,
      sayTrigger: sayTriggerRead,
      reset,
      read,
      selectText: (column, type) =>
        type.kind === 'binary' ? `encode(${quote(column)}, 'hex')` : `${quote(column)}::text`,
      code: {
        place: (at) => `$${at + 1}`,
        placeAt: "(at: number): string => '$' + (at + 1)",
        truth: '(value: unknown): unknown => value',
        zone: 'Z',
        noValues: ' DEFAULT VALUES'
      }
    }
  }
})
