import { createHash, timingSafeEqual } from 'node:crypto'
import type { Request, RequestHandler, Response } from 'express'
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
  const guesses = new Guesses()
  return (request, response, next) => {
    const named = request.headers.host ?? ''
    if (isLoopback(host) && !LOOPBACK.has(named.replace(/:\d+$/, '')))
      throw new Problem(403, 'This server answers to this machine only.')
    const { origin } = request.headers
    if (origin !== undefined && origin !== `http://${named}` && origin !== `https://${named}`)
      throw new Problem(403, 'That page may not use this server.')
    if (token !== undefined && !admit(request, response, token, guesses)) return
    next()
  }
}

/**
 * Lets in who knows the token, whoever else asked from the same place: many pages may stand behind one proxy. One in
 * the address goes into a cookie, and out of the address. False where the answer has been given.
 */
function admit(request: Request, response: Response, token: string, guesses: Guesses): boolean {
  const { token: inAddress } = request.query
  const given = typeof inAddress === 'string' ? inAddress : tokenOf(request)
  if (given === undefined || !same(given, token)) {
    const from = request.socket.remoteAddress ?? ''
    if (guesses.areTooMany(from))
      throw new Problem(
        429,
        'Too many wrong tokens came from there. Wait a minute, then open this server with the address that it printed when it started.'
      )
    if (given !== undefined) guesses.wrong(from, given)
    throw new Problem(
      401,
      'Open this server with the address that it printed when it started: the token is in it.'
    )
  }
  if (inAddress === undefined) return true
  response.cookie(cookieName(request), token, {
    httpOnly: true,
    sameSite: 'strict',
    secure: isSecure(request)
  })
  const asksForPage = request.method === 'GET' && !request.path.startsWith('/api/')
  if (!asksForPage) return true
  const url = new URL(request.originalUrl, 'http://here')
  url.searchParams.delete('token')
  // The slashes at the beginning become one: two would name another server.
  response.redirect(303, `/${url.pathname.replace(/^\/+/, '')}${url.search}`)
  return false
}

/** Cookies know no ports (RFC 6265, 8.5): each server of a machine has one of its own. */
const cookieName = (request: Request): string => `patient_key_token_${request.socket.localPort ?? 0}`

/** Whether the person's browser came by TLS, to this server or to a proxy before it. */
const isSecure = (request: Request): boolean =>
  request.headers['x-forwarded-proto'] === 'https' || 'encrypted' in request.socket

function tokenOf(request: Request): string | undefined {
  const cookies = (request.headers.cookie ?? '').split(';').map((each) => each.trim().split('='))
  return (
    cookies.find(([name]) => name === cookieName(request))?.[1] ??
    request.headers.authorization?.replace(/^Bearer /, '')
  )
}

function same(a: string, b: string): boolean {
  const [left, right] = [Buffer.from(a), Buffer.from(b)]
  return left.length === right.length && timingSafeEqual(left, right)
}

/**
 * Wrong tokens by where they came from: after so many different ones no other wrong one from there is looked at for
 * a minute. A page that was left open sends the token of an earlier start over and over, and that counts once.
 */
class Guesses {
  private static readonly MOST = 10
  private static readonly MINUTE = 60_000
  private static readonly REMEMBERED = 10_000
  private readonly made = new Map<string, { tokens: Set<string>; until: number }>()

  areTooMany(from: string): boolean {
    const made = this.made.get(from)
    return made !== undefined && made.tokens.size >= Guesses.MOST && made.until > Date.now()
  }

  wrong(from: string, token: string): void {
    const now = Date.now()
    const before = this.made.get(from)
    const tokens = before && before.until > now ? before.tokens : new Set<string>()
    tokens.add(createHash('sha256').update(token).digest('hex'))
    this.made.delete(from)
    this.made.set(from, { tokens, until: now + Guesses.MINUTE })
    const [oldest] = this.made.keys()
    if (this.made.size > Guesses.REMEMBERED && oldest !== undefined) this.made.delete(oldest)
  }
}
