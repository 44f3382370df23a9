import sqlite3 from 'sqlite3'
import type { Engine } from './engine.ts'

/** A new SQLite database, in memory unless a file is named. */
export async function openSqlite(file = ':memory:'): Promise<Engine> {
  const database = await new Promise<sqlite3.Database>((resolve, reject) => {
    const opened = new sqlite3.Database(file, (error) => (error ? reject(error) : resolve(opened)))
  })
  const query: Engine['query'] = (sql, values = []) =>
    new Promise((resolve, reject) =>
      database.all(sql, values, (error, rows) =>
        error ? reject(error) : resolve(rows as Record<string, unknown>[])
      )
    )
  const [version] = await query('SELECT sqlite_version() AS version')
  return {
    dialect: 'sqlite',
    title: `SQLite ${String(version?.version)}`,
    query,
    close: () =>
      new Promise((resolve, reject) => database.close((error) => (error ? reject(error) : resolve())))
  }
}
