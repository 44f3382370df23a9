import type { Limit } from './limit.ts'

/** Tables with more columns than an engine takes. */
export const manyColumns: Limit = ({ table, made, facts }) =>
  made.columns.length <= facts.mostColumns
    ? []
    : [
        {
          rule: 'too many columns',
          weight: 'refused',
          message: `${table.name} has ${made.columns.length.toLocaleString('en')} columns; ${facts.title} takes ${facts.mostColumns.toLocaleString('en')}.`
        }
      ]
