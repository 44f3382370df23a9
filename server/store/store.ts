import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { Op, Sequelize } from 'sequelize'
import { designSchema, emptyDesign, newId, type Design, type Version } from '../../core/design/model.ts'
import type { DesignFile } from '../../core/design/file.ts'
import { apply } from '../../core/edit/apply.ts'
import { operationSchema, type Operation } from '../../core/edit/operation.ts'
import type { Refusal } from '../../core/edit/refusal.ts'
import { lockFolder } from './lock.ts'
import { defineModels, type Models } from './models.ts'
import { upgrade } from './upgrades.ts'

/** An operation that has been taken into the log. */
export interface Logged { revision: number; operationId: string; client: string; operation: Operation }
export interface Submission { revision: number; operationId: string; client: string; operation: Operation }
/** `between`: what others did since the revision that the submission saw, in order. */
export type Answer = { ok: true; logged: Logged; between: Logged[]; repeated: boolean } | { ok: false; refusal: Refusal; revision: number; between: Logged[] }
export interface Draft { design: Design; revision: number }
export interface Summary { id: string; name: string; revision: number; changedAt: string; tables: number; versions: number; lastNote: string | undefined }

/** The log is folded into a snapshot after so many operations, so that opening a design stays quick. */
const SNAPSHOT_EVERY = 100

/**
 * Designs on disk: a log of operations with snapshots, and the saved versions, in SQLite through
 * Sequelize. An operation is on disk before `submit` answers (write-ahead log, synchronous = FULL).
 */
export class Store {
  private readonly drafts = new Map<string, Draft>()
  private readonly turns = new Map<string, Promise<unknown>>()

  private constructor(private readonly sequelize: Sequelize, private readonly models: Models, private readonly unlock: () => Promise<void>) {}

  /** Opens the store in a folder, making or upgrading it where needed. */
  static async open(folder: string): Promise<Store> {
    mkdirSync(folder, { recursive: true })
    // One program at a time: what it has in memory is what there is.
    const unlock = await lockFolder(join(folder, 'lock'))
    try {
      return new Store(...await Store.connect(folder), unlock)
    } catch (error) {
      await unlock()
      throw error
    }
  }

  private static async connect(folder: string): Promise<[Sequelize, Models]> {
    const sequelize = new Sequelize({ dialect: 'sqlite', storage: join(folder, 'patient-key.sqlite'), logging: false })
    for (const pragma of ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 5000']) await sequelize.query(`PRAGMA ${pragma}`)
    const models = defineModels(sequelize)
    await upgrade(sequelize)
    return [sequelize, models]
  }

  async close(): Promise<void> {
    await this.sequelize.close()
    await this.unlock()
  }

  async list(): Promise<Summary[]> {
    const rows = await this.models.designs.findAll({ order: [['changedAt', 'DESC']] })
    return Promise.all(rows.map(async (row) => {
      const { id, changedAt } = row.get()
      const { design, revision } = await this.need(id)
      const last = await this.models.versions.findOne({ where: { designId: id }, order: [['number', 'DESC']], attributes: ['number', 'note'] })
      return { id, name: design.name, revision, changedAt, tables: design.tables.length, versions: last?.get().number ?? 0, lastNote: last?.get().note }
    }))
  }

  /** Makes a design, empty or with all that a file holds. A file whose design is here already comes in as another. */
  async create(content: { name: string } | { file: DesignFile }): Promise<Draft> {
    let design = 'file' in content ? content.file.design : emptyDesign(content.name)
    if (await this.models.designs.findByPk(design.id)) design = { ...design, id: newId('d') }
    const now = new Date().toISOString()
    await this.sequelize.transaction(async (transaction) => {
      await this.models.designs.create({ id: design.id, name: design.name, revision: 0, snapshot: JSON.stringify(design), createdAt: now, changedAt: now }, { transaction })
      const versions = 'file' in content ? content.file.versions : []
      await this.models.versions.bulkCreate(versions.map((version) => ({ designId: design.id, number: version.number, note: version.note, savedAt: version.savedAt, design: JSON.stringify(version.design) })), { transaction })
    })
    const draft = { design, revision: 0 }
    this.drafts.set(design.id, draft)
    return draft
  }

  /** The draft with everything acknowledged so far, or nothing where there is no such design. */
  async draft(id: string): Promise<Draft | undefined> {
    const known = this.drafts.get(id)
    if (known) return known
    const row = (await this.models.designs.findByPk(id))?.get()
    if (!row) return undefined
    let draft: Draft = { design: designSchema.parse(JSON.parse(row.snapshot)), revision: row.revision }
    for (const logged of await this.operationsAfter(id, row.revision)) {
      const result = apply(draft.design, logged.operation)
      if (!result.ok) throw new Error(`the log of ${id} does not fit its snapshot at revision ${logged.revision}: ${result.refusal.message}`)
      draft = { design: result.design, revision: logged.revision }
    }
    this.drafts.set(id, draft)
    return draft
  }

  private async need(id: string): Promise<Draft> {
    const draft = await this.draft(id)
    if (!draft) throw new Error(`no design ${id}`)
    return draft
  }

  /**
   * Takes an operation into the log, if it can still be carried out on what there is now. One that was
   * sent before (its answer was lost) is answered as the first time. Nothing where there is no such design.
   */
  submit(id: string, submission: Submission): Promise<Answer | undefined> {
    return this.inTurn(id, async () => {
      const draft = await this.draft(id)
      if (!draft) return undefined
      const between = await this.operationsAfter(id, submission.revision)
      const before = await this.models.operations.findOne({ where: { designId: id, operationId: submission.operationId } })
      if (before) {
        const logged = { ...submission, revision: before.get().revision }
        return { ok: true, logged, between: between.filter((each) => each.operationId !== submission.operationId), repeated: true }
      }
      const result = apply(draft.design, submission.operation)
      if (!result.ok) return { ok: false, refusal: result.refusal, revision: draft.revision, between }
      const revision = draft.revision + 1
      const { operationId, client, operation } = submission
      const at = new Date().toISOString()
      const snapshot = revision % SNAPSHOT_EVERY === 0 ? { revision, snapshot: JSON.stringify(result.design) } : {}
      await this.sequelize.transaction(async (transaction) => {
        await this.models.operations.create({ designId: id, revision, operationId, client, operation: JSON.stringify(operation), at }, { transaction })
        await this.models.designs.update({ name: result.design.name, changedAt: at, ...snapshot }, { where: { id }, transaction })
      })
      this.drafts.set(id, { design: result.design, revision })
      return { ok: true, logged: { revision, operationId, client, operation }, between, repeated: false }
    })
  }

  async operationsAfter(id: string, revision: number): Promise<Logged[]> {
    const rows = await this.models.operations.findAll({ where: { designId: id, revision: { [Op.gt]: revision } }, order: [['revision', 'ASC']] })
    return rows.map((row) => {
      const { revision: at, operationId, client, operation } = row.get()
      return { revision: at, operationId, client, operation: operationSchema.parse(JSON.parse(operation)) }
    })
  }

  async versions(id: string): Promise<Omit<Version, 'design'>[]> {
    const rows = await this.models.versions.findAll({ where: { designId: id }, order: [['number', 'ASC']], attributes: ['number', 'note', 'savedAt'] })
    return rows.map((row) => row.get())
  }

  async version(id: string, number: number): Promise<Version | undefined> {
    const row = (await this.models.versions.findOne({ where: { designId: id, number } }))?.get()
    return row && { number: row.number, note: row.note, savedAt: row.savedAt, design: designSchema.parse(JSON.parse(row.design)) }
  }

  /** Saves the draft as the next version; `stale` where it has changed since the revision that was seen. */
  saveVersion(id: string, note: string, revision: number): Promise<Version | 'stale' | undefined> {
    return this.inTurn(id, async () => {
      const draft = await this.draft(id)
      if (!draft) return undefined
      if (draft.revision !== revision) return 'stale'
      const number = (await this.models.versions.count({ where: { designId: id } })) + 1
      const version: Version = { number, note, savedAt: new Date().toISOString(), design: draft.design }
      await this.models.versions.create({ designId: id, number, note, savedAt: version.savedAt, design: JSON.stringify(draft.design) })
      return version
    })
  }

  /** Removes a design with its log and its versions. False where there is none. */
  remove(id: string): Promise<boolean> {
    return this.inTurn(id, async () => {
      this.drafts.delete(id)
      return this.sequelize.transaction(async (transaction) => {
        await this.models.operations.destroy({ where: { designId: id }, transaction })
        await this.models.versions.destroy({ where: { designId: id }, transaction })
        return (await this.models.designs.destroy({ where: { id }, transaction })) > 0
      })
    })
  }

  async file(id: string): Promise<DesignFile | undefined> {
    const draft = await this.draft(id)
    if (!draft) return undefined
    const rows = await this.models.versions.findAll({ where: { designId: id }, order: [['number', 'ASC']] })
    const versions = rows.map((row) => {
      const { number, note, savedAt, design } = row.get()
      return { number, note, savedAt, design: designSchema.parse(JSON.parse(design)) }
    })
    return { format: 1, design: draft.design, versions }
  }

  /** What changes a design is done one after the other. */
  private inTurn<T>(id: string, work: () => Promise<T>): Promise<T> {
    const turn = (this.turns.get(id) ?? Promise.resolve()).then(work, work)
    this.turns.set(id, turn.catch(() => undefined))
    return turn
  }
}
