import {
  chmodSync,
  closeSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  statSync
} from 'node:fs'
import { join } from 'node:path'
import { HeadsFile, type Heads, type Reached } from './heads.ts'
import { lockFolder } from './lock.ts'
import type { DesignRow } from './models.ts'
import { connect, flawOfFile, SqliteRecords, type Change, type Connection } from './records.ts'
import { Store } from './store.ts'
import { inWords, NotKept } from './trouble.ts'
import { FORMAT, formatOf, refusalOf, upgrade } from './upgrades.ts'

/** A store that cannot be opened, in words for a person. */
export class CannotOpenStore extends Error {}

const DATABASE = 'patient-key.sqlite'

/**
 * Opens the store in a folder, making or upgrading it where needed. What is amiss is found now, and
 * said: a file that is damaged is not written to, one that has lost what it acknowledged is copied aside.
 * @throws InUse, CannotOpenStore
 */
export async function openStore(folder: string): Promise<Store> {
  if (!existsSync(folder)) mkdirSync(folder, { recursive: true, mode: 0o700 })
  // One program at a time: what it has in memory is what there is.
  const unlock = await lockFolder(ownFile(join(folder, 'lock')))
  try {
    return await openLocked(folder, unlock)
  } catch (error) {
    await unlock()
    throw error instanceof CannotOpenStore
      ? error
      : new CannotOpenStore(inWords(error).message, { cause: error })
  }
}

/** Opens the store in a folder for reading alone, whether or not another program has it. */
export async function openToRead(folder: string): Promise<Store> {
  const file = join(folder, DATABASE)
  if (!existsSync(file)) throw new CannotOpenStore(`There are no designs in ${folder}.`)
  const reader = await connected(folder, 'read')
  // All is read as it was at one moment, whatever is written meanwhile.
  await reader.sequelize.query('BEGIN')
  const format = await formatOf(reader.sequelize)
  if (format !== FORMAT) {
    await reader.sequelize.close()
    throw new CannotOpenStore(
      refusalOf(format) ??
        'The designs there were kept by an older Patient Key. Start this one on them once, so that they are brought up to date.'
    )
  }
  return new Store(
    new SqliteRecords(reader, new NotKept('The designs are open for reading alone.'), () => undefined)
  )
}

async function openLocked(folder: string, unlock: () => Promise<void>): Promise<Store> {
  const heads = new HeadsFile(folder)
  const acknowledged = heads.read()
  const file = join(folder, DATABASE)
  const kept = [...(acknowledged?.values() ?? [])].filter((reached) => reached !== 'removed').length
  if (kept > 0 && (!existsSync(file) || statSync(file).size === 0))
    throw new CannotOpenStore(emptied(folder, kept))
  const writer = await connected(folder, 'write')
  const notices: string[] = []
  const damage = await damageOf(writer)
  if (damage === undefined) await bringUpToDate(folder, writer)
  else
    notices.push(
      `The database of the designs is damaged (${damage}), so nothing is written to it. Make a backup from the shelf, and restore it into another folder.${backupsIn(folder)}`
    )
  const reader = await connect(file, 'read')
  if (damage !== undefined) await writer.sequelize.close()
  const records = new SqliteRecords(
    reader,
    damage === undefined ? writer : (inWords(new Error('SQLITE_CORRUPT')) as NotKept),
    (changes) => heads.came(headsIn(changes))
  )
  if (damage === undefined) {
    const rows = await records.heads()
    if (acknowledged) notices.push(...missing(folder, acknowledged, rows))
    heads.reset(headsOf(rows))
  }
  return new Store(records, {
    notices,
    goes: (id) => heads.goes(id),
    stays: (head) => heads.came(headsOf([head])),
    end: unlock
  })
}

/** What is amiss with the database file; a disk that cannot be read just now says nothing about it. */
async function damageOf(writer: Connection): Promise<string | undefined> {
  try {
    // Asked twice: a page that a disk failed to give once is not damaged.
    return (await flawOfFile(writer)) && (await flawOfFile(writer))
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    if (/SQLITE_CORRUPT|SQLITE_NOTADB/.test(message)) return message
    await writer.sequelize.close().catch(() => undefined)
    throw new CannotOpenStore(inWords(error).message, { cause: error })
  }
}

const headsOf = (rows: readonly Pick<DesignRow, 'id' | 'revision' | 'versions'>[]): Heads =>
  new Map(rows.map(({ id, revision, versions }) => [id, { revision, versions }]))
const headsIn = (changes: readonly Change[]): Heads =>
  headsOf(changes.flatMap((change) => (change.kind === 'remove' ? [] : [change.head])))

/** A file that nobody else may read; made where it is not there. */
function ownFile(path: string): string {
  closeSync(openSync(path, 'a', 0o600))
  chmodSync(path, 0o600)
  return path
}

async function connected(folder: string, to: 'read' | 'write'): Promise<Connection> {
  const file = join(folder, DATABASE)
  try {
    if (to === 'write') ownFile(file)
    return await connect(file, to)
  } catch (error) {
    const reason = inWords(error)
    throw new CannotOpenStore(
      `${reason instanceof NotKept ? `${file} cannot be read as a database: it is damaged, or not one of Patient Key.` : reason.message}${backupsIn(folder)}`,
      { cause: error }
    )
  }
}

/** Upgrades the store, and keeps a copy of it as it was before. */
async function bringUpToDate(folder: string, writer: Connection): Promise<void> {
  const format = await formatOf(writer.sequelize)
  const refusal = refusalOf(format)
  if (refusal !== undefined) {
    await writer.sequelize.close()
    throw new CannotOpenStore(refusal)
  }
  if (format > 0 && format < FORMAT) {
    mkdirSync(join(folder, 'backups'), { recursive: true, mode: 0o700 })
    const copy = join(folder, 'backups', `format-${format}-${stamp()}.sqlite`)
    await writer.sequelize.query('VACUUM INTO :copy', { replacements: { copy } })
    chmodSync(copy, 0o600)
  }
  await upgrade(writer.sequelize, writer.models)
}

const stamp = (): string => new Date().toISOString().replaceAll(/[:.]/g, '-')

function backupsIn(folder: string): string {
  const place = join(folder, 'backups')
  const [last] = existsSync(place) ? readdirSync(place).sort().reverse() : []
  return last === undefined ? '' : ` A copy of an earlier time is ${join(place, last)}.`
}

function emptied(folder: string, kept: number): string {
  const count = kept === 1 ? 'a design was' : `${kept} designs were`
  return `${join(folder, DATABASE)} is empty or gone, though ${count} kept in it. Put it back from a backup; or, to begin anew, remove the file ${join(folder, 'heads')}.${backupsIn(folder)}`
}

/** What a design lacks of what was acknowledged, in words; nothing where it lacks nothing. */
function lacks(id: string, reached: Reached, row: DesignRow | undefined): string | undefined {
  if (reached === 'removed') return row && `${row.name} is there, and was removed or just being removed`
  if (!row) return `the design ${id} is not there`
  const changes = reached.revision - row.revision
  if (changes > 0) return `${row.name} lacks its last ${changes === 1 ? 'change' : `${changes} changes`}`
  return reached.versions > row.versions ? `${row.name} lacks version ${reached.versions}` : undefined
}

/**
 * What was acknowledged and is not there, in words; the files are copied aside as they are now, before
 * anything is written to them.
 */
function missing(folder: string, acknowledged: Heads, rows: readonly DesignRow[]): string[] {
  const here = new Map(rows.map((row) => [row.id, row]))
  const lost = [...acknowledged].flatMap(([id, reached]) => lacks(id, reached, here.get(id)) ?? [])
  if (lost.length === 0) return []
  const aside = join(folder, `damaged-${stamp()}`)
  mkdirSync(aside, { mode: 0o700 })
  for (const name of [DATABASE, `${DATABASE}-wal`])
    if (existsSync(join(folder, name))) copyFileSync(join(folder, name), join(aside, name))
  const more = lost.length > 5 ? ` and ${lost.length - 5} more` : ''
  return [
    `The database is older than what was acknowledged: ${lost.slice(0, 5).join('; ')}${more}. If you put a backup back, that is as it should be; else its log was damaged. The files as they were found are in ${aside}.`
  ]
}
