import type { CatalogTable, CatalogTrigger, Statement, Tables } from '../catalog.ts'
import { schemaOf } from '../qualified.ts'
import { quoteText } from '../quote.ts'
import { copyingOf, sayTrigger, valueOf } from '../trigger.ts'
import { nameOfColumn } from '../written.ts'
import { quote } from './types.ts'
import { tableIn } from '../sql-words.ts'

/**
 * Triggers for each row, before it is written (PostgreSQL manual, CREATE TRIGGER), each with a function of its own,
 * which is called as it is and stands in the table's schema.
 */
interface Written {
  /** The statements that run it. */
  events: string
  body: string
}

function written(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): Written {
  const own = quote(nameOfColumn(table, trigger.column))
  const copying = copyingOf(table, trigger, tables, { quote })
  if (copying) {
    const { by, again, fixed } = copying
    const differs = (columns: readonly string[]): string =>
      columns.map((column) => `NEW.${column} IS DISTINCT FROM OLD.${column}`).join(' OR ')
    const value = valueOf(copying, 'NEW.')
    const body = [
      'BEGIN',
      "  IF TG_OP = 'INSERT' THEN",
      `    IF NEW.${own} IS NULL THEN NEW.${own} := ${value}; END IF;`,
      `  ELSIF NEW.${own} IS NOT DISTINCT FROM OLD.${own} THEN`,
      ...(again ? [`    IF ${differs(by)} THEN NEW.${own} := ${value}; END IF;`] : []),
      '    RETURN NEW;',
      '  END IF;',
      ...(fixed
        ? [
            `  IF NEW.${own} IS DISTINCT FROM ${value} THEN`,
            `    RAISE EXCEPTION USING ERRCODE = 'check_violation', MESSAGE = ${quoteText(copying.refusal)};`,
            '  END IF;'
          ]
        : []),
      '  RETURN NEW;',
      'END'
    ]
    return { events: `INSERT OR UPDATE OF ${[own, ...by].join(', ')}`, body: body.join('\n') }
  }
  const now = trigger.does.kind === 'renews' ? trigger.does.now : own
  const body = [
    'BEGIN',
    `  IF NEW.${own} IS NOT DISTINCT FROM OLD.${own} THEN NEW.${own} := ${now}; END IF;`,
    '  RETURN NEW;',
    'END'
  ]
  return { events: 'UPDATE', body: body.join('\n') }
}

/** The trigger's function, in the table's schema. */
const call = (table: CatalogTable, { name }: CatalogTrigger): string => {
  const schema = schemaOf(table.name)
  return schema === undefined ? quote(name) : `${quote(schema)}.${quote(name)}`
}

export function createTrigger(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): Statement[] {
  const { events, body } = written(table, trigger, tables)
  const says = sayTrigger(table, trigger)
  const on = tableIn({ quote }, table.name)
  return [
    {
      sql: `CREATE FUNCTION ${call(table, trigger)}() RETURNS trigger LANGUAGE plpgsql SET search_path FROM CURRENT AS ${quoteText(`\n${body}\n`)}`,
      says
    },
    {
      sql: `CREATE TRIGGER ${quote(trigger.name)} BEFORE ${events} ON ${on}\n  FOR EACH ROW EXECUTE FUNCTION ${call(table, trigger)}()`,
      says
    }
  ]
}

export function dropTrigger(table: CatalogTable, trigger: CatalogTrigger): Statement[] {
  const says = `no longer ${sayTrigger(table, trigger)}`
  return [
    { sql: `DROP TRIGGER ${quote(trigger.name)} ON ${tableIn({ quote }, table.name)}`, says },
    { sql: `DROP FUNCTION ${call(table, trigger)}()`, says }
  ]
}

/** What a trigger does, as ./read.ts reads it back: its name, what runs it, and the body of its function. */
export function sayTriggerRead(table: CatalogTable, trigger: CatalogTrigger, tables: Tables): string[] {
  const { events, body } = written(table, trigger, tables)
  return [`${trigger.name} BEFORE ${events}\n${body}`]
}
