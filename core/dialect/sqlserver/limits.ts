import { columnsIn, sameSet, referencesTo } from '../../design/directory.ts'
import type { Limit } from '../limits/limit.ts'
import type { LimitRemark } from '../remark.ts'
import type { ComputedFacts, ReferenceFacts } from '../facts.ts'

/** Msg 1759 (SQL Server, "Database engine errors"). */
export const computed: ComputedFacts = {
  fromComputed: false,
  fromCounted: true,
  required: true,
  inPrimaryKey: true,
  folded: false
}

/** Types and lengths must be the same (Msg 1778, 1753); a computed column is changed by nothing (Msg 1764). */
export const references: ReferenceFacts = {
  types: ({ sql: own }, { sql: its }) => (own === its ? 'taken' : 'refused'),
  changingComputed: 'table',
  indexesComputed: false
}

/** A unique key that others refer to, or that is computed, stays a constraint, to which two empty values are the same (Msg 2627). */
export const oneEmpty: Limit = ({ table, made, design }) => {
  const keys = new Set(referencesTo(design, table.id).map(({ foreignKey }) => foreignKey.key))
  const referred = table.uniques.filter(({ id }) => keys.has(id))
  return table.uniques
    .filter(({ id }) => made.uniques.some((key) => key.id === id))
    .flatMap((key): LimitRemark[] => {
      const columns = columnsIn(table, key.columns)
      const open = columns.find(({ required }) => !required)
      if (!open) return []
      const names = columns.map(({ name }) => name).join(', ')
      return [
        {
          rule: 'one empty value',
          weight: 'doubtful',
          column: open.id,
          message: `${names} of ${table.name} is unique, ${referred.some((each) => sameSet(each.columns, key.columns)) ? 'referred to' : 'computed'}, and may be empty: SQL Server lets one row be so, and no second.`
        }
      ]
    })
}

/** SET DEFAULT on a column that is required and has no default (Msg 1762). */
export const defaultNeeded: Limit = ({ table }) =>
  table.foreignKeys
    .filter(({ onDelete, onUpdate }) => onDelete === 'SET DEFAULT' || onUpdate === 'SET DEFAULT')
    .flatMap(({ pairs }): LimitRemark[] => {
      const own = columnsIn(
        table,
        pairs.map((pair) => pair.column)
      )
      const bare = own.find((column) => column.required && column.default === undefined)
      if (!bare) return []
      return [
        {
          rule: 'default that is not there',
          weight: 'refused',
          column: bare.id,
          message: `${bare.name} of ${table.name} is to get its default where what it refers to goes, is required and has none: SQL Server refuses the reference.`
        }
      ]
    })
