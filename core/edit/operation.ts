import { z } from 'zod'
import { BOUNDS } from '../bounds.ts'
import {
  versionOfEngine,
  accessorsSchema,
  actionSchema,
  checkSchema,
  columnSchema,
  enumSchema,
  figureSchema,
  foreignKeySchema,
  indexSchema,
  keySchema,
  copiedSchema,
  deferrableSchema,
  minimumSchema,
  renewedSchema,
  nameSchema,
  natureSchema,
  outputNameSchema,
  templateSchema,
  placeSchema,
  policySchema,
  positionSchema,
  ROW_SECURITY,
  rowPolicySchema,
  rowSchema,
  rulingSchema,
  schemaSchema,
  standingSchema,
  subjectSchema,
  tableSchema,
  usualSchema,
  verbsSchema,
  viewSchema
} from '../design/model.ts'
import { carriedSchema, carrySchema } from '../design/carry.ts'
import { expressionSchema, idSchema } from '../design/ids.ts'
import { typeSchema } from '../design/type.ts'
import { defaultSchema, valueSchema } from '../design/value.ts'

/**
 * Operations: the only way in which a design changes. Each is a plain value named for what the person
 * meant; `apply` (./apply.ts) carries it out. They travel to the server, into the log, and back as undo.
 */

const at = z.int().min(0).optional()
const note = z.string().max(BOUNDS.note)

/** A column that a relationship makes, or, where the id is there already, takes over. */
const madeColumn = z.strictObject({ id: idSchema, name: nameSchema })
export type MadeColumn = z.infer<typeof madeColumn>

const junctionSide = z.strictObject({
  table: idSchema,
  foreignKey: idSchema,
  /** One for each column of the side's primary key, in its order. */
  columns: z.array(madeColumn),
  onDelete: actionSchema,
  verbs: verbsSchema.optional()
})
export type JunctionSide = z.infer<typeof junctionSide>

const junction = z.strictObject({
  table: z.strictObject({ id: idSchema, name: nameSchema }),
  key: idSchema,
  sides: z.tuple([junctionSide, junctionSide]),
  /** The junction's own columns: facts about the pair. */
  columns: z.array(columnSchema).max(BOUNDS.columns),
  /**
   * `pair`: the pair is the primary key, together with the own columns named in `with`.
   * `own`: a generated column is the primary key, and the pair is unique beside it.
   */
  keyed: z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('pair'), with: z.array(idSchema) }),
    z.strictObject({ by: z.literal('own'), column: madeColumn, unique: idSchema })
  ])
})
export type Junction = z.infer<typeof junction>

const single = [
  z.strictObject({ kind: z.literal('design.rename'), name: nameSchema }),
  z.strictObject({ kind: z.literal('design.setPolicy'), policy: policySchema }),
  /** What new tables and junctions begin with; null is nothing but their keys. */
  z.strictObject({ kind: z.literal('design.setStanding'), standing: standingSchema.nullable() }),
  /** What deletes do by policy; null is what is proposed. */
  z.strictObject({ kind: z.literal('design.setUsual'), usual: usualSchema.nullable() }),
  z.strictObject({
    kind: z.literal('design.setDialects'),
    dialects: z.array(z.string().regex(/^[a-z]{1,20}$/)).max(20)
  }),
  /** The oldest version of a dialect's engine that it is to run on; null is the usual one. */
  z.strictObject({
    kind: z.literal('design.setOldest'),
    dialect: z.string().regex(/^[a-z]{1,20}$/),
    version: versionOfEngine.nullable()
  }),

  /** Where an output is written in an application's tree; null: it is not wanted. */
  z.strictObject({
    kind: z.literal('design.setOutput'),
    output: outputNameSchema,
    to: placeSchema.nullable()
  }),
  /** What is chosen of an output; null: as usual. */
  z.strictObject({
    kind: z.literal('design.setOutputSetting'),
    output: outputNameSchema,
    setting: outputNameSchema,
    to: z.string().trim().min(1).max(BOUNDS.place).nullable()
  }),

  /** Writes a template of a team's own; null: it is removed. */
  z.strictObject({
    kind: z.literal('template.set'),
    name: templateSchema.shape.name,
    text: templateSchema.shape.text.nullable()
  }),

  /** What a table or a column is called in code; null: as in the database. */
  z.strictObject({ kind: z.literal('code.setName'), of: idSchema, name: nameSchema.nullable() }),

  /** Lets a finding stand, with the reason; null: it is told of again. */
  z.strictObject({
    kind: z.literal('finding.setAside'),
    rule: z.string().min(1).max(120),
    table: idSchema,
    column: idSchema.optional(),
    reason: z.string().trim().min(1).max(300).nullable()
  }),

  z.strictObject({ kind: z.literal('schema.add'), schema: schemaSchema, at }),
  z.strictObject({ kind: z.literal('schema.rename'), schema: idSchema, name: nameSchema }),
  z.strictObject({ kind: z.literal('schema.remove'), schema: idSchema }),

  z.strictObject({ kind: z.literal('enum.add'), enum: enumSchema, at }),
  z.strictObject({ kind: z.literal('enum.change'), enum: enumSchema }),
  z.strictObject({ kind: z.literal('enum.remove'), enum: idSchema }),

  z.strictObject({
    kind: z.literal('table.add'),
    table: tableSchema,
    at,
    position: positionSchema.optional()
  }),
  z.strictObject({ kind: z.literal('table.rename'), table: idSchema, name: nameSchema }),
  z.strictObject({ kind: z.literal('table.annotate'), table: idSchema, note }),
  /** The columns that a row is called by; null leaves that to what the table has. */
  z.strictObject({
    kind: z.literal('table.setLabel'),
    table: idSchema,
    label: z.array(idSchema).min(1).max(8).nullable()
  }),
  /** Into a schema, or with null into the database's own. */
  z.strictObject({ kind: z.literal('table.setSchema'), table: idSchema, schema: idSchema.nullable() }),
  /** Null: on where there is a row policy. */
  z.strictObject({
    kind: z.literal('table.setRowSecurity'),
    table: idSchema,
    security: z.enum(ROW_SECURITY).nullable()
  }),
  z.strictObject({ kind: z.literal('table.setExternal'), table: idSchema, external: z.boolean() }),
  z.strictObject({ kind: z.literal('table.move'), table: idSchema, to: z.int().min(0) }),
  z.strictObject({ kind: z.literal('table.remove'), table: idSchema }),
  z.strictObject({
    kind: z.literal('table.setRows'),
    table: idSchema,
    rows: z.array(rowSchema).max(BOUNDS.rows)
  }),
  /**
   * Some rows of a table: those that become others, those that go, and those that come. `changed` and `gone` by their
   * places before, with what stands there, so that nobody else's rows are taken for them; `come` by their places after.
   */
  z.strictObject({
    kind: z.literal('rows.change'),
    table: idSchema,
    changed: z.array(z.strictObject({ at: z.int().min(0), was: rowSchema, row: rowSchema })).max(BOUNDS.rows),
    gone: z.array(z.strictObject({ at: z.int().min(0), row: rowSchema })).max(BOUNDS.rows),
    come: z.array(z.strictObject({ at: z.int().min(0), row: rowSchema })).max(BOUNDS.rows)
  }),
  z.strictObject({ kind: z.literal('table.place'), table: idSchema, position: positionSchema.nullable() }),

  z.strictObject({
    kind: z.literal('column.add'),
    table: idSchema,
    column: columnSchema,
    at,
    values: z.array(valueSchema.optional()).max(BOUNDS.rows).optional()
  }),
  z.strictObject({ kind: z.literal('column.rename'), table: idSchema, column: idSchema, name: nameSchema }),
  z.strictObject({ kind: z.literal('column.annotate'), table: idSchema, column: idSchema, note }),
  /** `follow: false` leaves the foreign key columns that follow this one as they are. */
  z.strictObject({
    kind: z.literal('column.retype'),
    table: idSchema,
    column: idSchema,
    type: typeSchema,
    follow: z.boolean().optional()
  }),
  z.strictObject({
    kind: z.literal('column.require'),
    table: idSchema,
    column: idSchema,
    required: z.boolean()
  }),
  z.strictObject({
    kind: z.literal('column.setDefault'),
    table: idSchema,
    column: idSchema,
    default: defaultSchema.nullable()
  }),
  z.strictObject({
    kind: z.literal('column.compute'),
    table: idSchema,
    column: idSchema,
    expression: expressionSchema.nullable()
  }),
  z.strictObject({
    kind: z.literal('column.copy'),
    table: idSchema,
    column: idSchema,
    copied: copiedSchema.nullable()
  }),
  z.strictObject({
    kind: z.literal('column.renew'),
    table: idSchema,
    column: idSchema,
    renewed: renewedSchema.nullable()
  }),
  z.strictObject({ kind: z.literal('column.move'), table: idSchema, column: idSchema, to: z.int().min(0) }),
  z.strictObject({ kind: z.literal('column.remove'), table: idSchema, column: idSchema }),

  z.strictObject({ kind: z.literal('key.setPrimary'), table: idSchema, key: keySchema.nullable() }),
  z.strictObject({ kind: z.literal('unique.add'), table: idSchema, key: keySchema, at }),
  z.strictObject({ kind: z.literal('unique.remove'), table: idSchema, key: idSchema }),

  /** Names a key, a foreign key, a check or an index, or with null leaves its name to the policy. */
  z.strictObject({
    kind: z.literal('constraint.rename'),
    table: idSchema,
    constraint: idSchema,
    name: nameSchema.nullable()
  }),

  z.strictObject({ kind: z.literal('check.add'), table: idSchema, check: checkSchema, at }),
  z.strictObject({ kind: z.literal('check.change'), table: idSchema, check: checkSchema }),
  z.strictObject({ kind: z.literal('check.remove'), table: idSchema, check: idSchema }),
  z.strictObject({ kind: z.literal('index.add'), table: idSchema, index: indexSchema, at }),
  z.strictObject({ kind: z.literal('index.change'), table: idSchema, index: indexSchema }),
  z.strictObject({ kind: z.literal('index.remove'), table: idSchema, index: idSchema }),
  z.strictObject({ kind: z.literal('rowPolicy.add'), table: idSchema, rowPolicy: rowPolicySchema, at }),
  z.strictObject({ kind: z.literal('rowPolicy.change'), table: idSchema, rowPolicy: rowPolicySchema }),
  z.strictObject({ kind: z.literal('rowPolicy.remove'), table: idSchema, rowPolicy: idSchema }),

  z.strictObject({ kind: z.literal('foreignKey.add'), table: idSchema, foreignKey: foreignKeySchema, at }),
  z.strictObject({ kind: z.literal('foreignKey.remove'), table: idSchema, foreignKey: idSchema }),
  z.strictObject({
    kind: z.literal('foreignKey.setActions'),
    table: idSchema,
    foreignKey: idSchema,
    onDelete: actionSchema,
    onUpdate: actionSchema
  }),
  z.strictObject({
    kind: z.literal('foreignKey.setVerbs'),
    table: idSchema,
    foreignKey: idSchema,
    verbs: verbsSchema.nullable()
  }),
  /** Whether it may be looked at when a transaction ends; null: with each statement, always. */
  z.strictObject({
    kind: z.literal('foreignKey.setDeferrable'),
    table: idSchema,
    foreignKey: idSchema,
    deferrable: deferrableSchema.nullable()
  }),
  /** What a row is to the one that it refers to; null: what its shape says. */
  z.strictObject({
    kind: z.literal('foreignKey.setNature'),
    table: idSchema,
    foreignKey: idSchema,
    nature: natureSchema.nullable()
  }),
  /** What each direction is called in code; null: as it is proposed. */
  z.strictObject({
    kind: z.literal('foreignKey.setAccessors'),
    table: idSchema,
    foreignKey: idSchema,
    accessors: accessorsSchema.nullable()
  }),
  /** That each row referred to has at least one that refers to it; null: it may have none. */
  z.strictObject({
    kind: z.literal('foreignKey.setMinimum'),
    table: idSchema,
    foreignKey: idSchema,
    minimum: minimumSchema.nullable()
  }),

  z.strictObject({ kind: z.literal('figure.add'), figure: figureSchema, at }),
  z.strictObject({ kind: z.literal('figure.change'), figure: figureSchema }),
  z.strictObject({ kind: z.literal('figure.remove'), figure: idSchema }),

  z.strictObject({ kind: z.literal('ruling.add'), ruling: rulingSchema, at }),
  z.strictObject({ kind: z.literal('ruling.change'), ruling: rulingSchema }),
  z.strictObject({ kind: z.literal('ruling.remove'), ruling: idSchema }),

  z.strictObject({ kind: z.literal('subject.add'), subject: subjectSchema, at }),
  z.strictObject({ kind: z.literal('subject.change'), subject: subjectSchema }),
  z.strictObject({ kind: z.literal('subject.remove'), subject: idSchema }),

  z.strictObject({ kind: z.literal('view.add'), view: viewSchema, at }),
  z.strictObject({ kind: z.literal('view.change'), view: viewSchema }),
  z.strictObject({ kind: z.literal('view.remove'), view: idSchema }),

  z.strictObject({ kind: z.literal('carry.add'), carry: carrySchema }),
  z.strictObject({ kind: z.literal('carry.remove'), carry: idSchema }),

  /**
   * One-to-many, or one-to-one where `unique` is given: the key's columns come to the child with the key's
   * types.
   */
  z.strictObject({
    kind: z.literal('relationship.add'),
    parent: idSchema,
    child: idSchema,
    foreignKey: idSchema,
    columns: z.array(madeColumn),
    at,
    required: z.boolean(),
    unique: idSchema.optional(),
    onDelete: actionSchema,
    onUpdate: actionSchema,
    verbs: verbsSchema.optional(),
    childIs: natureSchema.optional()
  }),
  /** Many-to-many: a junction table that keeps one row for each pair. */
  z.strictObject({ kind: z.literal('relationship.addJunction'), junction }),
  /**
   * Each side turned out to need many: a one-to-many becomes a junction, and what its column held is
   * carried there; `carried` says what the junction's own columns take.
   */
  z.strictObject({
    kind: z.literal('relationship.resolveToJunction'),
    table: idSchema,
    foreignKey: idSchema,
    junction,
    carry: idSchema,
    carried: z.array(carriedSchema).optional()
  })
] as const

type Single = z.infer<(typeof single)[number]>

/**
 * How long the name of a step may be (characters); a longer one is cut, since names of tables and columns
 * stand in it.
 */
const LABEL_LENGTH = 200
const cut = (label: string): string =>
  [...label].length > LABEL_LENGTH ? `${[...label].slice(0, LABEL_LENGTH - 1).join('')}…` : label

/** Several operations as one step: all of them, or none. `label` names the step for undo. */
export interface Batch {
  kind: 'batch'
  label?: string | undefined
  operations: Operation[]
}
export type Operation = Single | Batch

export const operationSchema: z.ZodType<Operation> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    ...single,
    z.strictObject({
      kind: z.literal('batch'),
      label: z.string().overwrite(cut).optional(),
      operations: z.array(operationSchema).max(BOUNDS.operationsInBatch)
    })
  ])
)

/** How many operations one is, those within it counted as well. */
export function countOperations(operation: Operation): number {
  return operation.kind === 'batch'
    ? operation.operations.reduce((sum, each) => sum + countOperations(each), 1)
    : 1
}

export type OperationOf<K extends Operation['kind']> = Extract<Operation, { kind: K }>
