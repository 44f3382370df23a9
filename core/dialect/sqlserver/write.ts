import type { CatalogTable, Statement } from '../catalog.ts'
import { hash } from '../../naming/fit.ts'
import { nameParts, sayTable } from '../qualified.ts'
import { bothActions } from '../write.ts'
import { createTrigger } from './trigger.ts'
import { endsBatch, quote, quoteText } from './types.ts'
import { conditionOf, type Words } from '../sql-words.ts'

export const words: Words = {
  quote,
  column: (column, table) => {
    // The type of a computed column follows from what it is computed from.
    if (column.computed !== undefined)
      return `AS (${conditionOf(words, table, column.computed)}) PERSISTED${column.required ? ' NOT NULL' : ''}`
    const parts = [column.type.sql]
    if (column.generated) parts.push('IDENTITY(1, 1)')
    parts.push(column.required ? 'NOT NULL' : 'NULL')
    if (column.default !== undefined) parts.push(`DEFAULT ${column.default}`)
    return parts.join(' ')
  },
  actions: bothActions,
  // CREATE SCHEMA must be alone in its batch.
  before: (catalog) => catalog.schemas.map(({ name }) => createSchema(name)),
  after: notes,
  trigger: createTrigger,
  descending: true
}

export function createSchema(name: string): Statement {
  const create = `EXEC(${quoteText(`CREATE SCHEMA ${quote(name)}`)})`
  return { sql: `IF schema_id(${quoteText(name)}) IS NULL ${create}`, says: `make the schema ${name}` }
}

/** Where tables stand that name no schema. */
export const OWN_SCHEMA = 'dbo'

/** Every note of a table. */
export function notes(table: CatalogTable): Statement[] {
  return [
    ...describe(table, undefined, table.note),
    ...table.columns.flatMap((column) => describe(table, undefined, column.note, column.name))
  ]
}

/** The statement that makes a note, says it otherwise, or takes it away. */
export function describe(
  table: CatalogTable,
  before: string | undefined,
  note: string | undefined,
  column?: string
): Statement[] {
  if (before === note) return []
  const [name = '', schema = OWN_SCHEMA] = nameParts(table.name).reverse()
  const place = [
    `N'SCHEMA', ${quoteText(schema)}`,
    `N'TABLE', ${quoteText(name)}`,
    ...(column === undefined ? [] : [`N'COLUMN', ${quoteText(column)}`])
  ]
  const what = before === undefined ? 'add' : note === undefined ? 'drop' : 'update'
  // What is put together can be handed over only by a variable, of which each batch has one of a name.
  const variable = `@note_${hash(`${table.name}.${column ?? ''}`)}`
  const isSplit = note !== undefined && endsBatch(note)
  const declared = isSplit ? `DECLARE ${variable} nvarchar(3750) = ${quoteText(note)}; ` : ''
  const said = note === undefined ? '' : isSplit ? ` ${variable},` : ` ${quoteText(note)},`
  return [
    {
      sql: `${declared}EXEC sp_${what}extendedproperty N'MS_Description',${said} ${place.join(', ')}`,
      says: `say what ${sayTable(table.name)}${column === undefined ? '' : `.${column}`} is`
    }
  ]
}
