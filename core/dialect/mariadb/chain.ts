import {
  partsAsSql,
  done,
  fits,
  MEANT,
  NOT_MEANT,
  notesAll,
  notesOfBoth,
  saying,
  says,
  saysBlank,
  stoppedHalfWay,
  type ChainWords,
  type Joined,
  type ScriptLine
} from '../chain.ts'
import type { Gate } from '../restart.ts'
import type { Speech } from '../speech.ts'
import { restart } from './migrate.ts'
import { quote, quoteText } from './types.ts'
import type { WayProgress } from '../distance.ts'

const joined: Joined = (parts) => `concat(${partsAsSql(parts, quoteText).join(', ')})`

/** What sees that everything is dropped only where that is meant, as a statement of several. */
type Block = (sql: string, says: string) => ScriptLine[]

/** Each statement looks by itself whether it is its turn, so that a way that does not fit never begins. */
export function chain(
  speech: Speech,
  run = 'mariadb DATABASE < FILE',
  way: typeof restart = restart,
  block: Block = (sql, says) => [{ sql, says }]
): ChainWords {
  const say = (text: string): ScriptLine => ({ sql: text, says: 'what comes of it' })
  const account = (table: string): ScriptLine => ({
    sql: `CREATE TABLE IF NOT EXISTS ${table} (\n  design varchar(64) NOT NULL,\n  version int NOT NULL,\n  checksum varchar(64) NOT NULL,\n  run_at datetime NOT NULL,\n  PRIMARY KEY (design, version)\n) ENGINE = InnoDB`,
    says: 'which versions were run here'
  })
  return {
    run,
    account: (table) => [account(table)],
    link: (ways, link) => {
      const gate = (course: WayProgress): Gate => {
        const isDone = `${course.own.done} = ${course.own.all}`
        const noted = notesOfBoth(link, course, ' FROM dual').map((sql) => ({
          sql,
          says: 'note what was run'
        }))
        return {
          first: [...noted, say(saying(link, says(link, joined, stoppedHalfWay(link, course, joined))))],
          only: fits(link),
          last: [
            ...noted,
            {
              sql: `IF ${isDone} THEN\n  SELECT ${quoteText(done(link))} AS says;\n  DROP TABLE ${course.account};\nELSEIF NOT EXISTS (SELECT 1 FROM ${course.account}) THEN\n  DROP TABLE ${course.account};\nEND IF`,
              says: 'how far it came needs no keeping any more'
            }
          ]
        }
      }
      return way(ways, link.way, speech, gate)
    },
    adopt: (link) => [
      say(saying(link, saysBlank(link, joined))),
      { sql: notesAll(link, ' FROM dual'), says: 'note the versions' }
    ],
    dropAll: ({ tables }) => {
      const isMeant = `EXISTS (SELECT 1 FROM information_schema.tables WHERE table_schema = database() AND table_name = ${quoteText(MEANT)})`
      const drops = [...tables, quote(MEANT)].map((name) => `  DROP TABLE IF EXISTS ${name};\n`).join('')
      return block(
        `IF ${isMeant} THEN\n  SET SESSION foreign_key_checks = 0;\n${drops}  SET SESSION foreign_key_checks = 1;\nELSE\n  SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = ${quoteText(NOT_MEANT.slice(0, 120))};\nEND IF`,
        'drop everything, if that is meant'
      )
    }
  }
}
