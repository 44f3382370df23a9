import { byId } from '../design/by-id.ts'
import { fold } from '../design/directory.ts'
import type { Catalog } from './catalog.ts'
import { nameLength } from '../naming/fit.ts'
import type { Keepsake } from './migration.ts'

/** What the columns of keepsakes are called: as in the table that they are of, the same on both ways. */

/** What keepsakes have of their own beside what they keep. */
const OWN = /^(returns|same_no|row_id_\d+|place_in_order|.*_became)$/

/** How many bytes a name may have that something is put behind. */
const LONGEST = 40

/**
 * What each column of a keepsake is called, by its id.
 * @param catalogs the state in which it was kept, and the one on the other side of the change
 */
export function keptNames(keepsake: Keepsake, catalogs: readonly Catalog[]): ReadonlyMap<string, string> {
  const tables = catalogs.flatMap(({ tables: all }) => byId(all).get(keepsake.table) ?? [])
  const ids =
    keepsake.by === 'table'
      ? [...(tables[0]?.columns ?? []), ...(keepsake.told?.columns ?? [])].map(({ id }) => id)
      : [...keepsake.key, ...keepsake.columns.map(({ id }) => id)]
  const names = new Map<string, string>()
  const taken = new Set<string>()
  for (const id of ids) {
    const own = tables.flatMap(({ columns }) => byId(columns).get(id)?.name ?? [])[0] ?? id
    const isFree = !OWN.test(fold(own)) && !taken.has(fold(own))
    const name = isFree && nameLength(own, 'bytes') <= LONGEST ? own : id
    names.set(id, name)
    taken.add(fold(name))
  }
  return names
}
