import { nameOfTable, referencesTo } from '../../design/directory.ts'
import { listed } from '../../design/words.ts'
import type { Design, TableId } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'
import { isJunction } from '../../relate/junction.ts'
import { natureOf } from '../../relate/nature.ts'
import type { Found, Rule } from '../finding.ts'

/** A delete that takes rows of more tables than this along is told of. */
export const FAR = 8

/** Deleting one row deletes rows of many tables, which hardly anybody foresees. */
export const farCascade: Rule = {
  name: 'delete that reaches far',
  find: (table, { ask }) => {
    const tables = ask(reached, table.id)
    if (tables.length <= FAR) return []
    const names = tables.slice(0, 4).map((id) => ask(nameOfTable, id))
    const operations = ask(refusals, table.id)
    const message = `Deleting one ${table.name} deletes rows of more than ${FAR} other tables too: ${listed([...names, 'others'])}. Reach shows all of them.`
    const label = `Refuse it while what stands by itself refers to it`
    const found: Found = {
      severity: 'doubtful',
      message,
      ...(operations.length > 0 && {
        fix: { label, operation: { kind: 'batch', label: `hold deletes of ${table.name} back`, operations } }
      })
    }
    return [found]
  }
}

/** That deletes are refused while what stands by itself refers to a row. */
function refusals(design: Design, id: TableId): Operation[] {
  return referencesTo(design, id).flatMap(({ table: child, foreignKey }): Operation[] => {
    const isPart = isJunction(child) || natureOf(child, foreignKey) === 'part'
    if (foreignKey.onDelete !== 'CASCADE' || isPart) return []
    const { id: key, onUpdate } = foreignKey
    return [
      { kind: 'foreignKey.setActions', table: child.id, foreignKey: key, onDelete: 'RESTRICT', onUpdate }
    ]
  })
}

/** The tables whose rows are deleted with a row of one, until there are more than is told of. */
function reached(design: Design, start: TableId): TableId[] {
  const found = new Set<TableId>([start])
  for (const at of found)
    for (const { table, foreignKey } of referencesTo(design, at)) {
      if (foreignKey.onDelete === 'CASCADE') found.add(table.id)
      if (found.size > FAR + 1) return [...found].slice(1)
    }
  return [...found].slice(1)
}
