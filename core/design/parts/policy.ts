import { z } from 'zod'

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
