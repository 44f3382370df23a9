import { groundOf } from '../carry/ground.ts'
import { byId } from '../design/by-id.ts'
import type { Design } from '../design/model.ts'
import type { TypedColumn } from '../design/row-query.ts'
import type { Catalog, CatalogTable } from './catalog.ts'
import type { Dialect } from './dialect.ts'
import { LOOSE } from './facts.ts'
import { nameParts } from './qualified.ts'
import type { RowContext, NamedRows } from './rows.ts'

/** What queries over a design are printed among, where its tables stand as its catalog has them. */
export function standingIn(
  design: Design,
  catalog: Catalog,
  dialect: Dialect,
  results: ReadonlyMap<string, { place: string; columns: readonly TypedColumn[] }> = new Map()
): RowContext {
  const typed = new Map([...results].map(([name, { columns }]) => [name, columns]))
  const tables = byId(catalog.tables)
  return {
    ground: groundOf(design, typed),
    typeSql: (type) => {
      const list = type.kind === 'enum' ? byId(design.enums).get(type.enum) : undefined
      const called = list && byId(catalog.enums).get(list.id)?.name
      const context = list ? { values: list.values, listName: called ?? list.name, inKey: 0 } : LOOSE
      return dialect.type(type, context).sql
    },
    table: (id) => standing(tables.get(id) as CatalogTable, dialect),
    result: (name) => ({
      place: results.get(name)?.place ?? dialect.quote(name),
      alias: name,
      column: (id) => ({ sql: dialect.quote(id), name: id, required: false })
    })
  }
}

function standing(table: CatalogTable, dialect: Dialect): NamedRows {
  const columns = byId(table.columns)
  return {
    place: dialect.quoteTable(table.name),
    alias: nameParts(table.name).at(-1) ?? table.name,
    column: (id) => {
      const column = columns.get(id)
      const name = column?.name ?? id
      return { sql: dialect.quote(name), name, required: column?.required ?? false }
    }
  }
}
