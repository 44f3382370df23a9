import { compareTexts } from '../sql/evaluate.ts'
import { exact, type ExactNumber } from '../sql/number.ts'
import { canonicalValue } from './same.ts'
import { isNumeric, type Type } from './type.ts'
import type { Value } from './value.ts'

/** What a value is ordered by, worked out once for many comparisons: empty before all. */
export type OrderKey = string | number | ExactNumber

export function orderKey(value: Value, type: Type): OrderKey {
  const text = canonicalValue(value, type) ?? ''
  if (!isNumeric(type)) return text
  const number = Number(text)
  return Number.isSafeInteger(number) ? number : (exact(text) ?? text)
}

/** Which of two keys of one type comes first, as {@link compareValues} says it of the values. */
export function compareKeys(one: OrderKey, other: OrderKey): number {
  if (typeof one === 'number' && typeof other === 'number') return one - other
  if (typeof one === 'string' && typeof other === 'string') return compareTexts(one, other)
  const [left, right] = [exact(String(one)), exact(String(other))]
  return left && right ? left.cmp(right) : compareTexts(String(one), String(other))
}

/** Which of two values comes first: below zero where it is the first. Texts go by their code points. */
export function compareValues(a: Value, b: Value, type: Type): number {
  const [left, right] = [canonicalValue(a, type) ?? '', canonicalValue(b, type) ?? '']
  const numbers = isNumeric(type) ? [exact(left), exact(right)] : []
  const [x, y] = numbers
  return x && y ? x.cmp(y) : compareTexts(left, right)
}
