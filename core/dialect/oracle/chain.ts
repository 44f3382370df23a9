import {
  forClient,
  joinedByBars,
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
  type ScriptLine,
  type ChainLink
} from '../chain.ts'
import { indented } from '../indent.ts'
import { quoteText } from '../quote.ts'
import type { Gate } from '../restart.ts'
import type { Speech } from '../speech.ts'
import { restart } from './migrate.ts'
import type { WayProgress } from '../distance.ts'

const OUTPUT = forClient('SET SERVEROUTPUT ON', 'what is said is shown')

/** Each statement looks by itself whether it is its turn, so that a way that does not fit never begins. */
export function chain(speech: Speech): ChainWords {
  const say = (link: ChainLink, text: string): ScriptLine => ({
    sql: `DECLARE told varchar2(400);\nBEGIN\n  SELECT said.says INTO told FROM (${indented(saying(link, text))}) said;\n  DBMS_OUTPUT.PUT_LINE(told);\nEND;`,
    says: 'what comes of it'
  })
  const unless = (sql: string, code: number): string =>
    `  BEGIN\n    EXECUTE IMMEDIATE ${quoteText(sql)};\n  EXCEPTION WHEN OTHERS THEN IF SQLCODE <> ${code} THEN RAISE; END IF;\n  END;\n`
  const account = (table: string): ScriptLine => ({
    sql: `BEGIN\n${unless(`CREATE TABLE ${table} (design varchar2(64) NOT NULL, version number(9) NOT NULL, checksum varchar2(64) NOT NULL, run_at timestamp NOT NULL, PRIMARY KEY (design, version))`, -955)}END;`,
    says: 'which versions were run here'
  })
  return {
    run: 'sqlplus USER@DATABASE @FILE',
    account: (table) => [OUTPUT, account(table)],
    link: (ways, link) => {
      const gate = (course: WayProgress): Gate => {
        const noted = [...notesOfBoth(link, course, ' FROM dual'), 'COMMIT'].map((sql) => ({
          sql,
          says: 'note what was run'
        }))
        return {
          first: [...noted, say(link, says(link, joinedByBars, stoppedHalfWay(link, course, joinedByBars)))],
          only: fits(link),
          last: [
            ...noted,
            {
              sql: `DECLARE come number; begun number;\nBEGIN\n  SELECT ${course.own.done} INTO come FROM dual;\n  IF come IS NULL THEN\n    SELECT count(*) INTO begun FROM ${course.account};\n    IF begun = 0 THEN EXECUTE IMMEDIATE ${quoteText(`DROP TABLE ${course.account}`)}; END IF;\n  ELSIF come = ${course.own.all} THEN\n    DBMS_OUTPUT.PUT_LINE(${quoteText(done(link))});\n    EXECUTE IMMEDIATE ${quoteText(`DROP TABLE ${course.account}`)};\n  END IF;\nEND;`,
              says: 'how far it came needs no keeping any more'
            }
          ]
        }
      }
      return restart(ways, link.way, speech, gate)
    },
    adopt: (link) => [
      say(link, saysBlank(link, joinedByBars)),
      { sql: notesAll(link, ' FROM dual'), says: 'note the versions' },
      { sql: 'COMMIT', says: 'keep it' }
    ],
    dropAll: ({ tables }) => {
      const drops = [...tables, MEANT].map((name) =>
        unless(`DROP TABLE ${name} CASCADE CONSTRAINTS PURGE`, -942)
      )
      const refuses = `raise_application_error(-20000, ${quoteText(NOT_MEANT)})`
      return [
        {
          sql: `DECLARE meant number;\nBEGIN\n  SELECT count(*) INTO meant FROM user_tables WHERE table_name = ${quoteText(MEANT.toUpperCase())};\n  IF meant = 0 THEN ${refuses}; END IF;\n${drops.join('')}END;`,
          says: 'drop everything, if that is meant'
        }
      ]
    }
  }
}
