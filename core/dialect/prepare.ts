import type { CatalogColumn, CatalogTable, Statement } from './catalog.ts'
import { columnById, tableById, type Keepsake, type MigrationInput } from './migration.ts'
import { NameGiver } from '../naming/fit.ts'
import { sayTable } from './qualified.ts'

/** What the first steps of a migration are written with. */
export interface PrepareWords {
  quote(name: string): string
  place(table: string): string
  nameLimit: ConstructorParameters<typeof NameGiver>[0]
  /** Adds a column in which the engine counts the rows that are there. */
  count(table: CatalogTable, column: CatalogColumn): { statements: Statement[]; as: CatalogColumn }
}

/**
 * The first steps: new columns in the tables as they are, counted or put back, so that what is moved can
 * be read by them. The migration goes on from there as if they had always been: what it begins with has
 * them, under a passing name where theirs is still in use.
 */
export function prepare(
  input: MigrationInput,
  words: PrepareWords
): { steps: Statement[]; input: MigrationInput } {
  if (input.early.length === 0) return { steps: [], input }
  const steps: Statement[] = []
  let from = input.from
  const add = (table: CatalogTable, column: CatalogColumn): CatalogTable => {
    const grown = { ...table, columns: [...table.columns, column] }
    from = { ...from, tables: from.tables.map((each) => (each.id === table.id ? grown : each)) }
    return grown
  }
  const addPlain = (table: CatalogTable, column: CatalogColumn): CatalogTable => {
    steps.push({
      sql: `ALTER TABLE ${words.place(table.name)} ADD COLUMN ${words.quote(column.name)} ${column.type}`,
      says: `add ${column.name} to ${sayTable(table.name)}`
    })
    return add(table, column)
  }
  for (const place of input.early) {
    const table = tableById(from, place.table)
    const wanted = columnById(tableById(input.to, place.table), place.column)
    const column = { ...wanted, name: freeIn(table, wanted.name, words) }
    if (column.generated) {
      const { statements, as } = words.count(table, column)
      steps.push(...statements)
      add(table, as)
    } else addPlain(table, { ...emptyColumn(column.id), name: column.name, type: column.type })
    const keepsake = input.restore.find(
      (each) => each.table === place.table && each.columns.some(({ id }) => id === place.column)
    )
    if (keepsake) steps.push(putBack(keepsake, table, column, words))
  }
  return { steps, input: { ...input, from } }
}

function putBack(
  keepsake: Keepsake,
  table: CatalogTable,
  column: CatalogColumn,
  { quote, place }: PrepareWords
): Statement {
  return {
    sql: `UPDATE ${place(table.name)} AS own SET ${quote(column.name)} = kept.${quote(column.id)}\n  FROM ${quote(keepsake.name)} AS kept\n  WHERE ${keepsake.key.map((id) => `kept.${quote(id)} = own.${quote(columnById(table, id).name)}`).join(' AND ')}`,
    says: `put the kept values of ${sayTable(table.name)}.${column.name} back`
  }
}

const emptyColumn = (id: string): CatalogColumn => ({
  id,
  name: id,
  type: '',
  required: false,
  default: undefined,
  generated: false,
  computed: undefined,
  note: undefined
})

function freeIn(table: CatalogTable, name: string, words: PrepareWords): string {
  const names = new NameGiver(words.nameLimit)
  for (const column of table.columns) names.give(column.name)
  return names.give(name)
}
