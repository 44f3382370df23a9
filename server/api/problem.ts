import type { ErrorRequestHandler, RequestHandler } from 'express'
import type { z } from 'zod'
import { sayIssues } from '../../core/design/file.ts'

/** An answer that is an error: what, where, and what to do, in words for a person. */
export class Problem extends Error {
  constructor(readonly status: number, message: string, readonly more: Record<string, unknown> = {}) {
    super(message)
  }
}

/** Reads what came with a request by its schema, or answers 400 with the path to what does not fit. */
export function read<T>(schema: z.ZodType<T>, value: unknown): T {
  const parsed = check(schema, value)
  if (parsed.success) return parsed.data
  throw new Problem(400, `The request cannot be read. ${sayIssues(parsed.error)}`, { path: parsed.error.issues[0]?.path.join('.') ?? '' })
}

/** A value may be nested deeper than there is stack for; nothing that a person does comes near. */
function check<T>(schema: z.ZodType<T>, value: unknown): z.ZodSafeParseResult<T> {
  try {
    return schema.safeParse(value)
  } catch (error) {
    if (error instanceof RangeError) throw new Problem(400, 'The request is nested too deeply to be read.')
    throw error
  }
}

export function found<T>(value: T | undefined, what: string): T {
  if (value === undefined) throw new Problem(404, `There is no such ${what} here. It may have been removed.`)
  return value
}

export const nothingHere: RequestHandler = () => {
  throw new Problem(404, 'There is nothing at this address.')
}

/** Answers with the problem; anything unforeseen is logged and answered without its details. */
export function answerProblems(log: (error: unknown) => void): ErrorRequestHandler {
  return (error: unknown, _request, response, next) => {
    if (response.headersSent) return next(error)
    if (error instanceof Problem) return void response.status(error.status).json({ error: { message: error.message, ...error.more } })
    const status = error instanceof Error && 'status' in error && typeof error.status === 'number' ? error.status : 500
    if (status === 413) return void response.status(413).json({ error: { message: 'That is larger than this server takes (16 MB).' } })
    if (status === 400) return void response.status(400).json({ error: { message: 'The request is not JSON that can be read.', path: '' } })
    log(error)
    response.status(500).json({ error: { message: 'Something went wrong in the server. What was acknowledged before is safe; try again.' } })
  }
}
