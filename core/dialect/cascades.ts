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
  const paths = new Paths()
  const remarks: Remark[] = []
  const names = new Map(catalog.tables.map((table) => [table.id, sayTable(table.name)]))
  const held = (table: CatalogTable, key: CatalogForeignKey): CatalogForeignKey => {
    if (!acts(key) || paths.take(key.table, table.id)) return key
    const parent = names.get(key.table) ?? key.table
    const said = [
      ...(key.onDelete === 'NO ACTION' ? [] : [`ON DELETE ${key.onDelete}`]),
      ...(key.onUpdate === 'NO ACTION' ? [] : [`ON UPDATE ${key.onUpdate}`])
    ].join(' and ')
    remarks.push({
      table: table.id,
      message: `${title} lets actions reach a table by one way only: ${key.name} of ${sayTable(table.name)} is written with NO ACTION instead of ${said}. Before a row of ${parent} is deleted or its key changed, see to the rows of ${sayTable(table.name)} yourself.`,
      finding: {
        rule: 'actions that meet',
        weight: 'wrong',
        column: key.columns[0],
        fix: {
          label: 'Refuse it everywhere',
          operation: refusing(table.id, key, ['delete', 'update'])
        }
      }
    })
    return { ...key, onDelete: 'NO ACTION', onUpdate: 'NO ACTION' }
  }
  const tables = catalog.tables.map((table) =>
    table.external || !table.foreignKeys.some(acts)
      ? table
      : withKeys(
          table,
          table.foreignKeys.map((key) => held(table, key))
        )
  )
  return { catalog: remarks.length === 0 ? catalog : { ...catalog, tables }, remarks }
}

const acts = ({ onDelete, onUpdate }: CatalogForeignKey): boolean =>
  onDelete !== 'NO ACTION' || onUpdate !== 'NO ACTION'

/** The same table where nothing of it changes. */
const withKeys = (table: CatalogTable, foreignKeys: CatalogForeignKey[]): CatalogTable =>
  foreignKeys.every((key, at) => key === table.foreignKeys[at]) ? table : { ...table, foreignKeys }

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
