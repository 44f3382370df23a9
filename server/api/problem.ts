import type { ErrorRequestHandler, RequestHandler } from 'express'
import type { z } from 'zod'
import { sayIssues } from '../../core/design/file.ts'
import { shorten } from '../../core/design/type.ts'
import { CannotTake, Closing, Damaged, NotKept } from '../store/trouble.ts'

/** An answer that is an error: what, where, and what to do, in words for a person. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly more: Record<string, unknown> = {}
  ) {
    super(message)
  }
}

/** Reads what came with a request by its schema, or answers 400 with the path to what does not fit. */
export function read<T>(schema: z.ZodType<T>, value: unknown): T {
  const parsed = schema.safeParse(value)
  if (parsed.success) return parsed.data
  throw new Problem(400, `The request cannot be read. ${sayIssues(parsed.error)}`, {
    path: shorten(parsed.error.issues[0]?.path.join('.') ?? '', 120)
  })
}

export function found<T>(value: T | undefined, what: string): T {
  if (value === undefined) throw new Problem(404, `There is no such ${what} here. It may have been removed.`)
  return value
}

export const nothingHere: RequestHandler = () => {
  throw new Problem(404, 'There is nothing at this address.')
}

/** What the parser of requests says by its status, in words. */
const SAID: Record<number, string> = {
  400: 'The request cannot be read.',
  413: 'That is larger than this server takes.',
  415: 'A request to this server is JSON in UTF-8 (Content-Type: application/json).'
}

function problemOf(error: unknown): Problem | undefined {
  if (error instanceof Problem) return error
  if (error instanceof CannotTake) return new Problem(400, error.message)
  if (error instanceof Damaged) return new Problem(409, error.message, { code: 'damaged' })
  if (error instanceof NotKept) return new Problem(507, error.message, { code: 'not-kept' })
  if (error instanceof Closing) return new Problem(503, error.message, { code: 'closing' })
  const status =
    error instanceof Error && 'status' in error && typeof error.status === 'number' ? error.status : 500
  return status in SAID ? new Problem(status, SAID[status] as string, { path: '' }) : undefined
}

/** Answers with the problem; anything unforeseen is logged and answered without its details. */
export function answerProblems(log: (error: unknown) => void): ErrorRequestHandler {
  return (error: unknown, _request, response, next) => {
    if (response.headersSent) return next(error)
    const problem = problemOf(error)
    if (!problem) log(error)
    else if (error instanceof NotKept) log(error.cause)
    const { status, message, more } =
      problem ??
      new Problem(500, 'Something went wrong in the server. What was acknowledged before is safe; try again.')
    response.status(status).json({ error: { message, ...more } })
  }
}
