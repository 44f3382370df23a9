import { tableOf } from '../design/directory.ts'
import type { Design, Table } from '../design/model.ts'
import type { TypedColumn } from '../design/row-query.ts'
import { once } from '../once.ts'
import type { Ground } from './columns.ts'

const typedColumns = once((table: Table): readonly TypedColumn[] =>
  table.columns.map(({ id, type }) => ({ id, type }))
)

/** A design's tables as what queries stand among, with intermediate results beside them. */
export function groundOf(
  design: Design,
  results: ReadonlyMap<string, readonly TypedColumn[]> = new Map()
): Ground {
  return {
    table: (id) => {
      const table = tableOf(design, id)
      return table && typedColumns(table)
    },
    result: (name) => results.get(name),
    enums: design.enums
  }
}
