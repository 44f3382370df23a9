import { randomBytes } from 'node:crypto'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { fileURLToPath } from 'node:url'
import { pino } from 'pino'
import type { DesignFile } from '../core/design/file.ts'
import { isLoopback } from './api/guard.ts'
import { makeApp } from './app.ts'
import { InUse } from './store/lock.ts'
import { Store } from './store/store.ts'

export interface ServeOptions { port: number; host: string; data: string; /** Put into a store that has nothing in it. */ demo?: DesignFile | undefined }

/** A server that could not be started, in words for a person. */
export class CannotServe extends Error {
  override readonly name = 'CannotServe'
}

/** Starts the application. Gives its address, and how to stop it. Port 0 takes a free one. */
export async function serve({ port, host, data, demo }: ServeOptions): Promise<{ address: string; stop(): Promise<void> }> {
  const log = pino({ redact: ['req.headers.authorization', 'req.headers.cookie'] }, pino.destination(2))
  const server = createServer()
  await listen(server, port, host)
  const store = await openStore(data, server)
  if (demo && (await store.list()).length === 0) await store.create({ file: demo })
  const token = isLoopback(host) ? undefined : randomBytes(18).toString('base64url')
  const pages = fileURLToPath(new URL('../dist/', import.meta.url))
  const { app, close } = makeApp({ store, host, token, pages, log: (error) => log.error(error) })
  server.on('request', app)
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

function listen(server: Server, port: number, host: string): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => reject(error.code === 'EADDRINUSE'
      ? new CannotServe(`Port ${port} is taken by another program. Stop that one, or choose another with --port.`)
      : new CannotServe(`The server cannot listen on ${host}:${port}: ${error.message}.`)))
    server.listen(port, host, resolve)
  })
}

async function openStore(data: string, server: Server): Promise<Store> {
  try {
    return await Store.open(data)
  } catch (error) {
    server.close()
    const message = error instanceof Error ? error.message : String(error)
    throw new CannotServe(error instanceof InUse
      ? `The designs in ${data} are in use by another Patient Key. Stop that one, or choose another folder with --data.`
      : `The designs in ${data} cannot be opened: ${message}`)
  }
}
