import { randomBytes } from 'node:crypto'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { fileURLToPath } from 'node:url'
import { pino } from 'pino'
import type { DesignFile } from '../core/design/file.ts'
import { isLoopback } from './api/guard.ts'
import { makeApp } from './app.ts'
import { Store } from './store/store.ts'

export interface ServeOptions { port: number; host: string; data: string; /** Put into a store that has nothing in it. */ demo?: DesignFile | undefined }

/** A server that could not be started, in words for a person. */
export class CannotServe extends Error {
  override readonly name = 'CannotServe'
}

/** Starts the application. Gives its address, and how to stop it. Port 0 takes a free one. */
export async function serve({ port, host, data, demo }: ServeOptions): Promise<{ address: string; stop(): Promise<void> }> {
  const log = pino({ redact: ['req.headers.authorization', 'req.headers.cookie'] }, pino.destination(2))
  const store = await Store.open(data)
  if (demo && (await store.list()).length === 0) await store.create({ file: demo })
  const token = isLoopback(host) ? undefined : randomBytes(18).toString('base64url')
  const pages = fileURLToPath(new URL('../dist/', import.meta.url))
  const { app, close } = makeApp({ store, host, token, pages, log: (error) => log.error(error) })
  const server = createServer(app)
  await new Promise<void>((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      void store.close()
      reject(error.code === 'EADDRINUSE'
        ? new CannotServe(`Port ${port} is taken by another program. Stop that one, or choose another with --port.`)
        : new CannotServe(`The server cannot listen on ${host}:${port}: ${error.message}.`))
    })
    server.listen(port, host, resolve)
  })
  const { port: taken } = server.address() as AddressInfo
  return {
    address: `http://${host.includes(':') ? `[${host}]` : host}:${taken}/${token ? `?token=${token}` : ''}`,
    stop: async () => {
      close()
      await new Promise((resolve) => {
        server.close(resolve)
        server.closeAllConnections()
      })
      await store.close()
    }
  }
}
