import { newTable } from '../core/relate/propose.ts'
import type { App } from '../e2e/app.ts'

/** How long is written (milliseconds). */
const TIME = 4000

/**
 * How many operations a second a server acknowledges where so many designs are written at once, each by
 * one client that waits for its answers.
 */
export async function operationsPerSecond(app: App, designs: number): Promise<number> {
  const post = async (path: string, body: unknown): Promise<Response> => {
    const response = await fetch(`${app.address}/api/designs${path}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body)
    })
    if (!response.ok) throw new Error(await response.text())
    return response
  }
  const ids = await Promise.all(
    Array.from({ length: designs }, async (_, at) => {
      const made = (await (await post('', { name: `Ward book ${at}` })).json()) as { design: { id: string } }
      return made.design.id
    })
  )
  let taken = 0
  const until = performance.now() + TIME
  await Promise.all(
    ids.map(async (id) => {
      const table = newTable('ward')
      await post(`/${id}/operations`, {
        revision: 0,
        operationId: crypto.randomUUID(),
        client: 'bench',
        operation: { kind: 'table.add', table }
      })
      for (let revision = 1; performance.now() < until; revision++) {
        const operation = { kind: 'table.annotate', table: table.id, note: `note ${revision}` }
        await post(`/${id}/operations`, {
          revision,
          operationId: crypto.randomUUID(),
          client: 'bench',
          operation
        })
        taken++
      }
    })
  )
  return taken / (TIME / 1000)
}
