import Big from 'big.js'

/**
 * Numbers as engines hold them: exact, whatever their size. A decimal or a 64-bit integer never passes
 * through floating point (IEEE 754 keeps 53 bits of a whole number).
 */
export type ExactNumber = Big

/** The number that a value stands for; nothing where it is none. */
export function exact(value: string | number): ExactNumber | undefined {
  try {
    return new Big(value)
  } catch {
    return undefined
  }
}

export const isExact = (value: unknown): value is ExactNumber => value instanceof Big

/** A number as a design holds it: a whole one that is safe in floating point as such, others as text. */
export function plainNumber(number: ExactNumber): string | number {
  const text = number.toFixed()
  const asNumber = Number(text)
  return Number.isSafeInteger(asNumber) ? asNumber : text
}
