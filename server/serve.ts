import { randomBytes } from 'node:crypto'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { pino } from 'pino'
import type { DesignFile } from '../core/design/file.ts'
import { isLoopback } from './api/guard.ts'
import { makeApp } from './app.ts'
import { PAGES } from './places.ts'
import { InUse } from './store/lock.ts'
import { openStore } from './store/open.ts'
import type { Store } from './store/store.ts'

export interface ServeOptions {
  port: number
  host: string
  data: string
  /** Put into a store that has nothing in it. */
  demo?: DesignFile | undefined
}

/** A server that could not be started, in words for a person. */
export class CannotServe extends Error {
  override readonly name = 'CannotServe'
}

/** How long a request may take when the server is being stopped (milliseconds). */
const PATIENCE = 3000

/** Starts the application. Gives its address, and how to stop it. Port 0 takes a free one. */
export async function serve({
  port,
  host,
  data,
  demo
}: ServeOptions): Promise<{ address: string; stop(): Promise<void> }> {
  const log = pino({ redact: ['req.headers.authorization', 'req.headers.cookie'] }, pino.destination(2))
  const store = await open(data)
  store.notices.forEach((notice) => log.warn(notice))
  if (demo && (await store.list()).length === 0) await store.create({ file: demo })
  const token = isLoopback(host) ? undefined : randomBytes(18).toString('base64url')
  const { app, close } = makeApp({
    store,
    data,
    host,
    token,
    pages: PAGES,
    log: (error) => log.error(error)
  })
  // Whoever is let in is answered: nothing is listened for before everything is there.
  const server = createServer(app)
  try {
    await listen(server, port, host)
  } catch (error) {
    close()
    await store.close()
    throw error
  }
  // Damage is looked for beside the work, so that the shelf tells of it.
  void store.check().catch((error: unknown) => log.error(error))
  const { port: taken } = server.address() as AddressInfo
  return {
    address: `http://${host.includes(':') ? `[${host}]` : host}:${taken}/${token ? `?token=${token}` : ''}`,
    stop: async () => {
      close()
      // What is being done is done and answered; who does not let go of it is left after a while.
      const ended = new Promise((resolve) => server.close(resolve))
      server.closeIdleConnections()
      const patience = setTimeout(() => server.closeAllConnections(), PATIENCE)
      await store.close()
      server.closeIdleConnections()
      await ended
      clearTimeout(patience)
    }
  }
}

function listen(server: Server, port: number, host: string): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(
        error.code === 'EADDRINUSE'
          ? new CannotServe(
              `Port ${port} is taken by another program. Stop that one, or choose another with --port.`
            )
          : new CannotServe(`The server cannot listen on ${host}:${port}: ${error.message}.`)
      )
    )
    server.listen(port, host, resolve)
  })
}

async function open(data: string): Promise<Store> {
  try {
    return await openStore(data)
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    throw new CannotServe(
      error instanceof InUse
        ? `The designs in ${data} are in use by another Patient Key. Stop that one, or choose another folder with --data.`
        : `The designs in ${data} cannot be opened: ${message}`
    )
  }
}
