import { z } from 'zod'
import { carrySchema } from './carry.ts'
import { expressionSchema, idSchema } from './ids.ts'
import { BOUNDS } from '../bounds.ts'
import { typeSchema } from './type.ts'
import { defaultSchema, valueSchema } from './value.ts'

/**
 * The design: one immutable JSON value. Every entity has an id that outlives its name, so that a
 * rename is a rename and never a drop and an add. What can be derived (a junction, a cardinality,
 * the name of a constraint) is derived, never stored.
 */

/** The longest name any of the engines takes (characters). */
export const NAME_LENGTH = 128

/**
 * A name as a person gives it. Any character may stand in it but control characters; it is quoted where
 * SQL needs that.
 */
export const nameSchema = z
  .string()
  .refine((name) => name.trim() !== '', { error: 'a name is needed' })
  .refine((name) => name === name.trim(), { error: 'a name may not begin or end with a space' })
  .refine((name) => [...name].length <= NAME_LENGTH, {
    error: `a name may have at most ${NAME_LENGTH} characters`
  })
  // eslint-disable-next-line no-control-regex
  .refine((name) => !/[\u0000-\u001f\u007f]/.test(name) && name.isWellFormed(), {
    error: 'a name may have no control characters in it'
  })

const noteSchema = z.string().max(BOUNDS.note).optional()

/** Referential actions as the SQL standard names them (ISO/IEC 9075-2, 11.8). */
export const ACTIONS = ['NO ACTION', 'RESTRICT', 'CASCADE', 'SET NULL', 'SET DEFAULT'] as const
export const actionSchema = z.enum(ACTIONS)
export type Action = z.infer<typeof actionSchema>

/**
 * Taken from the row referred to when a row is made that says nothing of it, and the row's own from then on: a price
 * at the time of sale. `again`: also when the row refers to another one. `fixed`: it can be nothing else. Triggers
 * see to it where that is wanted, else whatever writes the rows.
 */
export const copiedSchema = z.strictObject({
  foreignKey: idSchema,
  column: idSchema,
  again: z.literal(true).optional(),
  fixed: z.literal(true).optional(),
  byTrigger: z.literal(true).optional()
})
export type Copied = z.infer<typeof copiedSchema>

/** Who sees to it that a column becomes the present moment with each change of its row. */
export const renewedSchema = z.enum(['database', 'application'])
export type Renewed = z.infer<typeof renewedSchema>

export const columnSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  type: typeSchema,
  required: z.boolean(),
  default: defaultSchema.optional(),
  /** Worked out by the engine from the other columns of the row, always. */
  computed: expressionSchema.optional(),
  copied: copiedSchema.optional(),
  renewed: renewedSchema.optional(),
  note: noteSchema
})
export type Column = z.infer<typeof columnSchema>

/** A primary or unique key: its columns in order. `name` only where a person gave one. */
export const keySchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  columns: z.array(idSchema).min(1).max(BOUNDS.columns)
})
export type Key = z.infer<typeof keySchema>

/**
 * How the two sentences of a relationship are said: “Each admission *is of* one patient”, “Each patient
 * *has* …”.
 */
export const verbsSchema = z.strictObject({
  child: z.string().trim().min(1).max(60),
  parent: z.string().trim().min(1).max(60)
})
export type Verbs = z.infer<typeof verbsSchema>

/**
 * That each row referred to has at least one that refers to it, which no key holds: said only, or held by triggers
 * that wait for the end of the transaction, where the engine has such.
 */
export const minimumSchema = z.enum(['said', 'held'])
export type Minimum = z.infer<typeof minimumSchema>

/**
 * That a reference may be looked at when a transaction ends, and not with each statement: where the transaction asks
 * for it, or always (ISO/IEC 9075-2, 10.8).
 */
export const deferrableSchema = z.enum(['immediate', 'deferred'])
export type Deferrable = z.infer<typeof deferrableSchema>

/** What a row is to the one that it refers to: a part of it, or a thing by itself that is listed there. */
export const natureSchema = z.enum(['part', 'listed'])
export type Nature = z.infer<typeof natureSchema>

/** What each direction is called in code, where it is not as proposed: the one that a child has, those of a parent. */
export const accessorsSchema = z.strictObject({ child: nameSchema.optional(), parent: nameSchema.optional() })
export type Accessors = z.infer<typeof accessorsSchema>

export const foreignKeySchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  /** The table referred to, and which of its keys. */
  table: idSchema,
  key: idSchema,
  /** Column of this table, and the key column that it refers to. */
  pairs: z
    .array(z.strictObject({ column: idSchema, refersTo: idSchema }))
    .min(1)
    .max(BOUNDS.columns),
  onDelete: actionSchema,
  onUpdate: actionSchema,
  deferrable: deferrableSchema.optional(),
  verbs: verbsSchema.optional(),
  atLeastOne: minimumSchema.optional(),
  childIs: natureSchema.optional(),
  accessors: accessorsSchema.optional()
})
export type ForeignKey = z.infer<typeof foreignKeySchema>

/** A condition that every row must meet, or leave open. */
export const checkSchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  condition: expressionSchema,
  /** Held by triggers where the engine has no such check. */
  everywhere: z.literal(true).optional()
})
export type Check = z.infer<typeof checkSchema>

/**
 * An index of a person's own; those of keys and, by policy, of foreign keys come by themselves. `where`:
 * only the rows that meet it.
 */
export const indexSchema = z.strictObject({
  id: idSchema,
  name: nameSchema.optional(),
  columns: z
    .array(z.strictObject({ column: idSchema, descending: z.boolean() }))
    .min(1)
    .max(BOUNDS.columns),
  unique: z.boolean(),
  where: expressionSchema.optional(),
  /** Held by a computed column, beside which it is unique, where the engine has no index on some of the rows. */
  everywhere: z.literal(true).optional()
})
export type Index = z.infer<typeof indexSchema>

export const COMMANDS = ['ALL', 'SELECT', 'INSERT', 'UPDATE', 'DELETE'] as const
/**
 * Which rows a role may see or change with a command; without a role, everybody. `writes`: which it may leave
 * behind with UPDATE or ALL, where those are others than it may find.
 */
export const rowPolicySchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  command: z.enum(COMMANDS),
  role: nameSchema.optional(),
  condition: expressionSchema,
  writes: expressionSchema.optional()
})
export type RowPolicy = z.infer<typeof rowPolicySchema>

/** Values by column id; a column that is missing is null. */
export const rowSchema = z.record(idSchema, valueSchema)
export type Row = z.infer<typeof rowSchema>

/** A row as a design keeps it: a column that is empty is left out, so that there is one way to say so. */
export function tidyRow(row: Row): Row {
  const values = Object.entries(row)
  const said = values.filter(([, value]) => value !== null && value !== undefined)
  return said.length === values.length ? row : Object.fromEntries(said)
}

/** Whether two rows say the same, or neither is there. */
export function isSameRow(one: Row | undefined, other: Row | undefined): boolean {
  if (one === undefined || other === undefined || one === other) return one === other
  const [tidy, wanted] = [tidyRow(one), tidyRow(other)]
  const ids = Object.keys(tidy)
  return ids.length === Object.keys(wanted).length && ids.every((id) => tidy[id] === wanted[id])
}

/** `forced`: also for the table's owner, whom an engine lets pass otherwise. */
export const ROW_SECURITY = ['off', 'on', 'forced'] as const
export type RowSecurity = (typeof ROW_SECURITY)[number]

/** Whether a table's rows are held to its row policies. */
export const rowSecurityOf = ({ rowSecurity, rowPolicies }: Table): RowSecurity =>
  rowSecurity ?? (rowPolicies.length > 0 ? 'on' : 'off')

/** Whether a policy may say besides what it finds which rows it leaves behind. */
export const mayWrite = ({ command }: Pick<RowPolicy, 'command'>): boolean =>
  command === 'ALL' || command === 'UPDATE'

export const tableSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** The schema that it stands in; the database's own where none is named. */
  schema: idSchema.optional(),
  /** Owned by another system: it may be referred to, and is never made, changed or dropped. */
  external: z.literal(true).optional(),
  note: noteSchema,
  /** The columns that a row is called by; one that refers stands for what the row referred to is called. */
  label: z.array(idSchema).min(1).max(8).optional(),
  columns: z.array(columnSchema).max(BOUNDS.columns),
  primaryKey: keySchema.optional(),
  uniques: z.array(keySchema).max(BOUNDS.rules),
  foreignKeys: z.array(foreignKeySchema).max(BOUNDS.rules),
  checks: z
    .array(checkSchema)
    .max(BOUNDS.rules)
    .default(() => []),
  indexes: z
    .array(indexSchema)
    .max(BOUNDS.rules)
    .default(() => []),
  rowPolicies: z
    .array(rowPolicySchema)
    .max(BOUNDS.rules)
    .default(() => []),
  /** Whether rows are held to row policies; where it is not said, where there is one. */
  rowSecurity: z.enum(ROW_SECURITY).optional(),
  rows: z.array(rowSchema).max(BOUNDS.rows)
})
export type Table = z.infer<typeof tableSchema>

/** What a figure says over rows: how many, how many different far ones, a sum, or the first or last value. */
export const MEASURES = ['count', 'different', 'sum', 'first', 'last'] as const
export type Measure = (typeof MEASURES)[number]

/**
 * What a row of a table can say over the rows that refer to it: how many there are, how many of them meet a condition,
 * what they add up to, which comes first or last. One whose ground is gone stays, and is told of (./figure.ts).
 */
export const figureSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** Whose rows say it. */
  table: idSchema,
  /** The table whose rows are looked at, and the reference by which they refer to the row. */
  of: idSchema,
  by: idSchema,
  /** Another reference of theirs, where the figure is over what lies beyond: a junction's far side. */
  far: idSchema.optional(),
  measure: z.enum(MEASURES),
  /** What is added up or said: a column of the rows, or of what lies beyond. */
  column: idSchema.optional(),
  /** By which column of the rows the first and the last are told; else by what is said. */
  order: idSchema.optional(),
  /** Only rows that meet it, and only those whose far row meets the other. */
  where: expressionSchema.optional(),
  whereFar: expressionSchema.optional()
})
export type Figure = z.infer<typeof figureSchema>

/**
 * A named part of a design, as people talk of it. A table may stand in several; one that is gone is left out when it is
 * drawn, and comes back with its undo.
 */
export const subjectSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  note: z.string().max(BOUNDS.note).optional(),
  tables: z.array(idSchema).max(BOUNDS.tables)
})
export type Subject = z.infer<typeof subjectSchema>

/** What of a design a view shows: all, a subject with what is beside it, what is near a table, or tables by name. */
export const shownPartSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('all') }),
  z.strictObject({ kind: z.literal('subject'), subject: idSchema }),
  z.strictObject({ kind: z.literal('near'), table: idSchema, steps: z.int().min(1).max(2) }),
  z.strictObject({ kind: z.literal('tables'), tables: z.array(idSchema).max(BOUNDS.tables) })
])
export type ShownPart = z.infer<typeof shownPartSchema>

/** Which rows of a table are drawn: of all columns, of those in keys and references, or none. */
export const ROWS = ['all', 'keys', 'none'] as const
export type Rows = (typeof ROWS)[number]
/** How the ends of lines say how few and how many: by crow's feet, or by numbers, minimum..maximum. */
export const ENDS = ['feet', 'numbers'] as const
export type Ends = (typeof ENDS)[number]
/** What stands at the ends of lines: nothing, the verbs of the readings, or what each side is called in code. */
export const LINE_WORDS = ['none', 'verbs', 'roles'] as const
export type LineWords = (typeof LINE_WORDS)[number]

/** How a diagram is drawn. */
export const lookSchema = z.strictObject({
  rows: z.enum(ROWS),
  /** Whether the types of columns stand beside them. */
  types: z.boolean(),
  ends: z.enum(ENDS),
  words: z.enum(LINE_WORDS),
  /** Whether subjects stand together, each in a region with its name. */
  regions: z.boolean()
})
export type Look = z.infer<typeof lookSchema>
export const PLAIN_LOOK: Look = { rows: 'all', types: true, ends: 'feet', words: 'none', regions: true }

/** A diagram that is kept: what it shows and how, with its title and what is said of it. */
export const viewSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** What stands over the drawing, where that is not its name. */
  title: z.string().max(BOUNDS.note).optional(),
  note: z.string().max(BOUNDS.note).optional(),
  shows: shownPartSchema,
  look: lookSchema
})
export type View = z.infer<typeof viewSchema>

/** A row as a ruling names it: by what it holds in some columns, its key as a rule. */
const namedRows = z.array(rowSchema).min(1).max(BOUNDS.operationsInBatch)

/** A statement of a ruling: on rows of the design that it names, or with rows of its own. */
export const ruledStatementSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('delete'), table: idSchema, rows: namedRows }),
  z.strictObject({ kind: z.literal('update'), table: idSchema, rows: namedRows, values: rowSchema }),
  z.strictObject({ kind: z.literal('insert'), table: idSchema, rows: namedRows })
])
export type RuledStatement = z.infer<typeof ruledStatementSchema>

/**
 * What a change of rows must come to: it is taken; it is refused, by one rule where that is named; or it is taken and
 * deletes these rows along.
 */
export const verdictSchema = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('taken') }),
  z.strictObject({ is: z.literal('refused'), by: idSchema.optional() }),
  z.strictObject({
    is: z.literal('takes along'),
    rows: z
      .array(z.strictObject({ table: idSchema, row: rowSchema }))
      .min(1)
      .max(BOUNDS.operationsInBatch)
  })
])
export type Verdict = z.infer<typeof verdictSchema>

/**
 * A change of rows with a verdict, which every version, dialect and change of mind is to keep to. What it names may be
 * gone by then, which is told of (core/rehearse/ruling.ts).
 */
export const rulingSchema = z.strictObject({
  id: idSchema,
  /** What it is about, in a person's own words. */
  says: z.string().trim().min(1).max(300),
  statements: z.array(ruledStatementSchema).min(1).max(50),
  /** All in one transaction, or each by itself; and whether that asks for what can be deferred. */
  together: z.boolean(),
  deferring: z.literal(true).optional(),
  verdict: verdictSchema
})
export type Ruling = z.infer<typeof rulingSchema>

/** Where a table was put in the diagram by hand, in pixels from the drawing's origin. */
export const positionSchema = z.strictObject({
  x: z.number().min(-1e6).max(1e6),
  y: z.number().min(-1e6).max(1e6)
})
export type Position = z.infer<typeof positionSchema>

/** A schema (namespace) that tables stand in. */
export const schemaSchema = z.strictObject({ id: idSchema, name: nameSchema })
export type Schema = z.infer<typeof schemaSchema>

/** A list of values that columns share as their type. */
export const enumSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  values: z
    .array(
      z
        .string()
        .min(1)
        .max(60)
        .refine((value) => value === value.trim() && !value.includes('\0') && value.isWellFormed(), {
          error: 'a value may not begin or end with a space'
        })
    )
    .min(1)
    .max(BOUNDS.valuesInList)
})
export type Enum = z.infer<typeof enumSchema>

export const LETTER_CASES = ['lower_snake', 'UPPER_SNAKE', 'lowerCamel', 'UpperCamel', 'as typed'] as const
const pattern = (least: string): z.ZodString =>
  z
    .string()
    .min(1)
    .max(80)
    .refine((text) => text.includes(least), { error: `must have ${least} in it` }) as z.ZodString

/**
 * The naming policy: what is proposed for what is new, and what constraints are called that nobody named
 * (core/relate/naming.ts fills the patterns in).
 */
export const policySchema = z.strictObject({
  letterCase: z.enum(LETTER_CASES),
  tables: z.enum(['singular', 'plural', 'as typed']),
  key: pattern('{table}'),
  reference: pattern('{column}'),
  junction: pattern('{first}'),
  primaryKey: pattern('{table}'),
  unique: pattern('{columns}'),
  foreignKey: pattern('{columns}'),
  check: pattern('{table}'),
  index: pattern('{columns}'),
  /** Whether a foreign key gets an index where no key or index begins with its columns. */
  indexForeignKeys: z.boolean()
})
export type Policy = z.infer<typeof policySchema>

export const FIRST_POLICY: Policy = {
  letterCase: 'lower_snake',
  tables: 'singular',
  key: '{table}_id',
  reference: '{column}',
  junction: '{first}_{second}',
  primaryKey: '{table}_pk',
  unique: '{table}_{columns}_uq',
  foreignKey: '{table}_{columns}_fk',
  check: '{table}_{columns}_ck',
  index: '{table}_{columns}_ix',
  indexForeignKeys: true
}

/** A column as new tables begin with it, or new junctions: when a row was made, by whom. */
export const standingColumnSchema = columnSchema.pick({
  name: true,
  type: true,
  required: true,
  default: true,
  renewed: true,
  note: true
})
export type StandingColumn = z.infer<typeof standingColumnSchema>

/** What every new table begins with, beside its key, and what every new junction, beside its sides. */
export const standingSchema = z.strictObject({
  tables: z.array(standingColumnSchema).max(20),
  junctions: z.array(standingColumnSchema).max(20),
  /** How large the number is that a table goes by. */
  key: z.enum(['normal', 'big'])
})
export type Standing = z.infer<typeof standingSchema>

export const NOTHING_STANDING: Standing = { tables: [], junctions: [], key: 'normal' }

/**
 * By what a reference is, as its shape says: a side of a pair; a part's whole; a list to choose from; what it may be
 * without; or what it needs.
 */
export const SHAPES = ['pair', 'part', 'list', 'optional', 'needed'] as const
export type Shape = (typeof SHAPES)[number]

/** What deletes do by the design's own policy, where that is not what is proposed: by shape, and by the table deleted from. */
export const usualSchema = z.strictObject({
  shapes: z.partialRecord(z.enum(SHAPES), actionSchema),
  tables: z.record(idSchema, actionSchema)
})
export type Usual = z.infer<typeof usualSchema>

/** The version of an engine, as its makers number it: `18`, `12.2`. */
export const versionOfEngine = z.string().regex(/^\d{1,4}(\.\d{1,3})?$/)

/** A finding that its designer has looked at and lets stand, by its rule and its place, and why. */
export const setAsideSchema = z.strictObject({
  rule: z.string().min(1).max(120),
  table: idSchema,
  column: idSchema.optional(),
  reason: z.string().trim().min(1).max(300)
})
export type SetAside = z.infer<typeof setAsideSchema>

/** Why a text is no place for a file in a tree: it would stand outside it, or not on every machine. */
export function placeFlaw(place: string): string | undefined {
  if (place.length > BOUNDS.place) return `it is longer than ${BOUNDS.place} characters`
  const parts = place.split('/')
  if (parts.some((part) => part === '' || part === '.' || part === '..'))
    return 'it is to be names with a / between them, such as src/data/rows.ts'
  const odd = /[\p{Cc}\\:*?"<>|]/u.exec(place)?.[0]
  if (odd !== undefined) return `${JSON.stringify(odd)} cannot stand in the name of a file everywhere`
  return parts.some((part) => /[. ]$/.test(part)) ? 'a name may not end with a dot or a space' : undefined
}
export const placeSchema = z.string().refine((place) => placeFlaw(place) === undefined, {
  error: 'is no place for a file'
})
export const outputNameSchema = z.string().regex(/^[a-z][a-z0-9-]{0,59}$/)
/** What is chosen of an output, by the name of the setting. */
const outputSettingsSchema = z.record(outputNameSchema, z.string().min(1).max(BOUNDS.place))

/** A template of a team's own, over the shape that applications are given. */
export const templateSchema = z.strictObject({
  name: z.string().regex(/^[a-z][a-z0-9-]{0,39}$/),
  text: z.string().max(BOUNDS.template)
})
export type Template = z.infer<typeof templateSchema>
/** The output that a template comes to. */
export const templateOutput = (name: string): string => `template-${name}`

export const designSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** The dialects that it is written for, by name; every one where none is named. */
  dialects: z
    .array(z.string().regex(/^[a-z]{1,20}$/))
    .max(20)
    .default(() => []),
  /** The oldest version of an engine that it is to run on, by the dialect's name; the usual one where none is said. */
  oldest: z.record(z.string().regex(/^[a-z]{1,20}$/), versionOfEngine).optional(),
  policy: policySchema.default(FIRST_POLICY),
  standing: standingSchema.optional(),
  usual: usualSchema.optional(),
  schemas: z
    .array(schemaSchema)
    .max(BOUNDS.schemas)
    .default(() => []),
  enums: z
    .array(enumSchema)
    .max(BOUNDS.lists)
    .default(() => []),
  tables: z.array(tableSchema).max(BOUNDS.tables),
  carries: z.array(carrySchema).max(BOUNDS.carries),
  setAside: z.array(setAsideSchema).max(BOUNDS.carries).optional(),
  figures: z.array(figureSchema).max(BOUNDS.rules).optional(),
  rulings: z.array(rulingSchema).max(BOUNDS.rules).optional(),
  subjects: z.array(subjectSchema).max(BOUNDS.subjects).optional(),
  views: z.array(viewSchema).max(BOUNDS.views).optional(),
  /** The outputs that an application is given, by name, and where each is written in its tree. */
  outputs: z.record(outputNameSchema, placeSchema).optional(),
  /** What is chosen of an output otherwise than as usual. */
  outputSettings: z.record(outputNameSchema, outputSettingsSchema).optional(),
  /** What tables and columns are called in code, by their ids, where it is otherwise than in the database. */
  codeNames: z.record(idSchema, nameSchema).optional(),
  templates: z.array(templateSchema).max(BOUNDS.templates).optional(),
  positions: z.record(idSchema, positionSchema)
})
export type Design = z.infer<typeof designSchema>

/** A saved state of the design. Versions are numbered from 1; only the last may become another state. */
export const versionSchema = z.strictObject({
  number: z.int().min(1),
  note: z.string().max(BOUNDS.note),
  savedAt: z.iso.datetime(),
  design: designSchema
})
export type Version = z.infer<typeof versionSchema>

export type TableId = string
export type ColumnId = string
export type KeyId = string

/**
 * A new id with the prefix (`t` table, `c` column, `k` key, `f` foreign key, `x` check, `i` index, `p` row
 * policy, `s` schema, `e` enumeration, `y` carry, `g` figure, `u` ruling, `b` subject, `v` view,
 * `d` design).
 */
export function newId(
  prefix: 't' | 'c' | 'k' | 'f' | 'x' | 'i' | 'p' | 's' | 'e' | 'y' | 'g' | 'u' | 'b' | 'v' | 'd'
): string {
  const bytes = crypto.getRandomValues(new Uint8Array(10))
  return `${prefix}_${[...bytes].map((byte) => (byte % 36).toString(36)).join('')}`
}

/** A design with nothing in it. */
export function emptyDesign(name: string, id = newId('d')): Design {
  return {
    id,
    name,
    dialects: [],
    policy: FIRST_POLICY,
    schemas: [],
    enums: [],
    tables: [],
    carries: [],
    positions: {}
  }
}

/** A table with nothing in it but its name. */
export function emptyTable(name: string, id = newId('t')): Table {
  return {
    id,
    name,
    columns: [],
    uniques: [],
    foreignKeys: [],
    checks: [],
    indexes: [],
    rowPolicies: [],
    rows: []
  }
}
