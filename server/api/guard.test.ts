import { request } from 'node:http'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { serve } from '../serve.ts'

/** A request with headers as they are given, whatever they are. @returns the status of the answer */
function asked(port: number, path: string, headers: Record<string, string>): Promise<number> {
  return new Promise((resolve, reject) => {
    const sent = request({ port, host: '127.0.0.1', path, headers, agent: false }, (response) => {
      response.resume()
      response.on('end', () => resolve(response.statusCode ?? 0))
    })
    sent.on('error', reject)
    sent.end()
  })
}

/** What can stand in a header: something, and no line ends, which Node sends to nobody. */
const noise = fc.string({
  unit: fc.constantFrom(...'aZ09 ;=,:/.[]{}"\'\\%@*-_~\t\u00a0\u00ff'),
  minLength: 1,
  maxLength: 24
})

describe('who is let in', () => {
  const data = mkdtempSync(join(tmpdir(), 'patient-key-guard-'))
  let here: Awaited<ReturnType<typeof serve>>
  let open: Awaited<ReturnType<typeof serve>>
  beforeAll(async () => {
    here = await serve({ port: 0, host: '127.0.0.1', data: join(data, 'here') })
    open = await serve({ port: 0, host: '0.0.0.0', data: join(data, 'open') })
  })
  afterAll(async () => {
    await here.stop()
    await open.stop()
    rmSync(data, { recursive: true, force: true })
  })
  const portOf = ({ address }: { address: string }): number => Number(new URL(address).port)

  it('on this machine alone: who names it, and comes from no other page, whatever else is said', async () => {
    const port = portOf(here)
    const seen = { in: 0, out: 0 }
    const own = [`127.0.0.1:${port}`, `localhost:${port}`, 'localhost', `[::1]:${port}`]
    await fc.assert(
      fc.asyncProperty(
        fc.oneof(
          fc.constantFrom(...own, 'elsewhere.example', 'localhost.example', '127.0.0.1.example:80'),
          noise
        ),
        fc.oneof(
          fc.constant(undefined),
          fc.constant('its own'),
          fc.constantFrom('null', 'http://elsewhere.example'),
          noise
        ),
        noise,
        async (host, from, more) => {
          const origin = from === 'its own' ? `http://${host}` : from
          const status = await asked(port, '/api/designs', {
            Host: host,
            ...(origin !== undefined && { Origin: origin }),
            Cookie: more,
            Authorization: more,
            'X-Forwarded-Proto': more,
            'X-Forwarded-Host': 'localhost'
          })
          const isIn = own.includes(host) && (origin === undefined || from === 'its own')
          // What no server takes for a request is refused before it is looked at.
          if (isIn) expect(status).toBe(200)
          else expect([400, 403]).toContain(status)
          seen[isIn ? 'in' : 'out']++
        }
      ),
      { numRuns: times(300) }
    )
    expect(Math.min(seen.in, seen.out)).toBeGreaterThan(30)
  })

  it('where others can reach it: who has the token, in whichever of its places, and nobody else', async () => {
    const port = portOf(open)
    const token = new URL(open.address).searchParams.get('token') ?? ''
    const cookie = `patient_key_token_${port}`
    const seen = { in: 0, out: 0 }
    const places = fc.constantFrom('cookie', 'address', 'bearer', 'another cookie', 'nowhere')
    await fc.assert(
      fc.asyncProperty(
        places,
        fc.oneof(
          { weight: 3, arbitrary: fc.constant(token) },
          { weight: 1, arbitrary: fc.constant(token.slice(1)) },
          noise
        ),
        noise,
        async (place, said, more) => {
          const cookies =
            place === 'cookie' ? `a=b; ${cookie}=${said}` : `${cookie}x=${said}; ${cookie}_=${token}`
          const path = place === 'address' ? `/api/designs?token=${encodeURIComponent(said)}` : '/api/designs'
          const status = await asked(port, path, {
            'X-Forwarded-For': more,
            'X-Forwarded-Proto': more,
            ...(place.endsWith('cookie') && { Cookie: cookies }),
            ...(place === 'bearer' && { Authorization: `Bearer ${said}` })
          })
          const isIn = said === token && ['cookie', 'address', 'bearer'].includes(place)
          if (isIn) expect(status).toBe(200)
          else expect([401, 429]).toContain(status)
          seen[isIn ? 'in' : 'out']++
        }
      ),
      { numRuns: times(300) }
    )
    expect(Math.min(seen.in, seen.out)).toBeGreaterThan(30)
  })
})
