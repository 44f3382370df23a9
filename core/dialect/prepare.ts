import type { Catalog, CatalogColumn, CatalogTable, Statement } from './catalog.ts'
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
 * The first steps: new columns in the tables as they are, counted or looked up while what they are
 * looked up by is still there. The migration goes on from there as if they had always been: what it
 * begins with has them, under a passing name where theirs is still in use.
 */
export function prepare(
  input: MigrationInput,
  words: PrepareWords
): { steps: Statement[]; input: MigrationInput } {
  if (input.early.length === 0 && input.lookUps.length === 0) return { steps: [], input }
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
  for (const step of input.lookUps) {
    let table = tableById(from, step.table)
    const referred = tableById(from, step.referred)
    for (const pair of step.becomes) {
      const { type } = columnById(referred, pair.refersTo)
      const column = {
        ...emptyColumn(pair.column),
        name: freeIn(table, nameAfter(input.to, step.table, pair.column), words),
        type
      }
      table = addPlain(table, column)
    }
    steps.push(lookUp(step, table, step.referred === step.table ? table : referred, words))
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

function lookUp(
  step: MigrationInput['lookUps'][number],
  table: CatalogTable,
  referred: CatalogTable,
  { quote, place }: PrepareWords
): Statement {
  const own = (id: string): string => quote(columnById(table, id).name)
  const of = (id: string): string => `referred.${quote(columnById(referred, id).name)}`
  return {
    sql: `UPDATE ${place(table.name)} AS own SET ${step.becomes.map((pair) => `${own(pair.column)} = ${of(pair.refersTo)}`).join(', ')}\n  FROM ${place(referred.name)} AS referred\n  WHERE ${step.was.map((pair) => `${of(pair.refersTo)} = own.${own(pair.column)}`).join(' AND ')}`,
    says: `look ${step.becomes.map((pair) => columnById(table, pair.column).name).join(', ')} of ${sayTable(table.name)} up in ${sayTable(referred.name)}`
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

/** What the column is to be called; one that is only passing is called by its id. */
function nameAfter(to: Catalog, table: string, column: string): string {
  return (
    to.tables.find((each) => each.id === table)?.columns.find((each) => each.id === column)?.name ?? column
  )
}

function freeIn(table: CatalogTable, name: string, words: PrepareWords): string {
  const names = new NameGiver(words.nameLimit)
  for (const column of table.columns) names.give(column.name)
  return names.give(name)
}
