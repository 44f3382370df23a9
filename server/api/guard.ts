import { timingSafeEqual } from 'node:crypto'
import type { Request, RequestHandler } from 'express'
import { Problem } from './problem.ts'

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '[::1]'])

/** True for an address that only this machine reaches. */
export function isLoopback(host: string): boolean {
  return LOOPBACK.has(host) || host === '::1'
}

/**
 * Keeps other pages out. On loopback the Host header must name this machine, so that no foreign name
 * can be pointed here; elsewhere a token is asked for, given once in the address and kept in a cookie.
 * A request that changes something must come from a page of this server.
 */
export function guard(host: string, token: string | undefined): RequestHandler {
  return (request, response, next) => {
    const named = request.headers.host ?? ''
    if (isLoopback(host) && !LOOPBACK.has(named.replace(/:\d+$/, ''))) throw new Problem(403, 'This server answers to this machine only.')
    const { origin } = request.headers
    if (origin !== undefined && origin !== `http://${named}` && origin !== `https://${named}`) throw new Problem(403, 'That page may not use this server.')
    if (token !== undefined && !hasToken(request, token)) {
      if (typeof request.query.token !== 'string' || !same(request.query.token, token)) throw new Problem(401, 'Open this server with the address that it printed when it started: the token is in it.')
      response.cookie('patient_key_token', token, { httpOnly: true, sameSite: 'strict' })
    }
    next()
  }
}

function hasToken(request: Request, token: string): boolean {
  const cookies = (request.headers.cookie ?? '').split(';').map((each) => each.trim().split('='))
  const given = cookies.find(([name]) => name === 'patient_key_token')?.[1] ?? request.headers.authorization?.replace(/^Bearer /, '')
  return given !== undefined && same(given, token)
}

function same(a: string, b: string): boolean {
  const [left, right] = [Buffer.from(a), Buffer.from(b)]
  return left.length === right.length && timingSafeEqual(left, right)
}
