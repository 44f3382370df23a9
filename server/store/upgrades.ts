import { QueryTypes, type Sequelize } from 'sequelize'

/**
 * What brings a store from each format to the next; the store's own, not a design's. A store carries its
 * format in `user_version`. New upgrades go at the end; those that are there never change.
 */
const UPGRADES: ((sequelize: Sequelize) => Promise<unknown>)[] = [
  (sequelize) => sequelize.sync()
]

/** Brings the store up to date. Refuses one that a newer program has upgraded. */
export async function upgrade(sequelize: Sequelize): Promise<void> {
  const [row] = await sequelize.query<{ user_version: number }>('PRAGMA user_version', { type: QueryTypes.SELECT })
  const format = row?.user_version ?? 0
  if (format > UPGRADES.length) throw new Error(`The data here were written by a newer Patient Key (format ${format}; this one knows ${UPGRADES.length}). Use that one, or another --data folder.`)
  for (const [at, step] of UPGRADES.entries()) {
    if (at < format) continue
    await step(sequelize)
    await sequelize.query(`PRAGMA user_version = ${at + 1}`)
  }
}
