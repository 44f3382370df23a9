import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import { CARRY } from './carry.ts'
import { CHECK } from './check.ts'
import { CODE_NAME } from './code-name.ts'
import { COLUMN } from './column.ts'
import { CONSTRAINT } from './constraint.ts'
import { DESIGN } from './design.ts'
import { FIGURE } from './figure.ts'
import { FINDING } from './finding.ts'
import { FOREIGN_KEY } from './foreign-key.ts'
import { KEY } from './key.ts'
import { LIST } from './list.ts'
import type { Operation } from './operation.ts'
import { OUTPUT } from './output.ts'
import { RELATIONSHIP } from './relationship.ts'
import { ROW } from './row.ts'
import { ROW_POLICY } from './row-policy.ts'
import { RULING } from './ruling.ts'
import { SCHEMA } from './schema.ts'
import { SUBJECT } from './subject.ts'
import { INDEX } from './table-index.ts'
import { TABLE } from './table.ts'
import { TEMPLATE } from './template.ts'
import { VIEW } from './view.ts'

/** Every noun with what can be done to it. */
const NOUNS = [
  DESIGN,
  OUTPUT,
  TEMPLATE,
  CODE_NAME,
  FINDING,
  SCHEMA,
  LIST,
  TABLE,
  ROW,
  COLUMN,
  KEY,
  CONSTRAINT,
  CHECK,
  INDEX,
  ROW_POLICY,
  FOREIGN_KEY,
  FIGURE,
  RULING,
  SUBJECT,
  VIEW,
  CARRY,
  RELATIONSHIP
] as const

type Name = (typeof NOUNS)[number]['kinds'][number]['name']

/** Every kind of operation by its name, but for a batch of them. */
export const KINDS = new Map(NOUNS.flatMap(({ kinds }) => kinds.map((kind) => [kind.name as Name, kind])))

/** How each is carried out. */
export const HANDLERS = new Map(
  NOUNS.flatMap(({ handlers }) => Object.entries(handlers).map(([name, handler]) => [name as Name, handler]))
)

/**
 * How long the name of a step may be (characters); a longer one is cut, since names of tables and columns
 * stand in it.
 */
const LABEL_LENGTH = 200
const cut = (label: string): string =>
  [...label].length > LABEL_LENGTH ? `${[...label].slice(0, LABEL_LENGTH - 1).join('')}…` : label

const single = [...KINDS.values()].map(({ name, fields }) =>
  z.strictObject({ kind: z.literal(name), ...fields })
)

export const operationSchema: z.ZodType<Operation> = z.lazy(() => {
  const batch = z.strictObject({
    kind: z.literal('batch'),
    label: z.string().overwrite(cut).optional(),
    operations: z.array(operationSchema).max(BOUNDS.operationsInBatch)
  })
  return z.discriminatedUnion('kind', [batch, ...single]) as unknown as z.ZodType<Operation>
})

/** How many operations one is, those within it counted as well. */
export function countOperations(operation: Operation): number {
  return operation.kind === 'batch'
    ? operation.operations.reduce((sum, each) => sum + countOperations(each), 1)
    : 1
}
