import {
  forClient,
  joinedByBars,
  done,
  fits,
  fitsHere,
  here,
  MEANT,
  NOT_MEANT,
  notes,
  notesAll,
  saying,
  says,
  saysBlank,
  saysUpToDate,
  type ChainWords,
  type ScriptLine,
  type ChainLink
} from '../chain.ts'
import { quoteText } from '../quote.ts'
import type { Speech } from '../speech.ts'
import { check, migrate } from './migrate.ts'

/** For its client: SQLite, "Command Line Shell For SQLite". */
const tell = forClient

const STOP = tell('.bail on', 'the first error ends it')

/** Where {@link ChainWords.upToDate} has the shell write which script comes next. */
const NEXT = 'next.sql'

/** The shell can pass over nothing: what does not fit says so, and ends with an error. */
export function chain(speech: Speech): ChainWords {
  const say = (text: string): ScriptLine => ({ sql: text, says: 'what comes of it' })
  const must = (condition: string): ScriptLine => check(condition, 'it goes on only where that fits')
  const account = (table: string): ScriptLine[] => [
    STOP,
    {
      sql: `CREATE TABLE IF NOT EXISTS ${table} (\n  design TEXT NOT NULL,\n  version INTEGER NOT NULL,\n  checksum TEXT NOT NULL,\n  run_at TEXT NOT NULL,\n  PRIMARY KEY (design, version)\n)`,
      says: 'which versions were run here'
    }
  ]
  return {
    run: 'sqlite3 DATABASE < FILE',
    account,
    link: (ways, link) => {
      const { input, steps } = ways[link.way]
      const first = [say(saying(link, says(link, joinedByBars))), must(fits(link))]
      const last = [{ sql: notes(link), says: 'note that it was run' }]
      return [...migrate(input, steps, speech, { first, last }), say(`SELECT ${quoteText(done(link))}`)]
    },
    adopt: (link) => [
      say(saying(link, saysBlank(link, joinedByBars))),
      { sql: notesAll(link), says: 'note the versions' }
    ],
    dropAll: ({ tables }) => [
      STOP,
      {
        sql: `SELECT ${quoteText(NOT_MEANT)} WHERE NOT EXISTS (SELECT 1 FROM sqlite_schema WHERE name = ${quoteText(MEANT)})`,
        says: 'is it meant?'
      },
      { sql: 'PRAGMA foreign_keys = OFF', says: 'all of them go' },
      { sql: 'BEGIN', says: 'all of it, or nothing' },
      { sql: `DROP TABLE ${MEANT}`, says: 'without that table the shell stops here' },
      ...tables.map((name) => ({ sql: `DROP TABLE IF EXISTS ${name}`, says: 'drop everything' })),
      { sql: 'COMMIT', says: 'keep it' }
    ],
    upToDate: (files) => {
      const last = files.at(-1)?.link
      const next = (link: ChainLink, when: string, yes: string, no: string, what: string): ScriptLine[] => [
        tell(`.once ${NEXT}`, what),
        {
          sql: `SELECT CASE WHEN ${when} THEN ${quoteText(yes)} ELSE ${quoteText(no)} END\nFROM ${here(link)}`,
          says: what
        },
        tell(`.read ${NEXT}`, what)
      ]
      return files.flatMap(({ link, path }) => [
        ...next(link, fitsHere(link), `.read ${path}`, '', `version ${link.number}, where it comes next`),
        ...(link === last
          ? [
              say(saying(link, saysUpToDate(link, joinedByBars))),
              ...next(
                link,
                `stands >= ${link.number} AND changed IS NULL`,
                '',
                '.exit 1',
                'an error where it did not come so far'
              )
            ]
          : [])
      ])
    }
  }
}
