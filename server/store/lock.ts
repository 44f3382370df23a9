import sqlite3 from 'sqlite3'

/** The folder is another program's already. */
export class InUse extends Error {
  override readonly name = 'InUse'
}

/**
 * Takes a folder for this program alone, by a file that SQLite locks in it: the lock goes with the
 * process, however that ends. Gives what lets go of it.
 */
export function lockFolder(file: string): Promise<() => Promise<void>> {
  return new Promise((resolve, reject) => {
    const database = new sqlite3.Database(file, (failure) => {
      if (failure) return reject(failure)
      database.exec('BEGIN EXCLUSIVE', (error) => {
        if (!error) return resolve(() => new Promise((done) => database.close(() => done())))
        database.close(() =>
          reject(error.message.includes('SQLITE_BUSY') ? new InUse('in use by another Patient Key') : error)
        )
      })
    })
  })
}
