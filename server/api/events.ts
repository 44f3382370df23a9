import type { Request, Response } from 'express'

/** One stream of server-sent events for each page that listens to a topic. */
export class Events {
  private readonly listeners = new Map<string, Set<Response>>()

  /** Keeps the response open and sends it what is published on the topic. `first` is sent at once. */
  listen(topic: string, request: Request, response: Response, first: { event: string; data: unknown }[] = []): void {
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', Connection: 'keep-alive', 'X-Accel-Buffering': 'no' })
    response.write('retry: 1000\n\n')
    for (const { event, data } of first) response.write(format(event, data))
    const set = this.listeners.get(topic) ?? new Set()
    this.listeners.set(topic, set.add(response))
    // A comment now and then, so that neither side takes a quiet connection for a dead one.
    const beat = setInterval(() => response.write(': still here\n\n'), 15_000)
    request.on('close', () => {
      clearInterval(beat)
      set.delete(response)
      if (set.size === 0) this.listeners.delete(topic)
    })
  }

  publish(topic: string, event: string, data: unknown): void {
    for (const response of this.listeners.get(topic) ?? []) response.write(format(event, data))
  }

  /** Ends every stream, so that the server can close. */
  close(): void {
    for (const set of this.listeners.values()) for (const response of set) response.end()
  }
}

const format = (event: string, data: unknown): string => `event: ${event}\ndata: ${JSON.stringify(data)}\n\n`
