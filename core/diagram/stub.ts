import { MARK } from './mark.ts'

/** A reference that is told of beside its table: a short line with its end, and the mark of the key that it fits. */
export const STUB = { line: 22, length: 22 + MARK.width + 8, height: MARK.height + 4 }
