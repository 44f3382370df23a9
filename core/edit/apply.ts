import { newFlaw } from '../design/integrity.ts'
import type { Design } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { HANDLERS } from './all.ts'
import { asSentence } from './handler.ts'
import { refuseRows } from './mend-rows.ts'
import type { Operation, Outcome } from './operation.ts'
import { Refused, type Refusal } from './refusal.ts'

export interface Applied {
  ok: true
  design: Design
  /** Takes the operation back: applied to `design` it gives the design before, byte for byte. */
  inverse: Operation
  /** Ids of the tables that changed, or whose neighbours' readings did. */
  touched: ReadonlySet<string>
}

export type ApplyResult = Applied | { ok: false; refusal: Refusal }

/**
 * Carries out one operation on a design. Pure: the design given is never changed, parts that stay the
 * same are shared. Returns the next design, the inverse and what was touched; or why it was refused.
 * What comes out has no flaw (../design/integrity.ts) that what went in had not, and no rows that an engine would
 * not take (../design/violations.ts).
 */
export function apply(design: Design, operation: Operation): ApplyResult {
  const result = replay(design, operation)
  const flaw = result.ok ? newFlaw(design, result.design) : undefined
  if (!flaw) {
    const isJudged = result.ok && !isWriting(operation)
    const refusal = isJudged ? refuseRows(design, result.design, operation) : undefined
    return refusal ? { ok: false, refusal } : result
  }
  return {
    ok: false,
    refusal: {
      code: 'invalid',
      message: asSentence(shorten(flaw.message, 400)),
      where: placeOf(result, flaw.path),
      offers: []
    }
  }
}

/** Whether nothing is done but writing rows: those that break a rule are kept as they are written, and told of. */
const isWriting = (operation: Operation): boolean =>
  operation.kind === 'batch' ? operation.operations.every(isWriting) : operation.kind === 'rows.change'

/** The table that a flaw is about, where it is about one. */
function placeOf(result: ApplyResult, [kind, at]: (string | number)[]): Refusal['where'] {
  const table =
    result.ok && kind === 'tables' && typeof at === 'number' ? result.design.tables[at] : undefined
  return table ? { table: table.id } : {}
}

/**
 * Carries out an operation that was taken before, as it was then: what is judged more strictly since does
 * not change the past.
 */
export function replay(design: Design, operation: Operation): ApplyResult {
  const touched = new Set<string>()
  try {
    const done = run(design, operation, touched)
    return { ok: true, design: done.design, inverse: done.inverse, touched }
  } catch (error) {
    if (error instanceof Refused) return { ok: false, refusal: error.refusal }
    throw error
  }
}

function run(
  design: Design,
  operation: Operation,
  touched: Set<string>
): { design: Design; inverse: Operation } {
  if (operation.kind === 'batch') return runAll(design, operation.operations, touched)
  const handler = HANDLERS.get(operation.kind) as (design: Design, operation: Operation) => Outcome
  const outcome = handler(design, operation)
  if ('instead' in outcome) return runAll(design, outcome.instead, touched)
  outcome.touched.forEach((id) => touched.add(id))
  return outcome
}

function runAll(
  design: Design,
  operations: readonly Operation[],
  touched: Set<string>
): { design: Design; inverse: Operation } {
  const inverses: Operation[] = []
  let current = design
  for (const [at, operation] of operations.entries()) {
    const done = runOne(current, operation, touched, operations, at)
    current = done.design
    inverses.unshift(done.inverse)
  }
  const [only] = inverses
  return {
    design: current,
    inverse: inverses.length === 1 && only ? only : { kind: 'batch', operations: inverses }
  }
}

/**
 * Runs one of several. What is offered in its place is offered with the others around it, so that all that
 * was meant is done.
 */
function runOne(
  design: Design,
  operation: Operation,
  touched: Set<string>,
  all: readonly Operation[],
  at: number
): { design: Design; inverse: Operation } {
  try {
    return run(design, operation, touched)
  } catch (error) {
    if (!(error instanceof Refused) || all.length === 1) throw error
    const { code, message, where, offers } = error.refusal
    throw new Refused(
      code,
      message,
      where,
      offers.map(({ label, operation: instead }) => ({
        label,
        operation: {
          kind: 'batch',
          label: label.charAt(0).toLowerCase() + label.slice(1),
          operations: [...all.slice(0, at), instead, ...all.slice(at + 1)]
        }
      }))
    )
  }
}
