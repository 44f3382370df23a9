import type { Request, Response } from 'express'

/**
 * What waits to be read by one page at the most (bytes); one that is further behind is let go, and catches
 * up when it comes back.
 */
const MOST_WAITING = 1_000_000
/**
 * How often a stream says that it is still there (milliseconds): a page that hears nothing for three times
 * as long opens another.
 */
export const BEAT = 10_000

/** One stream of server-sent events for each page that listens to a topic. */
export class Events {
  private readonly listeners = new Map<string, Set<Response>>()

  constructor(private readonly beat = BEAT) {}

  /** Keeps the response open and sends it what is published on the topic. `first` is sent at once. */
  listen(
    topic: string,
    request: Request,
    response: Response,
    first: { event: string; data: unknown }[] = []
  ): void {
    response.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      Connection: 'keep-alive',
      'X-Accel-Buffering': 'no'
    })
    response.write('retry: 1000\n\n')
    for (const { event, data } of first) send(response, format(event, data))
    const set = this.listeners.get(topic) ?? new Set()
    this.listeners.set(topic, set.add(response))
    const beat = setInterval(() => send(response, format('beat', {})), this.beat)
    request.on('close', () => {
      clearInterval(beat)
      set.delete(response)
      if (set.size === 0 && this.listeners.get(topic) === set) this.listeners.delete(topic)
    })
  }

  publish(topic: string, event: string, data: unknown): void {
    const listeners = this.listeners.get(topic)
    if (!listeners) return
    const text = format(event, data)
    for (const response of listeners) send(response, text)
  }

  /** Ends every stream, so that the server can close. */
  close(): void {
    for (const set of this.listeners.values()) for (const response of set) response.end()
  }
}

function send(response: Response, text: string): void {
  if (response.writableLength > MOST_WAITING) response.destroy()
  else response.write(text)
}

const format = (event: string, data: unknown): string => `event: ${event}\ndata: ${JSON.stringify(data)}\n\n`
