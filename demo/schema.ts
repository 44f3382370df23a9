import { writeFileSync } from 'node:fs'
import { z } from 'zod'
import { dialectPage } from '../core/definitions/dialects.ts'
import { designFileSchema } from '../core/design/file.ts'

/**
 * Writes the JSON Schema of a design file and the page of dialects into docs/; tests hold them to the
 * program.
 */
writeFileSync(
  new URL('../docs/design-file.schema.json', import.meta.url),
  `${JSON.stringify(z.toJSONSchema(designFileSchema, { io: 'input' }), null, 2)}\n`
)
writeFileSync(new URL('../docs/dialects.md', import.meta.url), dialectPage())
