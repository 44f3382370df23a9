import { connect } from 'node:net'
import { describe, expect, it, vi } from 'vitest'
import { newTable } from '../core/relate/propose.ts'
import { App } from '../e2e/app.ts'
import { times } from '../tests/times.ts'

const post = (address: string, path: string, body: unknown): Promise<Response> =>
  fetch(`${address}/api${path}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body)
  })

async function make(app: App): Promise<string> {
  return (
    (await (await post(app.address, '/designs', { name: 'Ward book' })).json()) as { design: { id: string } }
  ).design.id
}

describe('a server', () => {
  it('that is being started lets nobody in whom it does not answer', async () => {
    const app = await new App().start()
    try {
      const port = Number(new URL(app.address).port)
      await make(app)
      let letIn = 0
      for (let round = 0; round < times(3); round++) {
        await app.kill()
        let up = false
        const connections: Promise<'refused' | 'answered' | 'left alone'>[] = []
        const started = app.run().then(() =>
          setTimeout(() => {
            up = true
          }, 50)
        )
        while (!up) {
          connections.push(
            new Promise((resolve) => {
              const socket = connect(port, '127.0.0.1', () =>
                socket.write(
                  `GET /api/designs HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nConnection: close\r\n\r\n`
                )
              )
              socket.once('data', () => resolve('answered'))
              socket.once('error', () => resolve('refused'))
              // Far longer than any answer takes; who is left alone is so for ever.
              socket.setTimeout(20_000, () => {
                resolve('left alone')
                socket.destroy()
              })
            })
          )
          await new Promise((resolve) => setTimeout(resolve, 5))
        }
        await started
        const outcomes = await Promise.all(connections)
        expect(outcomes.filter((each) => each === 'left alone')).toEqual([])
        letIn += outcomes.filter((each) => each === 'answered').length
        expect(outcomes.filter((each) => each === 'refused').length).toBeGreaterThan(0)
      }
      expect(letIn).toBeGreaterThan(0)
    } finally {
      await app.stop()
    }
  })

  it('that is asked to end while it writes does so in peace, with all that it acknowledged', async () => {
    const app = await new App().start()
    try {
      const designs = await Promise.all([make(app), make(app), make(app)])
      const acknowledged = new Map(designs.map((id) => [id, [] as string[]]))
      for (let round = 0; round < times(4); round++) {
        let ending = false
        const writers = designs.flatMap((id) =>
          [0, 1].map(async (stream) => {
            for (let n = 0; ; n++) {
              const name = `table_${round}_${stream}_${n}`
              const answer = await post(app.address, `/designs/${id}/operations`, {
                revision: (acknowledged.get(id)?.length ?? 0) >> 1,
                operationId: crypto.randomUUID(),
                client: 'test',
                operation: { kind: 'table.add', table: newTable(name) }
              }).catch(() => undefined)
              if (answer?.status === 200) acknowledged.get(id)?.push(name)
              // What comes too late is refused in words, or not let in.
              else if (answer)
                expect([
                  answer.status,
                  ((await answer.json()) as { error: { code?: string } }).error.code
                ]).toEqual([503, 'closing'])
              if (ending && answer?.status !== 200) return
            }
          })
        )
        // However fast the machine is: when each has been written to so often.
        const wanted = 4 * (round + 1)
        await vi.waitUntil(() => [...acknowledged.values()].every((names) => names.length >= wanted), 60_000)
        ending = true
        expect(await app.end()).toBe(0)
        await Promise.all(writers)
        await app.run()
      }
      for (const [id, names] of acknowledged) {
        const tables = (await app.design(id)).tables.map((table) => table.name)
        expect(names.length).toBeGreaterThan(10)
        expect(tables).toEqual(expect.arrayContaining(names))
      }
    } finally {
      await app.stop()
    }
  })
})
