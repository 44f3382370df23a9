import { describe, expect, it } from 'vitest'
import { bareTable, type Catalog, type CatalogTable } from './catalog.ts'
import { withCircles } from './circles.ts'
import { DIALECTS } from './index.ts'

/** Two tables that refer to each other, one of them by a column that may be empty unless it is said. */
function pair(isNeeded: boolean): Catalog {
  const table = (id: string, other: string, required: boolean): CatalogTable => ({
    ...bareTable(id, id),
    columns: [
      {
        id: `${id}_to`,
        name: `${other}_id`,
        type: { sql: 'integer' },
        required,
        default: undefined,
        generated: false,
        computed: undefined,
        note: undefined
      }
    ],
    foreignKeys: [
      {
        id: `${id}_key`,
        name: `${id}_key`,
        columns: [`${id}_to`],
        table: other,
        refersTo: ['id'],
        onDelete: 'NO ACTION',
        onUpdate: 'NO ACTION',
        deferrable: undefined
      }
    ]
  })
  return { schemas: [], enums: [], tables: [table('pen', 'keeper', true), table('keeper', 'pen', isNeeded)] }
}

describe('tables that need each other', () => {
  it('are told of while they do, whatever was looked at before', () => {
    const { facts } = DIALECTS.sqlserver
    const told = [false, true, true, false, true].map(
      (isNeeded) => withCircles(pair(isNeeded), facts).remarks.length
    )
    expect(told).toEqual([0, 2, 2, 0, 2])
  })

  it('are looked at when all is in, where the engine can', () => {
    const { catalog } = withCircles(pair(true), DIALECTS.postgresql.facts)
    expect(
      catalog.tables.flatMap(({ foreignKeys }) => foreignKeys.map(({ deferrable }) => deferrable))
    ).toEqual(['deferred', 'deferred'])
  })
})
