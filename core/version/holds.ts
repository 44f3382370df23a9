import { typeText, type Type } from '../design/type.ts'

/** Digits that every number of an integer type fits in. */
const SIZES = { small: 5, normal: 10, big: 19 }

/** True where every value of the first type comes back unchanged from the second. */
export function holdsAll(from: Type, to: Type): boolean {
  if (typeText(from) === typeText(to)) return true
  const length = (type: Type): number =>
    type.kind === 'text' ? (type.length ?? Infinity) : type.kind === 'char' ? type.length : NaN
  if (to.kind === 'text') {
    if (from.kind === 'text' || from.kind === 'char')
      return from.kind === 'text' && length(to) >= length(from)
    return to.length === undefined && ['integer', 'uuid'].includes(from.kind)
  }
  if (from.kind === 'integer' && to.kind === 'integer') return SIZES[to.size] >= SIZES[from.size]
  if (from.kind === 'integer' && to.kind === 'decimal') return to.precision - to.scale >= SIZES[from.size]
  if (from.kind === 'decimal' && to.kind === 'decimal')
    return to.scale >= from.scale && to.precision - to.scale >= from.precision - from.scale
  return false
}
