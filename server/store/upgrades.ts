import { QueryTypes, type Sequelize } from 'sequelize'
import { finish } from '../../core/design/paused.ts'
import { checksumOfDesign, checksumOfSnapshot, checksumOfVersion, firstMark, nextMark } from './marks.ts'
import type { DesignRow, Models, OperationRow, VersionRow } from './models.ts'

/**
 * What brings a store from each format to the next; the store's own, not a design's. A store carries its
 * format in `user_version`. New upgrades go at the end; those that are there never change.
 */
type Upgrade = (sequelize: Sequelize, models: Models) => Promise<void>

const UPGRADES: Upgrade[] = [makeFirst, addMarks, countTables]
export const FORMAT = UPGRADES.length

/** The format of a store; 0 where nothing is in it yet. */
export async function formatOf(sequelize: Sequelize): Promise<number> {
  const [row] = await sequelize.query<{ user_version: number }>('PRAGMA user_version', {
    type: QueryTypes.SELECT
  })
  return row?.user_version ?? 0
}

/** Why a store of the format cannot be used by this program, or nothing where it can. */
export function refusalOf(format: number): string | undefined {
  return format > FORMAT
    ? `The data here were written by a newer Patient Key (format ${format}; this one knows ${FORMAT}). Use that one, or another --data folder.`
    : undefined
}

/** Brings the store up to date, each step whole or not at all. */
export async function upgrade(sequelize: Sequelize, models: Models): Promise<void> {
  const format = await formatOf(sequelize)
  for (const [at, step] of UPGRADES.entries()) {
    if (at < format) continue
    await sequelize.query('BEGIN IMMEDIATE')
    try {
      await step(sequelize, models)
      await sequelize.query(`PRAGMA user_version = ${at + 1}`)
      await sequelize.query('COMMIT')
    } catch (error) {
      await sequelize.query('ROLLBACK').catch(() => undefined)
      throw error
    }
  }
}

async function makeFirst(sequelize: Sequelize): Promise<void> {
  await sequelize.query(
    'CREATE TABLE `design` (`id` VARCHAR(255) PRIMARY KEY, `name` VARCHAR(255) NOT NULL, `revision` INTEGER NOT NULL, `snapshot` TEXT NOT NULL, `createdAt` VARCHAR(255) NOT NULL, `changedAt` VARCHAR(255) NOT NULL)'
  )
  await sequelize.query(
    'CREATE TABLE `operation` (`designId` VARCHAR(255) NOT NULL REFERENCES `design` (`id`) ON DELETE CASCADE, `revision` INTEGER NOT NULL, `operationId` VARCHAR(255) NOT NULL UNIQUE, `client` VARCHAR(255) NOT NULL, `operation` TEXT NOT NULL, `at` VARCHAR(255) NOT NULL, PRIMARY KEY (`designId`, `revision`))'
  )
  await sequelize.query(
    'CREATE TABLE `version` (`designId` VARCHAR(255) NOT NULL REFERENCES `design` (`id`) ON DELETE CASCADE, `number` INTEGER NOT NULL, `note` TEXT NOT NULL, `savedAt` VARCHAR(255) NOT NULL, `design` TEXT NOT NULL, PRIMARY KEY (`designId`, `number`))'
  )
}

/** Format 1, as far as the second upgrade reads it. */
interface FirstDesign {
  id: string
  name: string
  revision: number
  snapshot: string
  createdAt: string
  changedAt: string
}
type FirstOperation = Omit<OperationRow, 'mark'>

/** How many tables each design has, so that a shelf need not read them. */
async function countTables(sequelize: Sequelize): Promise<void> {
  const newest =
    'SELECT design FROM snapshot WHERE designId = `design`.id AND json_valid(design) ORDER BY revision DESC LIMIT 1'
  await sequelize.query('ALTER TABLE `design` ADD COLUMN `tables` INTEGER NOT NULL DEFAULT -1')
  await sequelize.query(
    `UPDATE \`design\` SET tables = coalesce((SELECT json_array_length(newest.design, '$.tables') FROM (${newest}) newest), -1)`
  )
}

/** Checksums for all that is kept, snapshots by themselves, and operation ids that belong to their design. */
async function addMarks(
  sequelize: Sequelize,
  { designs, snapshots, operations, versions }: Models
): Promise<void> {
  const read = <T extends object>(sql: string): Promise<T[]> =>
    sequelize.query<T>(sql, { type: QueryTypes.SELECT })
  const [oldDesigns, oldOperations, oldVersions] = [
    await read<FirstDesign>('SELECT * FROM `design`'),
    await read<FirstOperation>('SELECT * FROM `operation` ORDER BY `designId`, `revision`'),
    await read<Omit<VersionRow, 'checksum'>>('SELECT * FROM `version`')
  ]
  for (const table of ['operation', 'version', 'design']) await sequelize.query(`DROP TABLE \`${table}\``)
  await sequelize.query(
    'CREATE TABLE `design` (`id` TEXT PRIMARY KEY NOT NULL, `name` TEXT NOT NULL, `revision` INTEGER NOT NULL, `mark` TEXT NOT NULL, `versions` INTEGER NOT NULL, `createdAt` TEXT NOT NULL, `changedAt` TEXT NOT NULL, `checksum` TEXT NOT NULL)'
  )
  const belongs = '`designId` TEXT NOT NULL REFERENCES `design` (`id`) ON DELETE CASCADE'
  await sequelize.query(
    `CREATE TABLE \`snapshot\` (${belongs}, \`revision\` INTEGER NOT NULL, \`mark\` TEXT NOT NULL, \`design\` TEXT NOT NULL, \`checksum\` TEXT NOT NULL, PRIMARY KEY (\`designId\`, \`revision\`))`
  )
  await sequelize.query(
    `CREATE TABLE \`operation\` (${belongs}, \`revision\` INTEGER NOT NULL, \`operationId\` TEXT NOT NULL, \`client\` TEXT NOT NULL, \`operation\` TEXT NOT NULL, \`at\` TEXT NOT NULL, \`mark\` TEXT NOT NULL, PRIMARY KEY (\`designId\`, \`revision\`), UNIQUE (\`designId\`, \`operationId\`))`
  )
  await sequelize.query(
    `CREATE TABLE \`version\` (${belongs}, \`number\` INTEGER NOT NULL, \`note\` TEXT NOT NULL, \`savedAt\` TEXT NOT NULL, \`design\` TEXT NOT NULL, \`checksum\` TEXT NOT NULL, PRIMARY KEY (\`designId\`, \`number\`))`
  )
  for (const old of oldDesigns) {
    let mark = firstMark()
    const marks = new Map([[0, mark]])
    const marked: OperationRow[] = []
    for (const row of oldOperations.filter((each) => each.designId === old.id)) {
      mark = nextMark(mark, row)
      marks.set(row.revision, mark)
      marked.push({ ...row, mark })
    }
    const own = oldVersions.filter((each) => each.designId === old.id)
    const { id, name, createdAt, changedAt } = old
    const revision = Math.max(old.revision, ...marked.map((row) => row.revision))
    const head = { id, name, revision, mark, versions: own.length, createdAt, changedAt }
    const snapshot = {
      designId: id,
      revision: old.revision,
      mark: marks.get(old.revision) ?? mark,
      design: old.snapshot
    }
    await designs.create({ ...head, checksum: checksumOfDesign(head) } as DesignRow, {
      fields: ['id', 'name', 'revision', 'mark', 'versions', 'createdAt', 'changedAt', 'checksum']
    })
    await snapshots.create({ ...snapshot, checksum: finish(checksumOfSnapshot(snapshot)) })
    await operations.bulkCreate(marked)
    await versions.bulkCreate(own.map((row) => ({ ...row, checksum: finish(checksumOfVersion(row)) })))
  }
}
