import { writeFileSync } from 'node:fs'
import { z } from 'zod'
import { shapeSchema } from '../core/definitions/shape.ts'
import { dialectPage } from '../core/definitions/dialects.ts'
import { designFileJsonSchema } from '../core/design/file.ts'

/**
 * Writes the JSON Schemas of a design file and of a design's shape, and the page of dialects, into docs/; tests hold them to the
 * program.
 */
writeFileSync(
  new URL('../docs/design-file.schema.json', import.meta.url),
  `${JSON.stringify(designFileJsonSchema(), null, 2)}\n`
)
writeFileSync(
  new URL('../docs/shape.schema.json', import.meta.url),
  `${JSON.stringify(z.toJSONSchema(shapeSchema), null, 2)}\n`
)
writeFileSync(new URL('../docs/dialects.md', import.meta.url), dialectPage())
