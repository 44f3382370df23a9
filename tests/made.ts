import type { Parsed } from '../core/design/type.ts'

/** What was made, where it could be; a test fails where it could not. */
export function made<T>(parsed: Parsed<T>): T {
  if (!parsed.ok) throw new Error(parsed.message)
  return parsed.value
}
