import { mkdtempSync, rmSync } from 'node:fs'
import { connect, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { newTable } from '../../core/relate/propose.ts'
import { writeDesignFile } from '../../core/design/file.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { times } from '../../tests/times.ts'
import { serve } from '../serve.ts'

const folder = mkdtempSync(join(tmpdir(), 'patient-key-attack-'))
let server: Awaited<ReturnType<typeof serve>>
let address = ''
let design = ''
interface Answer {
  status: number
  text: string
  body: {
    design?: { id: string; name: string; tables: { name: string }[] }
    revision?: number
    designs?: { id: string; name: string }[]
    error?: { message: string; path?: string; code?: string; refusal?: { code: string } }
  }
}

async function send(
  method: string,
  path: string,
  body?: BodyInit | null,
  headers: Record<string, string> = { 'Content-Type': 'application/json' }
): Promise<Answer> {
  const response = await fetch(`${address}/api${path}`, {
    method,
    headers,
    ...(body !== undefined && { body })
  })
  const text = await response.text()
  return {
    status: response.status,
    text,
    body: (/^application\/json(;|$)/.test(response.headers.get('content-type') ?? '')
      ? JSON.parse(text)
      : {}) as Answer['body']
  }
}
const json = (value: unknown): string => JSON.stringify(value)
const submission = (operation: unknown, more: object = {}): string =>
  json({ revision: 0, operationId: crypto.randomUUID(), client: 'test', operation, ...more })
const make = async (name = 'Ward book'): Promise<string> =>
  (await send('POST', '/designs', json({ name }))).body.design?.id ?? ''

beforeAll(async () => {
  server = await serve({ port: 0, host: '127.0.0.1', data: folder, demo: fernhollow() })
  address = server.address.replace(/\/$/, '')
  design = await make()
})
afterAll(async () => {
  await server.stop()
  rmSync(folder, { recursive: true, force: true })
})

/** An error as a person should see it: short, in words, and without what no screen shows. */
function isPlain(answer: Answer): void {
  expect(answer.status).toBeLessThan(500)
  expect(answer.status).toBeGreaterThanOrEqual(400)
  const said = answer.body.error?.message ?? ''
  expect(said).toMatch(/\.$/)
  expect(said.length + (answer.body.error?.path?.length ?? 0)).toBeLessThan(1000)
  const shown = said + (answer.body.error?.path ?? '')
  expect(shown).not.toMatch(/\p{Cc}| at .*\.ts|node_modules/u)
}

describe('a request that means harm, or nothing', () => {
  const rename = { kind: 'design.rename', name: 'x' }
  it.each<[string, string, string, BodyInit | undefined, Record<string, string>]>([
    [
      'in no character set that there is',
      'POST',
      '/designs',
      json({ name: 'x' }),
      { 'Content-Type': 'application/json; charset=klingon' }
    ],
    ['in no type', 'POST', '/designs', json({ name: 'x' }), { 'Content-Type': 'text/plain' }],
    [
      'said to be packed as nobody packs',
      'POST',
      '/designs',
      json({ name: 'x' }),
      { 'Content-Type': 'application/json', 'Content-Encoding': 'lead' }
    ],
    [
      'that is no UTF-8',
      'POST',
      '/designs',
      new Uint8Array([0x7b, 0x22, 0xff, 0x22, 0x7d]),
      { 'Content-Type': 'application/json' }
    ],
    [
      'with a key of 10,000 characters',
      'POST',
      '/designs',
      json({ name: 'x', [`\u0007\u001b[31m${'k'.repeat(10_000)}`]: 1 }),
      { 'Content-Type': 'application/json' }
    ],
    ['with a zero byte in the address', 'GET', '/designs/%00', undefined, {}],
    ['with an address that is none', 'GET', '/designs/%ZZ', undefined, {}],
    [
      'with a million brackets',
      'POST',
      '/designs',
      '['.repeat(1_000_000),
      { 'Content-Type': 'application/json' }
    ],
    [
      'of 15 million brackets, as a file',
      'POST',
      '/designs',
      json({ file: '['.repeat(15_000_000) }),
      { 'Content-Type': 'application/json' }
    ],
    [
      'nested 100,000 deep and closed again',
      'POST',
      '/designs',
      `${'['.repeat(100_000)}${']'.repeat(100_000)}`,
      { 'Content-Type': 'application/json' }
    ],
    [
      'that is larger than is taken',
      'POST',
      '/designs',
      `"${'x'.repeat(17 * 2 ** 20)}"`,
      { 'Content-Type': 'application/json' }
    ],
    [
      'with a name of prototypes',
      'POST',
      '/designs',
      '{"__proto__":{"name":"x"}}',
      { 'Content-Type': 'application/json' }
    ],
    ['for a version that is no number', 'GET', '/designs/d_fernhollow/versions/1e9', undefined, {}],
    [
      'for a version of none of the changes',
      'POST',
      '/designs/d_fernhollow/versions',
      '{"note":"","revision":0,"only":[]}',
      { 'Content-Type': 'application/json' }
    ],
    [
      'for a version of changes that are none',
      'POST',
      '/designs/d_fernhollow/versions',
      '{"note":"","revision":0,"only":["__proto__","table t_no name"]}',
      { 'Content-Type': 'application/json' }
    ],
    [
      'for a proof of changes that are none',
      'POST',
      '/proofs',
      '{"design":"d_fernhollow","to":"draft","engines":["sqlite"],"only":["x"]}',
      { 'Content-Type': 'application/json' }
    ],
    ['for the operations after nothing', 'GET', '/designs/d_fernhollow/operations?after=NaN', undefined, {}],
    ['for two places at once', 'GET', '/designs/d_fernhollow/operations?after=1&after=2', undefined, {}],
    ['with nothing in it', 'POST', '/designs', undefined, { 'Content-Type': 'application/json' }]
  ])('%s is refused in plain words', async (_, method, path, body, headers) => {
    isPlain(await send(method, path, body, headers))
    expect((await send('GET', '/health')).status).toBe(200)
  })

  it.each<[string, object, object]>([
    ['an id with half a character', rename, { operationId: 'operation-\ud800' }],
    ['an id with a zero byte', rename, { operationId: 'operation-\u0000' }],
    ['a client with a line in it', rename, { client: 'a\nb' }],
    ['a mark that is none', rename, { mark: 'x' }],
    ['a revision that is none', rename, { revision: 2 ** 60 }],
    ['a note with half a character', { kind: 'table.annotate', table: 't_patient', note: '\ud800' }, {}],
    ['a note with a zero byte', { kind: 'table.annotate', table: 't_patient', note: 'a\u0000' }, {}],
    [
      'more operations than one step has',
      {
        kind: 'batch',
        operations: Array.from({ length: 6 }, () => ({
          kind: 'batch',
          operations: Array.from({ length: 1999 }, () => ({ kind: 'batch', operations: [] }))
        }))
      },
      {}
    ]
  ])('as an operation with %s is refused, and changes nothing', async (_, operation, more) => {
    const before = (await send('GET', '/designs/d_fernhollow')).body.revision
    isPlain(await send('POST', '/designs/d_fernhollow/operations', submission(operation, more)))
    expect((await send('GET', '/designs/d_fernhollow')).body.revision).toBe(before)
  })

  it('with a byte order mark is read', async () => {
    expect((await send('POST', '/designs', `\ufeff${json({ name: 'Marked' })}`)).status).toBe(201)
    const file = `\ufeff${writeDesignFile(fernhollow().design)}`
    expect((await send('POST', '/files', file)).status).toBe(201)
  })

  it('of any shape at all is answered, and never with a failure of the server', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom('GET', 'POST', 'DELETE', 'PUT'),
        fc.constantFrom(
          '/designs',
          `/designs/${design}x`,
          '/designs/d_fernhollow/operations',
          '/designs/d_fernhollow/versions',
          '/proofs',
          '/proofs/x/events',
          '/backup',
          '/nothing'
        ),
        fc.oneof(fc.json(), fc.string({ unit: 'binary' })),
        async (method, path, body) => {
          const reads = method === 'GET' || method === 'DELETE'
          const answer = await send(method, path, reads ? undefined : body)
          expect([method, path, body, answer.status < 500]).toEqual([method, path, body, true])
        }
      ),
      { numRuns: times(200) }
    )
  })
})

describe('operations of several clients', () => {
  it('may have one id in two designs, and not for two operations in one', async () => {
    const [one, two] = [await make('One'), await make('Two')]
    const operationId = crypto.randomUUID()
    const add = submission({ kind: 'table.add', table: newTable('ward') }, { operationId })
    for (const id of [one, two])
      expect((await send('POST', `/designs/${id}/operations`, add)).status).toBe(200)
    expect((await send('POST', `/designs/${two}/operations`, add)).body.revision).toBe(1)
    const other = await send(
      'POST',
      `/designs/${two}/operations`,
      submission({ kind: 'design.rename', name: 'Three' }, { operationId, revision: 1 })
    )
    expect(other).toMatchObject({ status: 409, body: { error: { refusal: { code: 'id-taken' } } } })
  })

  it('from another history are told so, and not taken', async () => {
    const id = await make()
    const ahead = await send(
      'POST',
      `/designs/${id}/operations`,
      submission({ kind: 'design.rename', name: 'x' }, { revision: 5 })
    )
    const other = await send(
      'POST',
      `/designs/${id}/operations`,
      submission({ kind: 'design.rename', name: 'x' }, { mark: '0'.repeat(32) })
    )
    for (const answer of [
      ahead,
      other,
      await send('GET', `/designs/${id}/operations?after=0&mark=${'0'.repeat(32)}`)
    ])
      expect(answer).toMatchObject({ status: 409, body: { error: { code: 'parted' } } })
    expect((await send('GET', `/designs/${id}`)).body.revision).toBe(0)
  })

  it('on a check that once took for ever are answered', async () => {
    const nested = (open: string, close: string, depth: number): string =>
      `${open.repeat(depth)}1${close.repeat(depth)}`
    const conditions = [
      nested('coalesce(', ', 1)', 55),
      nested('nullif(', ', 0)', 55),
      nested('(', ' in (1))', 20),
      `${'('.repeat(50)}TRUE${' BETWEEN FALSE AND TRUE)'.repeat(50)}`
    ]
    for (const condition of conditions) {
      const answer = await send(
        'POST',
        '/designs/d_fernhollow/operations',
        submission({
          kind: 'check.add',
          table: 't_patient',
          check: { id: `x_${condition.length}`, condition: `${condition} = 1` }
        })
      )
      expect([200, 409]).toContain(answer.status)
    }
  })
})

describe('files', () => {
  it('that are no design files are refused, be they short or long, and a backup is none', async () => {
    const text = JSON.parse(writeDesignFile(fernhollow().design)) as object
    const first = {
      kind: 'patient-key backup',
      format: 1,
      savedAt: '2026-05-03T07:40:00Z',
      designs: [],
      count: 0
    }
    const long = { note: 'x'.repeat(300_000) }
    const before = (await send('GET', '/designs')).body
    for (const given of [
      first,
      { ...first, ...long },
      { ...text, ...long },
      { ...long },
      'x'.repeat(300_000)
    ])
      isPlain(await send('POST', '/files', JSON.stringify(given)))
    expect((await send('GET', '/designs')).body).toEqual(before)
  })

  it('of one design taken in at once become designs of their own', async () => {
    const file = writeDesignFile({ ...fernhollow().design, id: 'd_fourfold', name: 'Fourfold' })
    const answers = await Promise.all(Array.from({ length: 4 }, () => send('POST', '/files', file)))
    expect(answers.map(({ status }) => status)).toEqual([201, 201, 201, 201])
    expect(new Set(answers.map(({ body }) => body.design?.id)).size).toBe(4)
  })

  it('with all designs are given, and taken back whole or not at all', async () => {
    const backup = await send('GET', '/backup')
    expect(backup.status).toBe(200)
    expect(await send('POST', '/backup', backup.text)).toMatchObject({
      status: 201,
      text: expect.stringContaining('"came":[],"already":["') as string
    })
    for (const broken of [
      backup.text.slice(0, -40),
      backup.text.replace('Ward book', 'Ward look'),
      backup.text.replace(/"count":\d+/, '"count":1'),
      '{}',
      ''
    ]) {
      const answer = await send('POST', '/backup', broken)
      isPlain(answer)
    }
    expect((await send('GET', '/designs')).body.designs?.filter(({ name }) => name === 'Ward look')).toEqual(
      []
    )
    await send('DELETE', '/designs/d_fernhollow')
    expect((await send('POST', '/backup', backup.text)).text).toContain(
      '"came":["Fernhollow Wildlife Hospital"]'
    )
    await send(
      'POST',
      '/designs/d_fernhollow/operations',
      submission({ kind: 'design.rename', name: 'Changed since' })
    )
    expect((await send('POST', '/backup', backup.text)).text).toMatch(
      /"beside":\["Fernhollow Wildlife Hospital, as of 20\d\d-\d\d-\d\d"\]/
    )
  })
})

/** How many bytes still come before the server's end is closed. */
function hearRest(socket: Socket): Promise<number> {
  return new Promise((resolve) => {
    let bytes = 0
    socket.on('data', (part) => (bytes += part.length))
    socket.on('close', () => resolve(bytes))
    socket.resume()
  })
}

describe('pages that listen and do not read', () => {
  it('are let go before they cost much', async () => {
    const id = await make()
    const { port } = new URL(address)
    const deaf = Array.from({ length: 20 }, () => {
      const socket = connect(Number(port), '127.0.0.1', () =>
        socket.write(`GET /api/designs/${id}/events HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\n\r\n`)
      )
      socket.pause()
      socket.on('error', () => undefined)
      return socket
    })
    await new Promise((resolve) => setTimeout(resolve, 300))
    const before = process.memoryUsage().rss
    const table = newTable('ward')
    await send('POST', `/designs/${id}/operations`, submission({ kind: 'table.add', table }))
    // Twenty-five megabytes of events for each: half a gigabyte, if they were kept.
    for (let n = 0; n < 25; n++) {
      const column = {
        id: `c_wide_${n}`,
        name: `wide_${n}`,
        type: { kind: 'text' },
        required: false,
        default: { kind: 'value', value: 'x'.repeat(999_000) }
      }
      expect(
        (
          await send(
            'POST',
            `/designs/${id}/operations`,
            submission({ kind: 'column.add', table: table.id, column }, { revision: 2 * n + 1 })
          )
        ).status
      ).toBe(200)
      expect(
        (
          await send(
            'POST',
            `/designs/${id}/operations`,
            submission({ kind: 'column.remove', table: table.id, column: column.id }, { revision: 2 * n + 2 })
          )
        ).status
      ).toBe(200)
    }
    expect(process.memoryUsage().rss - before).toBeLessThan(300e6)
    // Each was let go long before all that there was to hear.
    const heard = await Promise.all(deaf.map(hearRest))
    expect(Math.max(...heard)).toBeLessThan(12e6)
  })
})

describe('a server that others can reach', () => {
  it('takes the token out of the address, and hears guesses no more, but whoever knows it', async () => {
    const data = mkdtempSync(join(tmpdir(), 'patient-key-guess-'))
    const open = await serve({ port: 0, host: '0.0.0.0', data })
    const url = new URL(open.address.replace('0.0.0.0', '127.0.0.1'))
    const ask = (path: string, headers: Record<string, string> = {}): Promise<Response> =>
      fetch(`${url.origin}${path}`, { headers, redirect: 'manual' })
    try {
      const first = await ask(`//elsewhere.example/d/x?a=1&${url.search.slice(1)}`)
      expect([first.status, first.headers.get('location')]).toEqual([303, '/d/x?a=1'])
      const Cookie = first.headers.get('set-cookie')?.split(';')[0] ?? ''
      const [name = ''] = Cookie.split('=')
      expect((await ask('/api/designs', { Cookie })).status).toBe(200)
      // A page that was open before the server was started anew says the same over and over.
      for (let n = 0; n < 30; n++)
        expect((await ask('/api/designs', { Cookie: `${name}=of-last-week` })).status).toBe(401)
      expect((await ask('/api/designs', { Cookie })).status).toBe(200)
      for (let n = 0; n < 9; n++) expect((await ask(`/api/designs?token=guess-${n}`)).status).toBe(401)
      expect((await ask('/api/designs?token=another')).status).toBe(429)
      // Many stand behind one proxy: who knows the token is let in.
      expect((await ask('/api/designs', { Cookie })).status).toBe(200)
      expect((await ask(`/api/designs${url.search}`)).status).toBe(200)
    } finally {
      await open.stop()
      rmSync(data, { recursive: true, force: true })
    }
  })

  it('leaves the cookie of another server on the same machine alone, and asks for TLS where there is some', async () => {
    const folders = [1, 2].map(() => mkdtempSync(join(tmpdir(), 'patient-key-two-')))
    const servers = await Promise.all(folders.map((data) => serve({ port: 0, host: '0.0.0.0', data })))
    try {
      const jar = new Map<string, string>()
      const said: string[] = []
      for (const { address: printed } of servers) {
        const url = new URL(printed.replace('0.0.0.0', '127.0.0.1'))
        const answer = await fetch(url, { redirect: 'manual', headers: { 'X-Forwarded-Proto': 'https' } })
        const set = answer.headers.get('set-cookie') ?? ''
        said.push(set)
        const [pair = ''] = set.split(';')
        jar.set(pair.split('=')[0] ?? '', pair)
      }
      const Cookie = [...jar.values()].join('; ')
      for (const { address: printed } of servers) {
        const { origin } = new URL(printed.replace('0.0.0.0', '127.0.0.1'))
        expect((await fetch(`${origin}/api/designs`, { headers: { Cookie } })).status).toBe(200)
      }
      for (const each of said) expect(each).toMatch(/; HttpOnly; Secure; SameSite=Strict/)
    } finally {
      for (const server of servers) await server.stop()
      for (const data of folders) rmSync(data, { recursive: true, force: true })
    }
  })
})

describe('a request that changes something and brings nothing', () => {
  it('is held to the same rules as one that does', async () => {
    const id = await make('Kept')
    for (const [method, path] of [
      ['DELETE', `/designs/${id}`],
      ['POST', `/designs/${id}/salvage`]
    ] as const)
      expect((await send(method, path, undefined, {})).status).toBe(415)
    expect((await send('GET', `/designs/${id}`)).status).toBe(200)
    expect((await send('DELETE', `/designs/${id}`)).status).toBe(204)
  })
})
