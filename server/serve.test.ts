import { mkdtempSync, rmSync } from 'node:fs'
import { request as ask } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { newTable } from '../core/relate/propose.ts'
import type { Operation } from '../core/edit/operation.ts'
import { writeDesignFile } from '../core/design/file.ts'
import { App } from '../e2e/app.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { CannotServe, serve } from './serve.ts'

const id = (): string => crypto.randomUUID()
interface Answer {
  status: number
  body: {
    id?: string
    design?: { id: string; tables: { name: string }[] }
    revision?: number
    between?: unknown[]
    ended?: boolean
    error?: { message: string; path?: string; refusal?: { code: string } }
  }
}

async function send(
  address: string,
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {}
): Promise<Answer> {
  const response = await fetch(`${address}/api${path}`, {
    method,
    headers: { 'Content-Type': 'application/json', ...headers },
    ...(body !== undefined && { body: typeof body === 'string' ? body : JSON.stringify(body) })
  })
  return { status: response.status, body: (await response.json().catch(() => ({}))) as Answer['body'] }
}

const submit = (
  address: string,
  design: string,
  revision: number,
  operation: Operation,
  operationId = id()
): Promise<Answer> =>
  send(address, 'POST', `/designs/${design}/operations`, { revision, operationId, client: 'test', operation })

describe('the server', () => {
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-serve-'))
  let server: Awaited<ReturnType<typeof serve>>
  let address = ''
  let design = ''
  beforeAll(async () => {
    server = await serve({ port: 0, host: '127.0.0.1', data: folder, demo: fernhollow() })
    address = server.address.replace(/\/$/, '')
    design = (await send(address, 'POST', '/designs', { name: 'Ward book' })).body.design?.id ?? ''
  })
  afterAll(async () => {
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  it('answers what fits no schema with 400 and the path to it, and changes nothing', async () => {
    const cases: [string, unknown, string][] = [
      ['/designs', { name: '' }, 'name'],
      ['/designs', '{ not json', ''],
      [
        `/designs/${design}/operations`,
        { revision: -1, operationId: id(), client: 'x', operation: { kind: 'design.rename', name: 'x' } },
        'revision'
      ],
      [
        `/designs/${design}/operations`,
        { revision: 0, operationId: id(), client: 'x', operation: { kind: 'table.burn' } },
        'operation.kind'
      ],
      [
        `/designs/${design}/operations`,
        {
          revision: 0,
          operationId: id(),
          client: 'x',
          operation: { kind: 'table.add', table: { ...newTable('x'), id: '__proto__' } }
        },
        'operation.table.id'
      ],
      ['/proofs', { design, to: 'draft', engines: ['paper'] }, 'engines.0']
    ]
    for (const [path, body, where] of cases) {
      const {
        status,
        body: { error }
      } = await send(address, 'POST', path, body)
      expect([path, status]).toEqual([path, 400])
      expect(error?.path ?? '').toBe(where)
      expect(error?.message).not.toMatch(/at .*\.ts|node_modules/)
    }
    expect((await send(address, 'GET', `/designs/${design}`)).body.revision).toBe(0)
  })

  it('applies a stale operation again, tells what came between, and explains one that no longer fits', async () => {
    const [first, second] = [newTable('admission'), newTable('medicine')]
    expect((await submit(address, design, 0, { kind: 'table.add', table: first })).body).toMatchObject({
      revision: 1,
      between: []
    })
    const late = await submit(address, design, 0, { kind: 'table.add', table: second })
    expect(late).toMatchObject({
      status: 200,
      body: { revision: 2, between: [{ revision: 1, operation: { kind: 'table.add' } }] }
    })
    const doubled = await submit(address, design, 0, { kind: 'table.add', table: newTable('Admission') })
    expect(doubled).toMatchObject({
      status: 409,
      body: { revision: 2, error: { refusal: { code: 'name-taken' } } }
    })
    expect(doubled.body.between).toHaveLength(2)
  })

  it('takes an operation that is sent twice once', async () => {
    const operationId = id()
    const table = newTable('ward')
    const once = await submit(address, design, 2, { kind: 'table.add', table }, operationId)
    const twice = await submit(address, design, 2, { kind: 'table.add', table }, operationId)
    expect(twice.body.revision).toBe(once.body.revision)
    expect(
      (await send(address, 'GET', `/designs/${design}`)).body.design?.tables.filter(
        (each) => each.name === 'ward'
      )
    ).toHaveLength(1)
  })

  it('refuses a design file that is malformed, does not hold together, or is newer, in plain words', async () => {
    const good = JSON.parse(writeDesignFile(fernhollow().design)) as Record<string, unknown>
    const torn = structuredClone(good) as { design: { tables: { foreignKeys: { table: string }[] }[] } }
    const child = torn.design.tables.find((table) => table.foreignKeys.length > 0)
    if (child?.foreignKeys[0]) child.foreignKeys[0].table = 't_nowhere'
    for (const [text, words] of [
      ['{"format": 1,\n  oops', 'line 2'],
      [JSON.stringify({ ...good, format: 3 }), 'newer'],
      [JSON.stringify(torn), 'not there'],
      ['[]', 'no format number']
    ] as const) {
      const headers = { 'Content-Type': 'application/json' }
      const answer = await fetch(`${address}/api/files`, { method: 'POST', headers, body: text })
      expect(answer.status).toBe(400)
      expect(((await answer.json()) as { error: { message: string } }).error.message).toContain(words)
    }
  })

  it('answers only to this machine and to its own pages', async () => {
    expect(
      (await send(address, 'GET', '/designs', undefined, { Origin: 'http://elsewhere.example' })).status
    ).toBe(403)
    const status = await new Promise((resolve) =>
      ask(`${address}/api/designs`, { headers: { Host: 'elsewhere.example' } }, (response) =>
        resolve(response.statusCode)
      ).end()
    )
    expect(status).toBe(403)
    const headers = (await fetch(address)).headers
    expect(headers.get('content-security-policy')).toContain("default-src 'self'")
  })

  it('asks for a token when it listens elsewhere', async () => {
    const data = mkdtempSync(join(tmpdir(), 'patient-key-token-'))
    const open = await serve({ port: 0, host: '0.0.0.0', data })
    const url = new URL(open.address.replace('0.0.0.0', '127.0.0.1'))
    expect((await fetch(`${url.origin}/api/designs`)).status).toBe(401)
    expect((await fetch(`${url.origin}/api/designs?token=wrong`)).status).toBe(401)
    const first = await fetch(`${url.origin}/api/designs${url.search}`)
    expect(first.status).toBe(200)
    expect(
      (
        await fetch(`${url.origin}/api/designs`, {
          headers: { Cookie: first.headers.get('set-cookie')?.split(';')[0] ?? '' }
        })
      ).status
    ).toBe(200)
    await open.stop()
    rmSync(data, { recursive: true, force: true })
  })

  it('says in one line that a port is taken', async () => {
    const port = Number(new URL(address).port)
    const data = mkdtempSync(join(tmpdir(), 'patient-key-port-'))
    // Twice: the first has let go of the folder.
    for (let n = 0; n < 2; n++)
      await expect(serve({ port, host: '127.0.0.1', data })).rejects.toThrow(
        new CannotServe(
          `Port ${port} is taken by another program. Stop that one, or choose another with --port.`
        )
      )
    rmSync(data, { recursive: true, force: true })
  })

  it('says in one line that its folder is in use by another, or cannot be opened', async () => {
    await expect(serve({ port: 0, host: '127.0.0.1', data: folder })).rejects.toThrow(
      'in use by another Patient Key'
    )
    await expect(serve({ port: 0, host: '127.0.0.1', data: '/dev/null/designs' })).rejects.toThrow(
      /The designs in .* cannot be opened/
    )
  })

  it('answers a request that is nested without end, and goes on', async () => {
    const depth = 20_000
    const nested = `${'{"kind":"batch","operations":['.repeat(depth)}${']}'.repeat(depth)}`
    const { status } = await send(
      address,
      'POST',
      `/designs/${design}/operations`,
      `{"revision":0,"operationId":"${id()}","client":"x","operation":${nested}}`
    )
    expect(status).toBe(400)
    expect((await send(address, 'GET', '/health')).status).toBe(200)
  })

  it('saves a version only of the draft that was seen', async () => {
    const { revision } = (await send(address, 'GET', `/designs/${design}`)).body
    expect(
      (await send(address, 'POST', `/designs/${design}/versions`, { note: '', revision: 0 })).status
    ).toBe(409)
    expect(
      await send(address, 'POST', `/designs/${design}/versions`, { note: 'first', revision })
    ).toMatchObject({ status: 201, body: { number: 1, note: 'first' } })
    await submit(address, design, revision ?? 0, { kind: 'design.rename', name: 'Ward ledger' })
    expect((await send(address, 'GET', `/designs/${design}/versions/1`)).body.design).toMatchObject({
      name: 'Ward book'
    })
  })

  it('stops a proof that is cancelled', async () => {
    const job = (
      await send(address, 'POST', '/proofs', {
        design: 'd_fernhollow',
        to: 2,
        from: 1,
        engines: ['postgresql']
      })
    ).body
    expect(
      (
        await fetch(`${address}/api/proofs/${job.id}`, {
          method: 'DELETE',
          headers: { 'Content-Type': 'application/json' }
        })
      ).status
    ).toBe(202)
    const events = await fetch(`${address}/api/proofs/${job.id}/events`)
    const reader = events.body?.getReader()
    let said = ''
    while (!said.includes('"ended":true')) said += new TextDecoder().decode((await reader?.read())?.value)
    expect(said).toMatch(/"cancelled":true|It was cancelled/)
    expect(said).not.toContain('"good":true,"cancelled":true')
    await reader?.cancel()
  })
})

describe('a server that is killed', () => {
  it('has every acknowledged operation after the restart', async () => {
    const app = await new App().start()
    try {
      const created =
        (await send(app.address, 'POST', '/designs', { name: 'Ward book' })).body.design?.id ?? ''
      let acknowledged: string[] = []
      for (let round = 0; round < 3; round++) {
        // Killed after so many answers, while others are on their way: how soon that is is the machine's
        // affair.
        const enough = acknowledged.length + 8 + round * 7
        const streams = Array.from({ length: 4 }, async (_, stream) => {
          for (let n = 0; n < 400; n++) {
            const name = `table_${round}_${stream}_${n}`
            const answer = await submit(app.address, created, 0, {
              kind: 'table.add',
              table: newTable(name)
            }).catch(() => undefined)
            if (!answer) return
            if (answer.status === 200) acknowledged = [...acknowledged, name]
            if (acknowledged.length === enough) void app.kill()
          }
        })
        await Promise.all(streams)
        await app.kill()
        await app.run()
        const after =
          (await send(app.address, 'GET', `/designs/${created}`)).body.design?.tables.map(
            (table) => table.name
          ) ?? []
        expect(after).toEqual(expect.arrayContaining(acknowledged))
        expect(new Set(after).size).toBe(after.length)
      }
      expect(acknowledged.length).toBeGreaterThanOrEqual(8 + 15 + 22)
    } finally {
      await app.stop()
    }
  })
})
