import { emptyDesign, type Design } from '../core/design/model.ts'
import { apply } from '../core/edit/apply.ts'
import type { Operation } from '../core/edit/operation.ts'

interface Sent {
  revision: number
  mark?: string
  operationId: string
  operation: Operation
}
interface Entry {
  operationId: string
  operation: Operation
}

/**
 * The part of the server that pages need, in memory: designs with their logs, of which nothing is lost that was
 * acknowledged. It stands in for the real one where thousands of edits are made, each of which would wait for a disk.
 */
export class StandIn {
  private readonly designs = new Map<string, { design: Design; log: Entry[]; history: number }>()
  /** Operations that were acknowledged, by their ids. */
  readonly taken = new Set<string>()

  make(id: string): void {
    this.designs.set(id, { design: emptyDesign(id, id), log: [], history: 0 })
  }

  /** Another history from here on: as after an older backup was put back. */
  rewrite(id: string): void {
    const kept = this.designs.get(id)
    if (kept) kept.history++
  }

  design(id: string): Design {
    return this.designs.get(id)?.design ?? emptyDesign(id, id)
  }

  answer(path: string, method: string, body: string | undefined): Response {
    const [, id = '', part = ''] = /^\/api\/designs\/([^/?]+)\/?([^?]*)/.exec(path) ?? []
    const kept = this.designs.get(id)
    if (!kept) return json(404, { error: { message: 'There is no such design here.' } })
    const { design, log } = kept
    const mark = `${kept.history}`.padStart(32, '0')
    const here = { revision: log.length, mark }
    if (method === 'GET' && part === '') return json(200, { design, ...here, versions: [] })
    if (method === 'GET' && part === 'head') return json(200, here)
    if (method === 'GET' && part === 'operations') return json(200, { operations: [] })
    if (method !== 'POST' || part !== 'operations') return json(404, { error: { message: 'Nothing here.' } })
    const sent = JSON.parse(body ?? '') as Sent
    if (sent.mark !== mark || sent.revision > log.length)
      return json(409, { error: { message: 'Another history.', code: 'parted' } })
    const before = log.findIndex(({ operationId }) => operationId === sent.operationId)
    const between = log
      .slice(sent.revision)
      .map((entry, at) => ({ ...entry, client: 'c', mark, revision: sent.revision + at + 1 }))
      .filter(({ operationId }) => operationId !== sent.operationId)
    if (before >= 0) return json(200, { revision: before + 1, mark, between })
    const result = apply(design, sent.operation)
    if (!result.ok)
      return json(409, {
        error: { message: result.refusal.message, refusal: result.refusal },
        ...here,
        between
      })
    kept.design = result.design
    log.push({ operationId: sent.operationId, operation: sent.operation })
    this.taken.add(sent.operationId)
    return json(200, { revision: log.length, mark, between })
  }
}

const json = (status: number, body: object): Response =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
