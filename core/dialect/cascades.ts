import { isEqual } from '../design/equal.ts'
import { whileAlike } from '../kept.ts'
import { once } from '../once.ts'
import type { Catalog, CatalogForeignKey, CatalogTable } from './catalog.ts'
import { refusing } from './limits/refusing.ts'
import type { Facts } from './facts.ts'
import type { Remark } from './remark.ts'
import { sayTable } from './qualified.ts'

/**
 * Where an engine refuses a reference whose action could reach a table by two ways, or come round in a circle,
 * such a reference is written with NO ACTION, and what then has to be done is said. References are taken in the order of the design, so that the first keep their actions.
 */
export function withoutMeetingCascades(
  catalog: Catalog,
  { title }: Pick<Facts, 'title'>
): { catalog: Catalog; remarks: Remark[] } {
  const meeting = meetingIn(catalog.tables)
  if (meeting.size === 0) return { catalog, remarks: [] }
  const names = new Map(catalog.tables.map((table) => [table.id, sayTable(table.name)]))
  const remarks: Remark[] = []
  const stopped = (table: CatalogTable, key: CatalogForeignKey): CatalogForeignKey => {
    if (!meeting.has(key.id)) return key
    remarks.push(remarkOn(table, key, names.get(key.table) ?? key.table, title))
    return { ...key, onDelete: 'NO ACTION', onUpdate: 'NO ACTION' }
  }
  const tables = catalog.tables.map((table) => {
    if (!table.foreignKeys.some(({ id }) => meeting.has(id))) return table
    return { ...table, foreignKeys: table.foreignKeys.map((key) => stopped(table, key)) }
  })
  return { catalog: { ...catalog, tables }, remarks }
}

function remarkOn(table: CatalogTable, key: CatalogForeignKey, parent: string, title: string): Remark {
  const actions = [
    ...(key.onDelete === 'NO ACTION' ? [] : [`ON DELETE ${key.onDelete}`]),
    ...(key.onUpdate === 'NO ACTION' ? [] : [`ON UPDATE ${key.onUpdate}`])
  ]
  return {
    table: table.id,
    message: `${title} lets actions reach a table by one way only: ${key.name} of ${sayTable(table.name)} is written with NO ACTION instead of ${actions.join(' and ')}. Before a row of ${parent} is deleted or its key changed, see to the rows of ${sayTable(table.name)} yourself.`,
    finding: {
      rule: 'actions that meet',
      weight: 'wrong',
      column: key.columns[0],
      fix: {
        label: 'Refuse it everywhere',
        operation: refusing(table.id, key, ['delete', 'update'])
      }
    }
  }
}

/** The ways that a table's references give to actions. */
const waysOf = once((table: CatalogTable): readonly { key: string; parent: string; acts: boolean }[] =>
  table.external ? [] : table.foreignKeys.map((key) => ({ key: key.id, parent: key.table, acts: acts(key) }))
)

/** The references whose actions would meet others, by their ids. */
const meetingIn = whileAlike<CatalogTable, ReadonlySet<string>>(
  (one, other) => one.id === other.id && isEqual(waysOf(one), waysOf(other)),
  (tables) => {
    const paths = new Paths()
    const ways = tables.flatMap((table) => waysOf(table).map((way) => ({ ...way, child: table.id })))
    const meeting = ways.filter(({ acts: does, parent, child }) => does && !paths.take(parent, child))
    return new Set(meeting.map(({ key }) => key))
  }
)

const acts = ({ onDelete, onUpdate }: CatalogForeignKey): boolean =>
  onDelete !== 'NO ACTION' || onUpdate !== 'NO ACTION'

/** The ways along which actions go from one table to others, never two to the same. */
class Paths {
  private readonly below = new Map<string, Set<string>>()
  private readonly above = new Map<string, Set<string>>()

  /** Takes a way from a table to what refers to it, unless something would then be reached by two. */
  take(parent: string, child: string): boolean {
    // Nothing that leads to the parent may lead to the child, or to what is reached from it, already.
    const starts = closure(this.above, [parent])
    const reached = closure(this.below, [child])
    const others = closure(this.above, reached)
    for (const start of starts) if (others.has(start)) return false
    this.add(this.below, parent, child)
    this.add(this.above, child, parent)
    return true
  }

  private add(ways: Map<string, Set<string>>, from: string, to: string): void {
    ways.set(from, (ways.get(from) ?? new Set()).add(to))
  }
}

/** Tables and all that is reached from them. */
function closure(ways: ReadonlyMap<string, ReadonlySet<string>>, from: Iterable<string>): Set<string> {
  const reached = new Set(from)
  for (const at of reached) for (const next of ways.get(at) ?? []) reached.add(next)
  return reached
}
