import { columnOf, tableOf } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import { shorten } from '../design/type.ts'

/** What the parts of a design are called in the sentence that says what an operation does. */
export interface Called {
  design: Design
  table: (id: string) => string
  /** With its table: “patient.name”. */
  column: (table: string, id: string) => string
}

export function calledIn(design: Design): Called {
  const table = (id: string): string => shorten(tableOf(design, id)?.name ?? 'a table')
  const column = (of: string, id: string): string => {
    const found = tableOf(design, of)
    return `${table(of)}.${shorten((found && columnOf(found, id)?.name) ?? 'column')}`
  }
  return { design, table, column }
}
