import { fold } from '../../design/directory.ts'
import { fitName } from '../../naming/fit.ts'
import type { Dialect } from '../../dialect/dialect.ts'
import { titles, type Rule } from '../finding.ts'

/** Columns whose names a person would take for the same when an engine has cut them. */
export const cutNames: Rule = {
  name: 'names alike when cut',
  find: (table, { dialects }) => {
    const long = table.columns.filter((column) => column.name.length > 15)
    return long.flatMap((column, at) => {
      const alike = (dialect: Dialect): boolean => {
        const limit = dialect.facts.nameLimit
        if (!limit || fitName(column.name, limit) === column.name) return false
        const head = (name: string): string => fold(fitName(name, limit)).slice(0, -7)
        return long
          .slice(0, at)
          .some(
            (other) => fitName(other.name, limit) !== other.name && head(other.name) === head(column.name)
          )
      }
      const against = dialects.filter(alike)
      return against.length === 0
        ? []
        : [
            {
              severity: 'doubtful' as const,
              column: column.id,
              dialects: against.map((dialect) => dialect.name),
              message: `In ${titles(against)} the name ${column.name.slice(0, 24)}… is cut where it is still the same as another: only a number at its end tells the two apart.`
            }
          ]
    })
  }
}
