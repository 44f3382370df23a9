import type { Design } from '../design/model.ts'
import { KINDS } from './all.ts'
import { calledIn } from './called.ts'
import type { Operation } from './operation.ts'

/** What an operation does, said of the design before it, for undo and the log: “rename patient to animal”. */
export function describe(design: Design, operation: Operation): string {
  if (operation.kind !== 'batch')
    return KINDS.get(operation.kind)?.say(operation as never, calledIn(design)) ?? ''
  const [first] = operation.operations
  return operation.label ?? (first ? describe(design, first) : 'nothing')
}
