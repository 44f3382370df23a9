import {
  forClient,
  joinedByBars,
  done,
  fitsHere,
  here,
  MEANT,
  NOT_MEANT,
  notes,
  notesAll,
  saying,
  says,
  saysBlank,
  type ChainWords,
  type ScriptLine,
  type ChainLink
} from '../chain.ts'
import { quoteText } from '../quote.ts'
import type { Speech } from '../speech.ts'
import { migrate } from './migrate.ts'

/** For its client: PostgreSQL manual, psql, "Meta-Commands". */
const tell = forClient

const STOP = tell('\\set ON_ERROR_STOP on', 'the first error ends it')
const SAID = 'what comes of it'

/**
 * psql looks at the account inside the transaction, with the account locked, and passes over what does not
 * fit (\if).
 */
export function chain(speech: Speech): ChainWords {
  const looks = (link: ChainLink): ScriptLine[] => [
    { sql: `LOCK TABLE ${link.account} IN EXCLUSIVE MODE`, says: 'one at a time' },
    tell(
      `SELECT ${fitsHere(link)} AS fits, ${says(link, joinedByBars)} AS says\nFROM ${here(link)} \\gset`,
      'where does this database stand?'
    ),
    tell('\\echo :says', SAID),
    tell('\\if :fits', SAID)
  ]
  const ends = (text: string): ScriptLine[] => [
    tell('\\if :fits', SAID),
    tell(`\\echo ${quoteText(text)}`, SAID),
    tell('\\endif', SAID)
  ]
  const account = (table: string): ScriptLine[] => [
    STOP,
    tell('SET client_min_messages = warning;', 'what is there already needs no notice'),
    {
      sql: `CREATE TABLE IF NOT EXISTS ${table} (\n  design varchar(64) NOT NULL,\n  version integer NOT NULL,\n  checksum varchar(64) NOT NULL,\n  run_at timestamptz NOT NULL,\n  PRIMARY KEY (design, version)\n)`,
      says: 'which versions were run here'
    }
  ]
  return {
    run: 'psql -d DATABASE -f FILE',
    account,
    link: (ways, link) => {
      const { input, steps } = ways[link.way]
      const first = looks(link)
      const last: ScriptLine[] = [
        { sql: notes(link), says: 'note that it was run' },
        tell('\\endif', 'it was run')
      ]
      return [...migrate(input, steps, speech, { first, last }), ...ends(done(link))]
    },
    adopt: (link) => [
      { sql: saying(link, saysBlank(link, joinedByBars)), says: SAID },
      { sql: notesAll(link), says: 'note the versions' }
    ],
    dropAll: ({ tables, lists, schemas }) => [
      STOP,
      {
        sql: `DO $$ BEGIN\n  IF to_regclass(${quoteText(MEANT)}) IS NULL THEN\n    RAISE EXCEPTION '%', ${quoteText(NOT_MEANT)};\n  END IF;\nEND $$`,
        says: 'is it meant?'
      },
      tell('SET client_min_messages = warning;', 'what is not there needs no notice'),
      { sql: 'BEGIN', says: 'all of it, or nothing' },
      ...[...tables, MEANT].map((name) => ({
        sql: `DROP TABLE IF EXISTS ${name} CASCADE`,
        says: 'drop everything'
      })),
      ...lists.map((name) => ({ sql: `DROP TYPE IF EXISTS ${name}`, says: 'drop the lists of values' })),
      ...schemas.map((name) => ({ sql: `DROP SCHEMA IF EXISTS ${name}`, says: 'drop the schemas' })),
      { sql: 'COMMIT', says: 'keep it' }
    ]
  }
}
