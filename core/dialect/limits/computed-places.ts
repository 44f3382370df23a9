import { columnsIn, columnOf } from '../../design/directory.ts'
import { columnsUsed } from '../../design/expressions.ts'
import type { Column } from '../../design/model.ts'
import { isShortUnfolded } from '../unfolded.ts'
import type { LimitRemark } from '../remark.ts'
import type { LimitContext, Limit } from './limit.ts'

/** Where a computed column may not stand, and what it may not be computed from. */
export const computedPlaces: Limit = (asked) => [...inKey(asked), ...fromCounted(asked), ...tooDeep(asked)]

function inKey({ table, facts }: LimitContext): LimitRemark[] {
  if (facts.computed.inPrimaryKey) return []
  const computed = columnsIn(table, table.primaryKey?.columns ?? []).filter(isComputed)
  return computed.map((column) => ({
    rule: 'computed in the primary key',
    weight: 'refused',
    column: column.id,
    message: `${column.name} is computed: ${facts.title} takes no such column into the primary key of ${table.name}.`,
    fix: {
      label: `Keep ${column.name} as it is put in`,
      operation: { kind: 'column.compute', table: table.id, column: column.id, expression: null }
    }
  }))
}

function fromCounted({ table, made, facts }: LimitContext): LimitRemark[] {
  if (facts.computed.fromCounted) return []
  const { primaryKey, uniques, indexes, foreignKeys } = made
  const keyed = new Set(
    [primaryKey, ...uniques, ...indexes, ...foreignKeys].flatMap((key) => key?.columns ?? [])
  )
  const isInKey = ({ id }: Column): boolean => keyed.has(id)
  const counted = made.columns.find(({ generated }) => generated)?.id
  if (counted === undefined) return []
  const isCounted = (id: string): boolean => id === counted
  const sources = (column: Column): string[] =>
    columnsIn(table, columnsUsed(column.computed ?? '')).flatMap((each) =>
      isComputed(each) ? sources(each) : [each.id]
    )
  return table.columns
    .filter((column) => isComputed(column) && isInKey(column))
    .flatMap((column): LimitRemark[] => {
      const counted = sources(column).find(isCounted)
      return counted === undefined
        ? []
        : [
            {
              rule: 'computed from a counted column',
              weight: 'refused',
              column: column.id,
              message: `${column.name} of ${table.name} is computed from ${columnOf(table, counted)?.name ?? counted}, which ${facts.title} counts by itself: it takes ${column.name} into no key or index.`
            }
          ]
    })
}

function tooDeep({ table, facts }: LimitContext): LimitRemark[] {
  if (facts.computed.fromComputed) return []
  return table.columns
    .filter((column) => isComputed(column) && !isShortUnfolded(table, column))
    .map((column) => ({
      rule: 'computed from computed columns',
      weight: 'refused',
      column: column.id,
      message: `${facts.title} computes nothing from columns that are computed themselves, and written out ${column.name} of ${table.name} would be too long.`
    }))
}

const isComputed = (column: Column): boolean => column.computed !== undefined
