import { statSync } from 'node:fs'
import { createServer, type Server } from 'node:net'
import { dirname } from 'node:path'
import sqlite3 from 'sqlite3'

/** The folder is another program's already. */
export class InUse extends Error {
  override readonly name = 'InUse'
  constructor() {
    super('in use by another Patient Key')
  }
}

/**
 * Takes a folder for this program alone, by a file that SQLite locks in it, and where the system has names for
 * sockets that are no files, by one of those too: a file can be deleted, which lets go of nothing then. Both go with
 * the process, however that ends. Gives what lets go of the folder.
 */
export async function lockFolder(file: string): Promise<() => Promise<void>> {
  const free = await lockFile(file)
  try {
    const name = await lockName(dirname(file))
    return async () => {
      await new Promise((done) => (name ? name.close(done) : done(undefined)))
      await free()
    }
  } catch (error) {
    await free()
    throw error
  }
}

function lockFile(file: string): Promise<() => Promise<void>> {
  return new Promise((resolve, reject) => {
    const database = new sqlite3.Database(file, (failure) => {
      if (failure) return reject(failure)
      database.exec('BEGIN EXCLUSIVE', (error) => {
        if (!error) return resolve(() => new Promise((done) => database.close(() => done())))
        database.close(() => reject(error.message.includes('SQLITE_BUSY') ? new InUse() : error))
      })
    })
  })
}

/** A socket that is called as the folder is known to the system; only Linux has such names (unix(7), “abstract”). */
function lockName(folder: string): Promise<Server | undefined> {
  if (process.platform !== 'linux') return Promise.resolve(undefined)
  const { dev, ino } = statSync(folder, { bigint: true })
  const server = createServer((socket) => socket.destroy())
  server.unref()
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      // A system that gives no such name has none to lock.
      if (error.code === 'EADDRINUSE') reject(new InUse())
      else resolve(undefined)
    })
    server.listen({ path: `\0patient-key ${dev} ${ino}` }, () => resolve(server))
  })
}
