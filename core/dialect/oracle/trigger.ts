import type { CatalogTable, CatalogTrigger, Statement, Tables } from '../catalog.ts'
import { qualify, schemaOf } from '../qualified.ts'
import { quoteText } from '../quote.ts'
import { copyingOf, sayTrigger, type Copying } from '../trigger.ts'
import { nameOfColumn } from '../written.ts'
import { quote } from './types.ts'
import { tableIn } from '../sql-words.ts'

/**
 * Triggers for each row, before it is written (Oracle, "CREATE TRIGGER"). One may not read the table that it is on
 * (ORA-04091), so no value is copied within a table.
 */
export function createTrigger(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): Statement[] {
  const column = nameOfColumn(table, trigger.column)
  const own = quote(column)
  const copying = copyingOf(table, trigger, tables, { quote })
  const on = tableIn({ quote }, table.name)
  const lines = copying
    ? copyingLines(on, copying)
    : [
        'BEGIN',
        // Whether the statement says something of the column (Oracle, "Conditional Predicates").
        `  IF NOT UPDATING(${quoteText(column)}) THEN :NEW.${own} := ${trigger.does.kind === 'renews' ? trigger.does.now : own}; END IF;`,
        'END;'
      ]
  const events = copying ? `INSERT OR UPDATE OF ${[own, ...copying.by].join(', ')}` : 'UPDATE'
  return [
    {
      sql: `CREATE OR REPLACE TRIGGER ${place(table, trigger)} BEFORE ${events} ON ${on} FOR EACH ROW\n${lines.join('\n')}`,
      says: sayTrigger(table, trigger)
    }
  ]
}

function copyingLines(on: string, { own, by, again, fixed, takes, source, refusal }: Copying): string[] {
  const isSame = (one: string, other: string): string =>
    `(${one} = ${other} OR (${one} IS NULL AND ${other} IS NULL))`
  const isKept = isSame(`:NEW.${own}`, `:OLD.${own}`)
  const refersToSame = by.map((column) => isSame(`:NEW.${column}`, `:OLD.${column}`)).join(' AND ')
  const refuse = `RAISE_APPLICATION_ERROR(-20001, ${quoteText(refusal)});`
  const isGiven = isSame(`:NEW.${own}`, 'given')
  return [
    `DECLARE given ${on}.${own}%TYPE;`,
    'BEGIN',
    // There is one such row, or none.
    `  FOR found IN (SELECT ${takes} AS taken FROM ${source(':NEW.')}) LOOP given := found.taken; END LOOP;`,
    `  IF INSERTING AND :NEW.${own} IS NULL THEN`,
    `    :NEW.${own} := given;`,
    ...(again
      ? [`  ELSIF UPDATING AND ${isKept} AND NOT (${refersToSame}) THEN`, `    :NEW.${own} := given;`]
      : []),
    ...(fixed ? [`  ELSIF (INSERTING OR NOT ${isKept}) AND NOT ${isGiven} THEN`, `    ${refuse}`] : []),
    '  END IF;',
    'END;'
  ]
}

export const dropTrigger = (table: CatalogTable, trigger: CatalogTrigger): Statement[] => [
  { sql: `DROP TRIGGER ${place(table, trigger)}`, says: `no longer ${sayTrigger(table, trigger)}` }
]

const place = (table: CatalogTable, { name }: CatalogTrigger): string =>
  tableIn({ quote }, qualify(schemaOf(table.name), name))
