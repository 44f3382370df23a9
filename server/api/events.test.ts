import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { Request, Response } from 'express'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Events } from './events.ts'

/** A page that listens to a topic: what it has heard, and how it leaves. */
interface Page {
  heard: string
  ended: boolean
  leave(): void
}

describe('a stream of events', () => {
  let events: Events
  let server: Server
  beforeEach(async () => {
    events = new Events()
    server = createServer((request, response) =>
      events.listen(request.url ?? '', request as Request, response as Response, [
        { event: 'here', data: { revision: 3 } }
      ])
    )
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  })
  afterEach(() => {
    events.close()
    server.closeAllConnections()
    server.close()
  })

  async function listen(topic: string): Promise<Page> {
    const abort = new AbortController()
    const page: Page = { heard: '', ended: false, leave: () => abort.abort() }
    const response = await fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}${topic}`, {
      signal: abort.signal
    })
    expect(response.headers.get('content-type')).toBe('text/event-stream')
    void (async () => {
      for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>)
        page.heard += new TextDecoder().decode(chunk)
      page.ended = true
    })().catch(() => undefined)
    await vi.waitFor(() => expect(page.heard).toContain('event: here\ndata: {"revision":3}\n\n'))
    return page
  }

  it('reaches every page on its topic, in order, and no other', async () => {
    const [one, two, other] = [await listen('/ward'), await listen('/ward'), await listen('/pen')]
    events.publish('/ward', 'operation', { revision: 4 })
    events.publish('/ward', 'operation', { note: 'line\nbreak\n\nevent: forged' })
    for (const page of [one, two])
      await vi.waitFor(() => expect(page.heard.match(/^event: operation$/gm)).toHaveLength(2))
    // A text with line breaks in it is one event still.
    expect(one.heard).not.toMatch(/^event: forged/m)
    expect(one.heard.indexOf('"revision":4')).toBeLessThan(one.heard.indexOf('forged'))
    expect(other.heard).not.toContain('operation')
  })

  it('goes on for the others when a page leaves, and ends for all when it is closed', async () => {
    const [gone, stays] = [await listen('/ward'), await listen('/ward')]
    gone.leave()
    events.publish('/ward', 'version', { number: 1 })
    events.publish('/nobody', 'version', { number: 2 })
    await vi.waitFor(() => expect(stays.heard).toContain('"number":1'))
    expect(stays.heard).not.toContain('"number":2')
    events.close()
    await vi.waitFor(() => expect(stays.ended).toBe(true))
  })
})
