import { dialectOf } from '../make.ts'
import { PLAIN_CLIENT, PLAIN_CODE, PLAIN_INSERTS, type Provable } from '../dialect.ts'
import type { Value } from '../../design/value.ts'
import type { Facts, Versions } from '../facts.ts'
import { byVersion, isBefore } from '../versions.ts'
import { sayTriggerRead } from './trigger.ts'
import { read, reset } from './read.ts'
import { chain } from './chain.ts'
import { effort } from './effort.ts'
import { inPlace, migrate, restart, STRICT } from './migrate.ts'
import {
  computed,
  countedInHash,
  handsOnNothing,
  indexOfComputedReference,
  largeRow,
  othersCollation,
  ownColumns,
  references,
  refersToHash
} from './limits.ts'
import { refusal } from './refusal.ts'
import { RESERVED } from './reserved.ts'
import { speechOf } from './speech.ts'
import { asPrinted, CALLS, KEY_BYTES, oneDefault, oneExpression, oneType, quote, typesFor } from './types.ts'
import { COLLATION, words } from './write.ts'

/** Those that are cared for for years (MariaDB, "Release Model"). */
const VERSIONS: Versions = { all: ['10.6', '10.11', '11.4', '11.8'], usual: '10.11' }

/**
 * A uuid of version 8 or more is to be of the variant that has versions, whose digit is 8 or more (RFC 9562, 4.1;
 * seen on MariaDB 10.11).
 */
function refusedUuid(value: Value): string | undefined {
  const [, , version = '', variant = ''] = String(value).split('-')
  const isRefused = version >= '8' && variant < '8'
  return isRefused ? `of version ${version[0] ?? ''} it is to have 8 to f after the third hyphen` : undefined
}

/** With InnoDB. */
export const factsOf = (oldest: string): Facts => ({
  title: 'MariaDB',
  versions: VERSIONS,
  oldest,
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
  lacksFunctions: { setting: 'MariaDB asks for no setting of a session in a definition' },
  partialIndexes: false,
  holdsByColumn: true,
  holdsByTrigger: true,
  triggers: { fillsRequired: true, readsOwn: true, needKey: false },
  emptyInKey: 'apart',
  ...(!isBefore(oldest, '10.7') && { refusesValue: { uuid: refusedUuid } }),
  counts: 'one column a table',
  comments: true,
  computed,
  references,
  judgesTypes: false,
  deferrable: false,
  deferredTriggers: false,
  key: { bytes: KEY_BYTES, columns: 16, refuses: 'made', longUnique: true, perCharacter: 4 },
  mostColumns: 1017,
  sameIndexTwice: true,
  sameReferenceTwice: true,
  lacks: [
    {
      action: 'SET DEFAULT',
      on: ['delete', 'update'],
      why: 'MariaDB takes SET DEFAULT without a word and refuses instead.'
    }
  ],
  // MariaDB, "Foreign Keys": SET NULL needs columns that may be empty.
  emptyingRequired: 'table',
  // MariaDB, "Foreign Keys": InnoDB acts by itself, row by row, below what knows of checks and triggers.
  actions: {
    runs: 'with each row',
    looks: 'with the row',
    turns: 'by key and name',
    rows: 'by key',
    checksActions: false,
    changesAgain: false,
    deepest: 14,
    defers: 'deferrable'
  },
  manyCascadePaths: true,
  rollsBack: false,
  runs: true
})

export const mariadb = byVersion<Provable>('mariadb', VERSIONS, (version) => {
  const speech = speechOf({
    name: 'mariadb',
    facts: factsOf(version),
    types: typesFor('MariaDB', !isBefore(version, '10.7')),
    collation: COLLATION,
    calls: CALLS,
    limits: [
      othersCollation(COLLATION),
      largeRow,
      countedInHash,
      refersToHash,
      handsOnNothing,
      indexOfComputedReference,
      ownColumns
    ]
  })
  return {
    ...dialectOf('mariadb', speech, words),
    client: {
      ...PLAIN_CLIENT,
      // A statement of several stands between others.
      begin: ['DELIMITER //'],
      settings: ['SET NAMES utf8mb4;', `${STRICT.sql};`],
      end: (sql) => `${sql} //`,
      block: /^CREATE TRIGGER\b/,
      endBlock: (sql) => `DELIMITER //\n${sql} //\nDELIMITER ;`,
      keeps:
        'Each statement is kept at once. Keep others from writing while it runs; stopped half-way, it goes on from there when it is run again.'
    },
    inserts: PLAIN_INSERTS,
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
      onConnect: ["SET time_zone = '+00:00'", 'SET NAMES utf8mb4', 'SET foreign_key_checks = 1'],
      unheld: ['SET foreign_key_checks = 0', 'SET foreign_key_checks = 1'],
      refusal,
      sayTrigger: sayTriggerRead,
      reset,
      read,
      selectText: (column, type) =>
        type.kind === 'binary'
          ? `lower(hex(${quote(column)}))`
          : type.kind === 'float'
            ? quote(column)
            : `CAST(${quote(column)} AS CHAR CHARACTER SET utf8mb4)`,
      code: { ...PLAIN_CODE, noValues: ' () VALUES ()' }
    }
  }
})
