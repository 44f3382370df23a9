import type { Type } from '../design/type.ts'
import type { Field } from './shape.ts'

/** What a value of a type is, where a language has no type for it and it comes as text. */
const IS: Partial<Record<Type['kind'], string>> = {
  integer: 'A whole number of 64 bits',
  decimal: 'A decimal number',
  date: 'A day',
  time: 'A time of day',
  timestamp: 'A moment',
  interval: 'A length of time',
  uuid: 'A UUID',
  json: 'JSON',
  binary: 'Bytes'
}

/**
 * A field's note, and behind it what its values are where the language has nothing nearer than text.
 * @param asText whether the language has a value of the type as text.
 */
export function noteIn({ note, type }: Pick<Field, 'note' | 'type'>, asText: boolean): string | undefined {
  const is = asText ? IS[type.kind] : undefined
  return is === undefined ? note : [note, `${is}, as text.`].filter(Boolean).join(' ')
}
