import { sameSet } from '../design/directory.ts'
import { bareTable, type Catalog, type CatalogKey, type CatalogTable } from '../dialect/catalog.ts'
import type { Provable } from '../dialect/index.ts'
import type { StepRun } from './proof-run.ts'
import { type StepPlan } from './proof-run.ts'

/** What another system would have: its tables, made up for the proof. */
export function standIns(
  catalogs: readonly Catalog[],
  dialect: Provable
): { steps: StepPlan[]; /** What is left to make. */ without(catalog: Catalog): Catalog } {
  // A table that changes hands is made once, by whoever has it at first.
  const first = new Map<string, CatalogTable>()
  for (const table of catalogs.flatMap((catalog) => catalog.tables))
    if (!first.has(table.id)) first.set(table.id, table)
  const external = new Map([...first].filter(([, table]) => table.external))
  const tables = [...external.values()].map((table) => standIn(table, catalogs))
  const enums =
    catalogs[0]?.enums.filter((list) =>
      tables.some((table) => table.columns.some((column) => column.type.list === list.id))
    ) ?? []
  const without = (catalog: Catalog): Catalog => ({
    ...catalog,
    enums: catalog.enums.filter((list) => !enums.includes(list))
  })
  if (external.size === 0) return { steps: [], without }
  const steps = [
    {
      name: 'make stand-ins for what other systems have',
      run: async (step: StepRun) => {
        await step.execute(
          dialect.create({
            schemas: [...new Set(catalogs.flatMap((catalog) => catalog.schemas))],
            enums,
            tables
          })
        )
      }
    }
  ]
  return { steps, without }
}

/** Of another system's table what the design's own lean on: its columns, and the keys that they refer by. */
function standIn(table: CatalogTable, catalogs: readonly Catalog[]): CatalogTable {
  const references = catalogs.flatMap((catalog) =>
    catalog.tables.flatMap((each) =>
      each.foreignKeys.filter((key) => !each.external && key.table === table.id)
    )
  )
  const isUsed = (key: CatalogKey): boolean => references.some((each) => sameSet(each.refersTo, key.columns))
  // Its rows come with their numbers: nothing is counted, for which some engines would need a key.
  const columns = table.columns.map((column) => ({ ...column, generated: false }))
  return {
    ...bareTable(table.id, table.name),
    columns,
    primaryKey: table.primaryKey && isUsed(table.primaryKey) ? table.primaryKey : undefined,
    uniques: table.uniques.filter(isUsed)
  }
}
