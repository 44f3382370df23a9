import { compareTexts } from '../sql/evaluate.ts'
import { exact } from '../sql/number.ts'
import { canonicalValue } from './same.ts'
import { isNumeric, type Type } from './type.ts'
import type { Value } from './value.ts'

/** Which of two values comes first: below zero where it is the first. Texts go by their code points. */
export function compareValues(a: Value, b: Value, type: Type): number {
  const [left, right] = [canonicalValue(a, type) ?? '', canonicalValue(b, type) ?? '']
  const numbers = isNumeric(type) ? [exact(left), exact(right)] : []
  const [x, y] = numbers
  return x && y ? x.cmp(y) : compareTexts(left, right)
}
