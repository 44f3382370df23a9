import { z } from 'zod'
import { BOUNDS } from '../../bounds.ts'
import { carrySchema } from '../carry.ts'
import { idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { figureSchema } from './figure.ts'
import { enumSchema } from './list.ts'
import { outputNameSchema, outputSettingsSchema, placeSchema } from './output.ts'
import { beside, ofSchema, part } from './part.ts'
import { FIRST_POLICY, policySchema } from './policy.ts'
import { positionSchema } from './position.ts'
import { rulingSchema } from './ruling.ts'
import { schemaSchema } from './schema.ts'
import { setAsideSchema } from './set-aside.ts'
import { standingSchema } from './standing.ts'
import { subjectSchema } from './subject.ts'
import { tableSchema } from './table.ts'
import { templateSchema } from './template.ts'
import { usualSchema } from './usual.ts'
import { viewSchema } from './view.ts'

/** The version of an engine, as its makers number it: `18`, `12.2`. */
export const versionOfEngine = z.string().regex(/^\d{1,4}(\.\d{1,3})?$/)

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

/**
 * What is of the design itself. Its lists and records hold parts of their own; where its tables stand comes and goes with
 * them (core/version/delta.ts).
 */
export const designPart = part<Design>()({
  name: 'design',
  plural: 'designs',
  prefix: 'd',
  heldBy: 'design',
  in: 'design',
  as: 'single',
  schema: designSchema,
  isOfSchema: false,
  aspects: {
    name: beside('value', 'name'),
    dialects: beside('set', 'dialects'),
    oldest: ofSchema('map', 'oldest'),
    policy: ofSchema('map', 'policy'),
    standing: beside('value', 'standing'),
    usual: beside('map', 'usual')
  }
})
