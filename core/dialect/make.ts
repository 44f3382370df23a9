import { buildCatalog } from './build.ts'
import type { Dialect } from './dialect.ts'
import { typeWords } from './facts.ts'
import { printRows } from './rows.ts'
import { defaultSql, expressionSql, type Speech } from './speech.ts'
import { createAll, createTriggers } from './write.ts'
import { tableIn, type Words } from './sql-words.ts'

/**
 * What every dialect has, from how it says things and how it writes definitions; a dialect adds its
 * migrations and its engine, where it has them.
 */
export function dialectOf(
  name: Dialect['name'],
  speech: Speech,
  words: Words,
  circles?: 'after' | 'inside'
): Omit<Dialect, 'for' | 'client' | 'inserts' | 'inPlace' | 'effort' | 'migrate' | 'chain' | 'engine'> {
  const { facts, types, quote, literal } = speech
  return {
    name,
    title: facts.title,
    facts,
    quote,
    literal,
    type: (type, context) => typeWords(types, name, facts.title, type, context),
    quoteTable: (table) => tableIn(words, table),
    default: (value, type) => defaultSql(speech, value, type),
    condition: (kept, table, name) => expressionSql(speech, table.columns, kept, undefined, name),
    inOrder: (sql, type) => speech.rows.inOrder?.(sql, type) ?? sql,
    firstOnly: speech.rows.firstOnly ?? 'LIMIT 1',
    rows: (query, context, options) => printRows(speech, query, context, options),
    catalog: (design) => buildCatalog(design, speech),
    create: (catalog, rows) => createAll(catalog, words, circles, rows),
    triggers: (catalog) => createTriggers(catalog, words)
  }
}
