import { writeFileSync } from 'node:fs'
import { z } from 'zod'
import { designFileSchema } from '../core/design/file.ts'

/** Writes the JSON Schema of a design file into docs/; a test holds it to the program. */
writeFileSync(new URL('../docs/design-file.schema.json', import.meta.url), `${JSON.stringify(z.toJSONSchema(designFileSchema, { io: 'input' }), null, 2)}\n`)
