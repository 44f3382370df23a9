import { fold, fullName } from '../design/directory.ts'
import { idSchema } from '../design/ids.ts'
import { nameSchema, schemaSchema, type Design } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { listed } from '../design/words.ts'
import { at } from './fields.ts'
import { checkNewIds, checkSharedName, insertedAt, withoutAt } from './handler.ts'
import { kind, noun, type Handler, type Operation, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** Schemas, in which tables stand. */

const KINDS = [
  kind('schema.add', { schema: schemaSchema, at }, ({ schema }) => `make the schema ${shorten(schema.name)}`),
  kind(
    'schema.rename',
    { schema: idSchema, name: nameSchema },
    ({ name }) => `rename a schema to ${shorten(name)}`
  ),
  kind('schema.remove', { schema: idSchema }, () => 'remove a schema')
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const addSchema: Handler<'schema.add'> = (design, { schema, at }) => {
  checkSharedName(design.schemas, schema.name, 'schema')
  checkNewIds(design, [schema.id])
  return {
    design: { ...design, schemas: insertedAt(design.schemas, schema, at) },
    inverse: { kind: 'schema.remove', schema: schema.id },
    touched: []
  }
}

/** The schema, or a refusal that says it is gone. */
export function needSchema(design: Design, id: string): Design['schemas'][number] {
  const schema = design.schemas.find((each) => each.id === id)
  if (!schema) throw new Refused('missing', 'That schema is no longer in the design.')
  return schema
}

const renameSchema: Handler<'schema.rename'> = (design, { schema: id, name }) => {
  const schema = needSchema(design, id)
  checkSharedName(design.schemas, name, 'schema', id)
  const next = {
    ...design,
    schemas: design.schemas.map((each) => (each.id === id ? { ...each, name } : each))
  }
  const inside = design.tables.filter((table) => table.schema === id)
  const other = new Set(
    design.tables.filter((table) => table.schema !== id).map((table) => fold(fullName(next, table)))
  )
  const doubled = inside.find((table) => other.has(fold(fullName(next, table))))
  if (doubled)
    throw new Refused('name-taken', `There is already a table called ${shorten(fullName(next, doubled))}.`, {
      table: doubled.id
    })
  return {
    design: next,
    inverse: { kind: 'schema.rename', schema: id, name: schema.name },
    touched: inside.map((table) => table.id)
  }
}

const removeSchema: Handler<'schema.remove'> = (design, { schema: id }) => {
  const schema = needSchema(design, id)
  const inside = design.tables.filter((table) => table.schema === id)
  if (inside.length > 0) {
    throw new Refused(
      'in-use',
      `${listed(inside.slice(0, 4).map((table) => table.name))} ${inside.length === 1 ? 'stands' : 'stand'} in ${schema.name}.`,
      {},
      [
        {
          label: `Take ${inside.length === 1 ? 'the table' : `the ${inside.length} tables`} out of ${schema.name} and remove it`,
          operation: {
            kind: 'batch',
            label: `remove the schema ${schema.name}`,
            operations: [
              ...inside.map((table): Operation => ({
                kind: 'table.setSchema',
                table: table.id,
                schema: null
              })),
              { kind: 'schema.remove', schema: id }
            ]
          }
        }
      ]
    )
  }
  const at = design.schemas.indexOf(schema)
  return {
    design: { ...design, schemas: withoutAt(design.schemas, at) },
    inverse: { kind: 'schema.add', schema, at },
    touched: []
  }
}

export const SCHEMA = noun(KINDS, {
  'schema.add': addSchema,
  'schema.rename': renameSchema,
  'schema.remove': removeSchema
})
