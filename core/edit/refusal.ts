import type { ColumnId, TableId } from '../design/model.ts'
import type { Operation } from './operation.ts'

export type RefusalCode =
  | 'missing'
  | 'name-taken'
  | 'name-invalid'
  | 'id-taken'
  | 'in-use'
  | 'no-key'
  | 'type-mismatch'
  | 'does-not-fit'
  | 'key-column'
  | 'invalid'

/** Another way to what was meant, ready to be applied. */
export interface Offer {
  label: string
  operation: Operation
}

/** Why an operation was not carried out: what and where in plain words, and what could be done instead. */
export interface Refusal {
  code: RefusalCode
  message: string
  where: { table?: TableId; column?: ColumnId }
  offers: Offer[]
}

/** Thrown inside this folder only; `apply` returns it as a value. */
export class Refused extends Error {
  readonly refusal: Refusal
  constructor(code: RefusalCode, message: string, where: Refusal['where'] = {}, offers: Offer[] = []) {
    super(message)
    this.refusal = { code, message, where, offers }
  }
}
