import { sameType } from '../../design/type.ts'
import type { Column, Design, Table } from '../../design/model.ts'
import { splitRepeated } from '../../restructure/split.ts'
import type { Rule } from '../finding.ts'

/**
 * `phone1`, `phone2`: a list in columns, which cannot grow, and which no one question can look through
 * (first normal form).
 */
export const repeatedGroup: Rule = {
  name: 'repeated group',
  find: (table, { ask }) =>
    groupsIn(table).map(({ stem, columns }) => {
      const operation = splitRepeated(ask(all), table, stem, columns)
      return {
        severity: 'doubtful',
        column: columns[0]?.id as string,
        message: `${columns.map((column) => column.name).join(', ')} are one list in ${columns.length} columns: it cannot grow, and nothing can look through it at once.`,
        ...(operation && {
          fix: { label: `Make a table of them: ${operation.name}`, operation: operation.operation }
        })
      }
    })
}

/** What makes a table of a list goes by all tables, and by what is done to rows on the way. */
const all = (design: Design): Design => design

/** Columns whose names differ in a number at the end and whose types are the same. */
function groupsIn(table: Table): { stem: string; columns: Column[] }[] {
  const groups = new Map<string, Column[]>()
  for (const column of table.columns) {
    const stem = /^(.*\D)_?\d{1,2}$/.exec(column.name)?.[1]?.replace(/_$/, '')
    if (stem) groups.set(stem, [...(groups.get(stem) ?? []), column])
  }
  return [...groups].flatMap(([stem, columns]) => {
    const [first] = columns
    return columns.length > 1 && first && columns.every((column) => sameType(column.type, first.type))
      ? [{ stem, columns }]
      : []
  })
}
