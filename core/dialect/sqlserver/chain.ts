import {
  partsAsSql,
  done,
  fits,
  MEANT,
  NOT_MEANT,
  notes,
  notesAll,
  saying,
  says,
  saysBlank,
  type ChainWords,
  type Joined,
  type ScriptLine,
  type ChainLink
} from '../chain.ts'
import { quoteText } from '../quote.ts'
import type { Speech } from '../speech.ts'
import { migrate } from './migrate.ts'

const joined: Joined = (parts) => `CONCAT(${partsAsSql(parts).join(', ')})`

/** Batches without the transaction are passed over, so what does not fit takes back the transaction. */
export function chain(speech: Speech): ChainWords {
  const prints = (link: ChainLink, text: string): string =>
    `DECLARE @says nvarchar(400) = (${saying(link, text)});\nPRINT @says`
  const looks = (link: ChainLink): ScriptLine[] => [
    {
      sql: `DECLARE @one int = (SELECT count(*) FROM ${link.account} WITH (TABLOCKX, HOLDLOCK))`,
      says: 'one at a time'
    },
    {
      sql: `${prints(link, says(link, joined))};\nIF NOT ${fits(link)} ROLLBACK TRANSACTION`,
      says: 'where does this database stand?'
    }
  ]
  const account = (table: string): ScriptLine => ({
    sql: `IF OBJECT_ID(${quoteText(table)}) IS NULL CREATE TABLE ${table} (\n  design varchar(64) NOT NULL,\n  version int NOT NULL,\n  checksum varchar(64) NOT NULL,\n  run_at datetime2 NOT NULL,\n  PRIMARY KEY (design, version)\n)`,
    says: 'which versions were run here'
  })
  return {
    run: 'sqlcmd -b -d DATABASE -i FILE',
    account: (table) => [account(table)],
    link: (ways, link) => {
      const { input, steps } = ways[link.way]
      const first = looks(link)
      const last = [
        { sql: notes(link), says: 'note that it was run' },
        { sql: `PRINT ${quoteText(done(link))}`, says: 'what comes of it' }
      ]
      return migrate(input, steps, speech, { first, last })
    },
    adopt: (link) => [
      { sql: prints(link, saysBlank(link, joined)), says: 'what comes of it' },
      { sql: notesAll(link), says: 'note the versions' }
    ],
    dropAll: ({ tables, schemas }) => {
      const names = tables.map((name) => `OBJECT_ID(${quoteText(name)})`).join(', ')
      return [
        {
          sql: `IF OBJECT_ID(${quoteText(MEANT)}) IS NULL BEGIN\n  THROW 50000, ${quoteText(NOT_MEANT)}, 1;\nEND`,
          says: 'is it meant?'
        },
        { sql: 'SET XACT_ABORT ON', says: 'what fails takes back everything' },
        {
          sql: [
            'BEGIN TRANSACTION;',
            `IF OBJECT_ID(${quoteText(MEANT)}) IS NULL THROW 50000, 'Nothing was done.', 1;`,
            "DECLARE @sql nvarchar(max) = N'';",
            "SELECT @sql += N'ALTER TABLE ' + QUOTENAME(OBJECT_SCHEMA_NAME(parent_object_id)) + N'.' + QUOTENAME(OBJECT_NAME(parent_object_id)) + N' DROP CONSTRAINT ' + QUOTENAME(name) + N';'",
            `  FROM sys.foreign_keys WHERE referenced_object_id IN (${names});`,
            'EXEC(@sql);',
            ...[...tables, MEANT].map((name) => `DROP TABLE IF EXISTS ${name};`),
            ...schemas.map((name) => `DROP SCHEMA IF EXISTS ${name};`),
            'COMMIT TRANSACTION'
          ].join('\n'),
          says: 'drop everything'
        }
      ]
    }
  }
}
