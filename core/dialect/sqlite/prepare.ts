import { fold } from '../../design/directory.ts'
import { NameGiver } from '../../naming/fit.ts'
import type { CatalogColumn, CatalogTable, Statement } from '../catalog.ts'
import { columnById, tableById, type Keepsake, type MigrationInput } from '../migration.ts'
import { quote } from './types.ts'

/**
 * The first steps: new columns in the tables as they are, counted or put back, so that what is moved can
 * be read by them. The migration goes on from there as if they had always been: what it begins with has
 * them, under a passing name where theirs is still in use.
 */
export function prepare(input: MigrationInput): { steps: Statement[]; input: MigrationInput } {
  if (input.early.length === 0) return { steps: [], input }
  const steps: Statement[] = []
  let from = input.from
  for (const place of input.early) {
    const table = tableById(from, place.table)
    const wanted = columnById(tableById(input.to, place.table), place.column)
    const column: CatalogColumn = {
      ...wanted,
      name: freeIn(table, wanted.name),
      required: false,
      default: undefined,
      generated: false,
      computed: undefined,
      note: undefined
    }
    steps.push({
      sql: `ALTER TABLE ${quote(table.name)} ADD COLUMN ${quote(column.name)} ${column.type.sql}`,
      says: `add ${column.name} to ${table.name}`
    })
    if (wanted.generated) steps.push(count(table, column))
    const grown = { ...table, columns: [...table.columns, column] }
    from = { ...from, tables: from.tables.map((each) => (each.id === table.id ? grown : each)) }
    const keepsake = input.restore.find(
      (each) => each.table === place.table && each.columns.some(({ id }) => id === place.column)
    )
    if (keepsake) steps.push(putBack(keepsake, table, column))
  }
  return { steps, input: { ...input, from } }
}

/** SQLite numbers every row of a table; a table can have a column of the name that the number goes by. */
const ROW_NUMBERS = ['rowid', 'oid', '_rowid_']

function count(table: CatalogTable, column: CatalogColumn): Statement {
  const isTaken = (name: string): boolean => table.columns.some((each) => fold(each.name) === name)
  const row = ROW_NUMBERS.find((name) => !isTaken(name)) ?? 'rowid'
  const [place, name] = [quote(table.name), quote(column.name)]
  const counted = `(SELECT ${row} AS r, row_number() OVER (ORDER BY ${row}) AS n FROM ${place}) AS counted`
  return {
    sql: `UPDATE ${place} AS own SET ${name} = counted.n\n  FROM ${counted}\n  WHERE counted.r = own.${row}`,
    says: `count ${column.name} of ${table.name}`
  }
}

function putBack(keepsake: Keepsake, table: CatalogTable, column: CatalogColumn): Statement {
  const agree = keepsake.key.map((id) => `kept.${quote(id)} = own.${quote(columnById(table, id).name)}`)
  return {
    sql: `UPDATE ${quote(table.name)} AS own SET ${quote(column.name)} = kept.${quote(column.id)}\n  FROM ${quote(keepsake.name)} AS kept\n  WHERE ${agree.join(' AND ')}`,
    says: `put the kept values of ${table.name}.${column.name} back`
  }
}

function freeIn(table: CatalogTable, name: string): string {
  const names = new NameGiver(undefined)
  for (const column of table.columns) names.give(column.name)
  return names.give(name)
}
