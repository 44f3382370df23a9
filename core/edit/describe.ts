import { columnOf, columnsIn, tableOf } from '../design/lookup.ts'
import type { Design } from '../design/model.ts'
import { shorten, typeText } from '../design/type.ts'
import { defaultText } from '../design/value.ts'
import type { Operation } from './operation.ts'

/** What an operation does, said of the design before it, for undo and the log: “rename patient to animal”. */
export function describe(design: Design, operation: Operation): string {
  const table = (id: string): string => shorten(tableOf(design, id)?.name ?? 'a table')
  const place = (id: string, column: string): string => {
    const found = tableOf(design, id)
    return `${table(id)}.${shorten((found && columnOf(found, column)?.name) ?? 'column')}`
  }
  switch (operation.kind) {
    case 'batch': return operation.label ?? (operation.operations[0] ? describe(design, operation.operations[0]) : 'nothing')
    case 'design.rename': return `rename the design to ${shorten(operation.name)}`
    case 'table.add': return `make ${shorten(operation.table.name)}`
    case 'table.rename': return `rename ${table(operation.table)} to ${shorten(operation.name)}`
    case 'table.annotate': return `change the note of ${table(operation.table)}`
    case 'table.remove': return `remove ${table(operation.table)}`
    case 'table.setRows': return `change the rows of ${table(operation.table)}`
    case 'table.place': return operation.position ? `move ${table(operation.table)} in the diagram` : `let the diagram place ${table(operation.table)}`
    case 'column.add': return `add ${table(operation.table)}.${shorten(operation.column.name)}`
    case 'column.rename': return `rename ${place(operation.table, operation.column)} to ${shorten(operation.name)}`
    case 'column.annotate': return `change the note of ${place(operation.table, operation.column)}`
    case 'column.retype': return `make ${place(operation.table, operation.column)} ${typeText(operation.type)}`
    case 'column.require': return `${operation.required ? 'require' : 'let be empty'} ${place(operation.table, operation.column)}`
    case 'column.setDefault': {
      const found = tableOf(design, operation.table)
      const column = found && columnOf(found, operation.column)
      return operation.default && column
        ? `set the default of ${place(operation.table, operation.column)} to ${shorten(defaultText(operation.default, column.type))}`
        : `remove the default of ${place(operation.table, operation.column)}`
    }
    case 'column.move': return `move ${place(operation.table, operation.column)}`
    case 'column.remove': return `remove ${place(operation.table, operation.column)}`
    case 'key.setPrimary': {
      const found = tableOf(design, operation.table)
      const names = found && operation.key ? columnsIn(found, operation.key.columns).map((column) => shorten(column.name)).join(', ') : ''
      return operation.key ? `make ${names} the key of ${table(operation.table)}` : `remove the key of ${table(operation.table)}`
    }
    case 'unique.add': return `add a unique key to ${table(operation.table)}`
    case 'unique.remove': return `remove a unique key of ${table(operation.table)}`
    case 'foreignKey.add': return `refer ${table(operation.table)} to ${table(operation.foreignKey.table)}`
    case 'foreignKey.remove': return `remove a relationship of ${table(operation.table)}`
    case 'foreignKey.setActions': return `change what happens in ${table(operation.table)} on delete or key change`
    case 'foreignKey.setVerbs': return `change how a relationship of ${table(operation.table)} reads`
    case 'carry.add': return 'carry rows'
    case 'carry.remove': return 'carry no rows'
    case 'relationship.add': return `relate ${table(operation.parent)} and ${table(operation.child)}`
    case 'relationship.addJunction': return `make the junction ${shorten(operation.junction.table.name)}`
    case 'relationship.resolveToJunction': return `resolve to the junction ${shorten(operation.junction.table.name)}`
  }
}
