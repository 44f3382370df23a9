import { Op, QueryTypes, Sequelize, type Model } from 'sequelize'
import { checksumOfDesign } from './marks.ts'
import {
  defineModels,
  type DesignRow,
  type Models,
  type OperationRow,
  type SnapshotRow,
  type VersionRow
} from './models.ts'
import { Closing, inWords, NotKept } from './trouble.ts'

/** Where a design stands; its checksum is made when it is written. */
export type Head = Omit<DesignRow, 'checksum'>

/** One change of what is kept: it is on disk whole, or not at all. */
export type Change =
  /** Versions are made when they are put there, one after the other. */
  | { kind: 'create'; head: Head; snapshot: SnapshotRow; versions: (() => Promise<VersionRow>)[] }
  | { kind: 'append'; head: Head; operation: OperationRow; snapshot: SnapshotRow | undefined }
  | { kind: 'version'; head: Head; version: VersionRow }
  /** A version in place of one that was there. */
  | { kind: 'amend'; head: Head; version: VersionRow }
  | { kind: 'remove'; id: string }

/** All that is kept of a design, but for its versions. */
export interface Kept {
  head: DesignRow
  snapshots: SnapshotRow[]
  operations: OperationRow[]
}

/** Rows on disk, as the store asks for them (./store.ts). */
export interface Records {
  heads(): Promise<DesignRow[]>
  head(id: string): Promise<DesignRow | undefined>
  /** What was said of the last version of each design, by its id. */
  lastNotes(): Promise<ReadonlyMap<string, string>>
  /** The newest snapshots first, and the log after the oldest of them. */
  kept(id: string): Promise<Kept | undefined>
  /** At most so many operations after a revision. */
  operationsAfter(id: string, revision: number, most: number): Promise<OperationRow[]>
  /** How many characters the operations after a revision have. */
  lengthAfter(id: string, revision: number): Promise<number>
  operation(id: string, operationId: string): Promise<OperationRow | undefined>
  /** The mark that the design had at a revision, where that is still told. */
  markAt(id: string, revision: number): Promise<string | undefined>
  versions(id: string): Promise<VersionRow[]>
  version(id: string, number: number): Promise<VersionRow | undefined>
  /** On disk when it answers (write-ahead log, synchronous = FULL). @throws NotKept where it is not. */
  write(change: Change): Promise<void>
  close(): Promise<void>
}

/** So many snapshots are kept of a design. */
const SNAPSHOTS = 2

interface Waiting {
  change: Change
  done(): void
  failed(error: Error): void
}

/**
 * Records in SQLite, through two connections: one that reads and one that writes. Changes that come
 * while one is being written wait for it, and go to disk together with one sync: the more designs are
 * written at once, the more share it.
 */
export class SqliteRecords implements Records {
  private waiting: Waiting[] = []
  private writing: Promise<void> | undefined
  private closed = false

  /**
   * @param writer what writes, or why nothing is written
   * @param written told after each commit what has been written
   */
  constructor(
    private readonly reader: Connection,
    private readonly writer: Connection | NotKept,
    private readonly written: (changes: readonly Change[]) => void
  ) {}

  async heads(): Promise<DesignRow[]> {
    try {
      // As plain rows: there may be thousands.
      return await this.read(() =>
        this.reader.sequelize.query<DesignRow>('SELECT * FROM design ORDER BY changedAt DESC', {
          type: QueryTypes.SELECT
        })
      )
    } catch (error) {
      const found = await this.headsElsewhere()
      if (found.length === 0) throw error
      return found
    }
  }

  /**
   * The designs that there are by what else is kept of them, where the list of them cannot be read. No checksum fits
   * these, so each is told to be damaged.
   */
  private async headsElsewhere(): Promise<DesignRow[]> {
    const found = new Map<string, DesignRow>()
    for (const table of ['snapshot', 'version', 'operation']) {
      const rows = await this.reader.sequelize
        .query<{ id: string }>(`SELECT DISTINCT designId AS id FROM ${table}`, { type: QueryTypes.SELECT })
        .catch(() => [])
      for (const { id } of rows) found.set(id, found.get(id) ?? lostHead(id, await this.nameElsewhere(id)))
    }
    return [...found.values()]
  }

  private async nameElsewhere(id: string): Promise<string> {
    const sql =
      "SELECT json_extract(design, '$.name') AS name FROM snapshot WHERE designId = :id AND json_valid(design) ORDER BY revision DESC LIMIT 1"
    const [row] = await this.reader.sequelize
      .query<{ name: string }>(sql, { type: QueryTypes.SELECT, replacements: { id } })
      .catch(() => [])
    return row?.name ?? id
  }

  lastNotes(): Promise<ReadonlyMap<string, string>> {
    const sql =
      'SELECT version.designId AS id, version.note AS note FROM version JOIN design ON design.id = version.designId AND design.versions = version.number'
    return this.read(async () => {
      const rows = await this.reader.sequelize.query<{ id: string; note: string }>(sql, {
        type: QueryTypes.SELECT
      })
      return new Map(rows.map(({ id, note }) => [id, note]))
    })
  }

  head(id: string): Promise<DesignRow | undefined> {
    return this.read(async ({ designs }) => (await designs.findByPk(id))?.get())
  }

  async kept(id: string): Promise<Kept | undefined> {
    const head = await this.head(id).catch(async (error: unknown) => {
      const lost = (await this.headsElsewhere()).find((each) => each.id === id)
      if (!lost) throw error
      return lost
    })
    if (!head) return undefined
    const found = await this.read(async ({ snapshots }) =>
      plain(await snapshots.findAll({ where: { designId: id }, order: [['revision', 'DESC']] }))
    )
    const oldest = found.at(-1)?.revision ?? 0
    return {
      head,
      snapshots: found,
      operations: await this.operationsAfter(id, oldest, Number.MAX_SAFE_INTEGER)
    }
  }

  operationsAfter(id: string, revision: number, most: number): Promise<OperationRow[]> {
    const where = { designId: id, revision: { [Op.gt]: revision } }
    return this.read(async ({ operations }) =>
      plain(await operations.findAll({ where, order: [['revision', 'ASC']], limit: most }))
    )
  }

  lengthAfter(id: string, revision: number): Promise<number> {
    const sql =
      'SELECT coalesce(sum(length(operation)), 0) AS total FROM operation WHERE designId = :id AND revision > :revision'
    return this.read(async () => {
      const [row] = await this.reader.sequelize.query<{ total: number }>(sql, {
        type: QueryTypes.SELECT,
        replacements: { id, revision }
      })
      return row?.total ?? 0
    })
  }

  operation(id: string, operationId: string): Promise<OperationRow | undefined> {
    return this.read(async ({ operations }) =>
      (await operations.findOne({ where: { designId: id, operationId } }))?.get()
    )
  }

  markAt(id: string, revision: number): Promise<string | undefined> {
    const where = { designId: id, revision }
    return this.read(
      async ({ operations, snapshots }) =>
        (await operations.findOne({ where }))?.get().mark ?? (await snapshots.findOne({ where }))?.get().mark
    )
  }

  versions(id: string): Promise<VersionRow[]> {
    return this.read(async ({ versions }) =>
      plain(await versions.findAll({ where: { designId: id }, order: [['number', 'ASC']] }))
    )
  }

  version(id: string, number: number): Promise<VersionRow | undefined> {
    return this.read(async ({ versions }) =>
      (await versions.findOne({ where: { designId: id, number } }))?.get()
    )
  }

  private async read<T>(work: (models: Models) => Promise<T>): Promise<T> {
    try {
      return await work(this.reader.models)
    } catch (error) {
      throw inWords(error)
    }
  }

  write(change: Change): Promise<void> {
    const { writer } = this
    if (writer instanceof NotKept) return Promise.reject(writer)
    if (this.closed) return Promise.reject(new Closing())
    return new Promise((resolve, reject) => {
      this.waiting.push({ change, done: resolve, failed: reject })
      this.writing ??= this.writeAll(writer).finally(() => {
        this.writing = undefined
      })
    })
  }

  private async writeAll(writer: Connection): Promise<void> {
    for (let some = this.waiting; some.length > 0; some = this.waiting) {
      this.waiting = []
      const failure = await this.commit(writer, some)
      // What one of them broke, the others do not pay for: each is tried by itself.
      if (failure && some.length > 1)
        for (const each of some) this.settle([each], await this.commit(writer, [each]))
      else this.settle(some, failure)
    }
  }

  private settle(some: readonly Waiting[], failure: Error | undefined): void {
    for (const { done, failed } of some) {
      if (failure) failed(failure)
      else done()
    }
  }

  /** All of the changes as one transaction. Gives why it could not be. */
  private async commit(
    { sequelize, models }: Connection,
    some: readonly Waiting[]
  ): Promise<Error | undefined> {
    const changes = some.map(({ change }) => change)
    try {
      await sequelize.query('BEGIN IMMEDIATE')
      for (const change of changes) await put(models, change)
      await sequelize.query('COMMIT')
    } catch (error) {
      await sequelize.query('ROLLBACK').catch(() => undefined)
      return inWords(error)
    }
    this.written(changes)
    return undefined
  }

  /** Waits for what is being written, and lets go of the database. */
  async close(): Promise<void> {
    this.closed = true
    await this.writing
    await this.reader.sequelize.close()
    if (!(this.writer instanceof NotKept)) await this.writer.sequelize.close()
  }
}

const lostHead = (id: string, name: string): DesignRow => ({
  id,
  name,
  revision: 0,
  mark: '',
  versions: 0,
  createdAt: '',
  changedAt: '',
  tables: -1,
  checksum: ''
})

const plain = <T extends object>(rows: readonly Model<T, T>[]): T[] => rows.map((row) => row.get())

async function put({ designs, snapshots, operations, versions }: Models, change: Change): Promise<void> {
  if (change.kind === 'remove') {
    const where = { designId: change.id }
    await operations.destroy({ where })
    await versions.destroy({ where })
    await snapshots.destroy({ where })
    await designs.destroy({ where: { id: change.id } })
    return
  }
  const { head } = change
  const row = { ...head, checksum: checksumOfDesign(head) }
  if (change.kind === 'create') await designs.create(row)
  else await designs.update(row, { where: { id: head.id } })
  if (change.kind === 'append') await operations.create(change.operation)
  if (change.kind === 'amend')
    await versions.destroy({ where: { designId: head.id, number: change.version.number } })
  if (change.kind === 'version' || change.kind === 'amend') await versions.create(change.version)
  for (const make of change.kind === 'create' ? change.versions : []) await versions.create(await make())
  const snapshot = 'snapshot' in change ? change.snapshot : undefined
  if (!snapshot) return
  await snapshots.create(snapshot)
  const kept = plain(
    await snapshots.findAll({
      where: { designId: head.id },
      order: [['revision', 'DESC']],
      attributes: ['revision']
    })
  )
  const old = kept.slice(SNAPSHOTS).map(({ revision }) => revision)
  if (old.length > 0) await snapshots.destroy({ where: { designId: head.id, revision: old } })
}

/** A connection to the database with what is in it. */
export interface Connection {
  sequelize: Sequelize
  models: Models
}

/** Connects to a database file. One that writes takes care that what it has written is on disk. */
export async function connect(storage: string, to: 'read' | 'write'): Promise<Connection> {
  const sequelize = new Sequelize({ dialect: 'sqlite', storage, logging: false })
  const pragmas =
    to === 'write'
      ? ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 5000']
      : ['query_only = ON', 'busy_timeout = 5000']
  for (const pragma of pragmas) await sequelize.query(`PRAGMA ${pragma}`)
  return { sequelize, models: defineModels(sequelize) }
}

/** What is amiss in the database file as such (SQLite, “PRAGMA quick_check”); nothing where it is whole. */
export async function flawOfFile({ sequelize }: Connection): Promise<string | undefined> {
  const rows = await sequelize.query<{ quick_check: string }>('PRAGMA quick_check(1)', {
    type: QueryTypes.SELECT
  })
  const said = rows[0]?.quick_check
  return said === 'ok' ? undefined : (said ?? 'it says nothing of itself')
}
