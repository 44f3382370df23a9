import { emptyDesign, type Design } from '../core/design/model.ts'
import { apply } from '../core/edit/apply.ts'
import { newTable, proposeRelationship } from '../core/relate/propose.ts'

/**
 * A table with so many neighbours on each side, in the demo's world: a ward book that everything hangs on.
 */
export function wide(neighbours: number): Design {
  const middle = { ...newTable('ward_round'), id: 't_round' }
  const ones = Array.from({ length: neighbours }, (_, at) => newTable(`kind_${at + 1}`))
  const manys = Array.from({ length: neighbours }, (_, at) => newTable(`entry_${at + 1}`))
  let design: Design = { ...emptyDesign('A ward book'), tables: [middle, ...ones, ...manys] }
  for (const [parent, child] of [
    ...ones.map((one) => [one.id, middle.id]),
    ...manys.map((many) => [middle.id, many.id])
  ] as [string, string][]) {
    const operation = proposeRelationship(design, {
      parent,
      child,
      required: child === middle.id,
      single: false
    })
    const result = operation && apply(design, operation)
    if (result?.ok) design = result.design
  }
  return design
}
