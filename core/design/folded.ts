import { z } from 'zod'
import { changesSchema } from './changes.ts'
import { versionSchema } from './model.ts'

/** A version as what is otherwise in it than in the one before. */
const laterVersionSchema = versionSchema.omit({ design: true }).extend({ since: changesSchema })

export const foldedVersionSchema = z.union([versionSchema, laterVersionSchema])
export type FoldedVersion = z.infer<typeof foldedVersionSchema>
