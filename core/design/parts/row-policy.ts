import { z } from 'zod'
import { expressionSchema, idSchema } from '../ids.ts'
import { nameSchema } from '../name.ts'
import { ofSchema, part } from './part.ts'

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

/** Whether a policy may say besides what it finds which rows it leaves behind. */
export const mayWrite = ({ command }: Pick<RowPolicy, 'command'>): boolean =>
  command === 'ALL' || command === 'UPDATE'

export const rowPolicyPart = part<RowPolicy>()({
  name: 'rowPolicy',
  plural: 'row policies',
  prefix: 'p',
  heldBy: 'table',
  in: 'rowPolicies',
  as: 'list',
  schema: rowPolicySchema,
  isOfSchema: true,
  aspects: {
    name: ofSchema('value', 'name'),
    rows: ofSchema('value', 'command', 'role', 'condition', 'writes')
  }
})
