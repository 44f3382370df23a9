import { generatedColumn, referencesTo } from '../../design/directory.ts'
import type { Design, Table } from '../../design/model.ts'
import type { CatalogTable } from '../catalog.ts'
import { PLAIN_CLIENT, PLAIN_INSERTS, type Dialect } from '../dialect.ts'
import type { Facts, Versions } from '../facts.ts'
import { dialectOf } from '../make.ts'
import { chain } from '../mariadb/chain.ts'
import { factsOf as mariadbFacts } from '../mariadb/index.ts'
import { largeRow, othersCollation, ownColumns, references } from '../mariadb/limits.ts'
import { STRICT } from '../mariadb/migrate.ts'
import { speechOf } from '../mariadb/speech.ts'
import { CALLS, KEY_BYTES, typesFor } from '../mariadb/types.ts'
import { wordsOf } from '../mariadb/write.ts'
import { byVersion } from '../versions.ts'
import { effort } from './effort.ts'
import { computed, computedFromCounted, referenceUnderStored } from './limits.ts'
import { asProcedure, inPlace, migrate, restart } from './migrate.ts'
import { RESERVED } from './reserved.ts'

/** From 8.0.19 on, checks are held and can be dropped by name (MySQL 8.0 Release Notes). */
const VERSIONS: Versions = { all: ['8.0', '8.4'], usual: '8.0' }

/** With InnoDB, as MariaDB has it but for what is said here. */
const factsOf = (oldest: string): Facts => ({
  ...mariadbFacts(oldest),
  refusesValue: {},
  title: 'MySQL',
  versions: VERSIONS,
  reserved: RESERVED,
  lacksFunctions: { setting: 'MySQL asks for no setting of a session in a definition' },
  // None can be made within a procedure (MySQL 8.4 Reference Manual, 27.8).
  holdsByTrigger: false,
  triggers: {
    lacks: 'no trigger can be made within the procedure that a migration is there',
    fillsRequired: false,
    readsOwn: true,
    needKey: false
  },
  computed,
  references: { ...references, indexesComputed: false },
  // A key is nowhere held by a hash (MySQL 8.4 Reference Manual, 17.21).
  key: { bytes: KEY_BYTES, columns: 16, refuses: 'made', perCharacter: 4 },
  lacks: [
    {
      action: 'SET DEFAULT',
      on: ['delete', 'update'],
      why: 'MySQL knows SET DEFAULT, and refuses a table of InnoDB with it.'
    }
  ],
  runs: false
})

/** A byte-wise order that counts the blanks at an end (MySQL 8.4 Reference Manual, 12.10.1). */
const COLLATION = 'utf8mb4_0900_bin'
const words = wordsOf(COLLATION)

/** What a key or a reference is made of is kept with the row: neither takes what is worked out when it is read. */
function withStored(made: CatalogTable, { table, design }: { table: Table; design: Design }): CatalogTable {
  const kept = new Set([
    ...(made.primaryKey?.columns ?? []),
    ...made.foreignKeys.flatMap(({ columns }) => columns),
    ...referencesTo(design, table.id).flatMap(({ foreignKey }) =>
      foreignKey.pairs.map(({ refersTo }) => refersTo)
    )
  ])
  return {
    ...made,
    columns: made.columns.map((column) =>
      column.computed !== undefined && kept.has(column.id) ? { ...column, stored: true } : column
    )
  }
}

export const mysql = byVersion<Dialect>('mysql', VERSIONS, (version) => {
  const speech = speechOf({
    name: 'mysql',
    facts: factsOf(version),
    types: typesFor('MySQL', false),
    collation: COLLATION,
    calls: { ...CALLS, replace: (args) => `replace(${args.join(', ')})` },
    limits: [othersCollation(COLLATION), largeRow, computedFromCounted, referenceUnderStored, ownColumns],
    adjust: (column, { table, column: from }) => {
      // What has no length takes a default only as something worked out (MySQL 8.4 Reference Manual, 13.6).
      const isLarge = /^long/.test(column.type.sql)
      const isPlain = column.default !== undefined && !column.default.startsWith('(')
      const isCounted = generatedColumn(table) === from
      return isLarge && isPlain && !isCounted ? { ...column, default: `(${column.default})` } : column
    },
    finish: withStored
  })
  return {
    ...dialectOf('mysql', speech, words),
    client: {
      ...PLAIN_CLIENT,
      // A statement of several stands between others.
      begin: ['DELIMITER //'],
      settings: ['SET NAMES utf8mb4;', `${STRICT.sql};`],
      end: (sql) => `${sql} //`,
      keeps:
        'Each statement is kept at once. Keep others from writing while it runs; stopped half-way, it goes on from there when it is run again. It runs as a procedure, which it makes and drops.'
    },
    inserts: PLAIN_INSERTS,
    inPlace,
    effort,
    migrate: (input, steps) => migrate(input, steps, speech, words),
    restart: (ways, way) => restart(ways, way, speech, words),
    chain: chain(
      speech,
      'mysql DATABASE < FILE',
      (ways, way, _, gate) => restart(ways, way, speech, words, gate),
      (sql, says) => asProcedure([{ sql, says }])
    ),
    engine: undefined
  }
})
