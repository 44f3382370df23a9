import { columnOf, columnsIn, tableOf } from '../design/directory.ts'
import type { Design } from '../design/model.ts'
import { shorten, typeText } from '../design/type.ts'
import { defaultText } from '../design/default.ts'
import type { Operation } from './operation.ts'

/** What an operation does, said of the design before it, for undo and the log: “rename patient to animal”. */
export function describe(design: Design, operation: Operation): string {
  const table = (id: string): string => shorten(tableOf(design, id)?.name ?? 'a table')
  const place = (id: string, column: string): string => {
    const found = tableOf(design, id)
    return `${table(id)}.${shorten((found && columnOf(found, column)?.name) ?? 'column')}`
  }
  switch (operation.kind) {
    case 'batch':
      return (
        operation.label ?? (operation.operations[0] ? describe(design, operation.operations[0]) : 'nothing')
      )
    case 'design.rename':
      return `rename the design to ${shorten(operation.name)}`
    case 'design.setPolicy':
      return 'change the naming policy'
    case 'design.setStanding':
      return 'change what new tables begin with'
    case 'design.setUsual':
      return 'change what deletes usually do'
    case 'design.setDialects':
      return 'change what the design is written for'
    case 'design.setOldest':
      return `change which version of ${operation.dialect} the design is to run on`
    case 'design.setOutput':
      return operation.to === null
        ? `leave ${operation.output} out of what the application is given`
        : `give the application ${operation.output} as ${shorten(operation.to)}`
    case 'design.setOutputSetting':
      return `write ${operation.output} with ${operation.setting} ${shorten(operation.to ?? 'as usual')}`
    case 'template.set':
      return `${operation.text === null ? 'remove' : 'write'} the template ${operation.name}`
    case 'code.setName':
      return operation.name === null
        ? 'call something in code as in the database'
        : `call something ${shorten(operation.name)} in code`
    case 'finding.setAside':
      return operation.reason === null
        ? `take up a finding on ${table(operation.table)} again`
        : `set a finding on ${table(operation.table)} aside`
    case 'schema.add':
      return `make the schema ${shorten(operation.schema.name)}`
    case 'schema.rename':
      return `rename a schema to ${shorten(operation.name)}`
    case 'schema.remove':
      return 'remove a schema'
    case 'enum.add':
      return `make the list of values ${shorten(operation.enum.name)}`
    case 'enum.change':
      return `change the list of values ${shorten(operation.enum.name)}`
    case 'enum.remove':
      return 'remove a list of values'
    case 'table.setSchema':
      return `move ${table(operation.table)} to another schema`
    case 'table.setLabel':
      return `say what a row of ${table(operation.table)} is called by`
    case 'table.setRowSecurity':
      return `say whether rows of ${table(operation.table)} are held to row policies`
    case 'table.setExternal':
      return operation.external
        ? `make ${table(operation.table)} external`
        : `make ${table(operation.table)} the design's own`
    case 'table.move':
      return `move ${table(operation.table)} in the ledger`
    case 'table.add':
      return `make ${shorten(operation.table.name)}`
    case 'table.rename':
      return `rename ${table(operation.table)} to ${shorten(operation.name)}`
    case 'table.annotate':
      return `change the note of ${table(operation.table)}`
    case 'table.remove':
      return `remove ${table(operation.table)}`
    case 'rows.change': {
      const { changed, gone, come } = operation
      const did = [
        come.length > 0 && `put ${come.length} in`,
        changed.length > 0 && `change ${changed.length}`,
        gone.length > 0 && `take ${gone.length} out`
      ].filter(Boolean)
      return `${did.join(', ') || 'leave'} of the rows of ${table(operation.table)}`
    }
    case 'table.setRows':
      return `change the rows of ${table(operation.table)}`
    case 'table.place':
      return operation.position
        ? `move ${table(operation.table)} in the diagram`
        : `let the diagram place ${table(operation.table)}`
    case 'column.add':
      return `add ${table(operation.table)}.${shorten(operation.column.name)}`
    case 'column.rename':
      return `rename ${place(operation.table, operation.column)} to ${shorten(operation.name)}`
    case 'column.annotate':
      return `change the note of ${place(operation.table, operation.column)}`
    case 'column.retype':
      return `make ${place(operation.table, operation.column)} ${typeText(operation.type, design.enums)}`
    case 'column.require':
      return `${operation.required ? 'require' : 'let be empty'} ${place(operation.table, operation.column)}`
    case 'column.setDefault': {
      const found = tableOf(design, operation.table)
      const column = found && columnOf(found, operation.column)
      return operation.default && column
        ? `set the default of ${place(operation.table, operation.column)} to ${shorten(defaultText(operation.default, column.type))}`
        : `remove the default of ${place(operation.table, operation.column)}`
    }
    case 'column.compute':
      return operation.expression === null
        ? `no longer compute ${place(operation.table, operation.column)}`
        : `compute ${place(operation.table, operation.column)}`
    case 'column.copy':
      return operation.copied
        ? `copy ${place(operation.table, operation.column)}`
        : `no longer copy ${place(operation.table, operation.column)}`
    case 'column.renew':
      return operation.renewed
        ? `renew ${place(operation.table, operation.column)} with each change`
        : `no longer renew ${place(operation.table, operation.column)}`
    case 'column.move':
      return `move ${place(operation.table, operation.column)}`
    case 'column.remove':
      return `remove ${place(operation.table, operation.column)}`
    case 'key.setPrimary': {
      const found = tableOf(design, operation.table)
      const names =
        found && operation.key
          ? columnsIn(found, operation.key.columns)
              .map((column) => shorten(column.name))
              .join(', ')
          : ''
      return operation.key
        ? `make ${names} the key of ${table(operation.table)}`
        : `remove the key of ${table(operation.table)}`
    }
    case 'unique.add':
      return `add a unique key to ${table(operation.table)}`
    case 'unique.remove':
      return `remove a unique key of ${table(operation.table)}`
    case 'constraint.rename':
      return operation.name === null
        ? `leave a name in ${table(operation.table)} to the policy`
        : `name a constraint of ${table(operation.table)} ${shorten(operation.name)}`
    case 'check.add':
      return `add a check to ${table(operation.table)}`
    case 'check.change':
      return `change a check of ${table(operation.table)}`
    case 'check.remove':
      return `remove a check of ${table(operation.table)}`
    case 'index.add':
      return `add an index to ${table(operation.table)}`
    case 'index.change':
      return `change an index of ${table(operation.table)}`
    case 'index.remove':
      return `remove an index of ${table(operation.table)}`
    case 'rowPolicy.add':
      return `add a row policy to ${table(operation.table)}`
    case 'rowPolicy.change':
      return `change a row policy of ${table(operation.table)}`
    case 'rowPolicy.remove':
      return `remove a row policy of ${table(operation.table)}`
    case 'foreignKey.add':
      return `refer ${table(operation.table)} to ${table(operation.foreignKey.table)}`
    case 'foreignKey.remove':
      return `remove a relationship of ${table(operation.table)}`
    case 'foreignKey.setActions':
      return `change what happens in ${table(operation.table)} on delete or key change`
    case 'foreignKey.setNature':
      return `change what ${table(operation.table)} is to what it refers to`
    case 'foreignKey.setAccessors':
      return `change what a relationship of ${table(operation.table)} is called in code`
    case 'foreignKey.setDeferrable':
      return `change when a relationship of ${table(operation.table)} is looked at`
    case 'foreignKey.setMinimum':
      return `change how many ${table(operation.table)} has at the least`
    case 'foreignKey.setVerbs':
      return `change how a relationship of ${table(operation.table)} reads`
    case 'subject.add':
      return `make the subject ${shorten(operation.subject.name)}`
    case 'subject.change':
      return `change the subject ${shorten(operation.subject.name)}`
    case 'subject.remove':
      return 'remove a subject'
    case 'view.add':
      return `keep the view ${shorten(operation.view.name)}`
    case 'view.change':
      return `change the view ${shorten(operation.view.name)}`
    case 'view.remove':
      return 'remove a view'
    case 'figure.add':
      return `let ${table(operation.figure.table)} say ${shorten(operation.figure.name)}`
    case 'figure.change':
      return `change the figure ${shorten(operation.figure.name)} of ${table(operation.figure.table)}`
    case 'figure.remove':
      return 'remove a figure'
    case 'ruling.add':
      return `keep the ruling “${shorten(operation.ruling.says)}”`
    case 'ruling.change':
      return `change the ruling “${shorten(operation.ruling.says)}”`
    case 'ruling.remove':
      return 'remove a ruling'
    case 'carry.add':
      return 'carry rows'
    case 'carry.remove':
      return 'carry no rows'
    case 'relationship.add':
      return `relate ${table(operation.parent)} and ${table(operation.child)}`
    case 'relationship.addJunction':
      return `make the junction ${shorten(operation.junction.table.name)}`
    case 'relationship.resolveToJunction':
      return `resolve to the junction ${shorten(operation.junction.table.name)}`
  }
}
