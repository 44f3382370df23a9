import express, { type RequestHandler } from 'express'
import { BOUNDS } from '../../core/bounds.ts'
import { decodeText, readJson } from '../../core/design/json.ts'
import { Problem } from './problem.ts'

/** The methods that change nothing (RFC 9110, 9.2.1). */
const READING = new Set(['GET', 'HEAD', 'OPTIONS'])

/**
 * What comes with a request, as text: UTF-8 that is some, within a bound, and said to be JSON, which a
 * page of another origin cannot send without being asked about it first (Fetch standard, CORS preflight). What
 * changes something says so too where nothing comes with it.
 */
export function textBody(most: number): RequestHandler[] {
  const raw = express.raw({ type: () => true, limit: most })
  const decode: RequestHandler = (request, _response, next) => {
    const isEmpty = !Buffer.isBuffer(request.body) || request.body.length === 0
    const type = request.headers['content-type'] ?? ''
    const changes = !READING.has(request.method)
    if ((changes || !isEmpty) && !/^application\/json\s*(?:;\s*charset\s*=\s*"?utf-8"?\s*)?$/i.test(type))
      throw new Problem(415, 'A request to this server is JSON in UTF-8 (Content-Type: application/json).')
    if (isEmpty) {
      request.body = undefined
      return next()
    }
    const text = decodeText(request.body)
    if (!text.ok) throw new Problem(400, `The request cannot be read: ${text.message}.`, { path: '' })
    request.body = text.value
    next()
  }
  return [raw, decode]
}

/** What comes with a request, as the value that its JSON stands for. */
export const jsonBody: RequestHandler[] = [
  ...textBody(BOUNDS.request),
  (request, _response, next) => {
    if (request.body === undefined) return next()
    const json = readJson(request.body as string, BOUNDS.request)
    if (!json.ok) throw new Problem(400, `The request cannot be read: ${json.message}.`, { path: '' })
    request.body = json.value
    next()
  }
]
