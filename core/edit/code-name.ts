import { idSchema } from '../design/ids.ts'
import { nameSchema } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { sorted } from './handler.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'
import { Refused } from './refusal.ts'

/** What tables and columns are called in code. */

const KINDS = [
  /** Null: as in the database. */
  kind('code.setName', { of: idSchema, name: nameSchema.nullable() }, ({ name }) =>
    name === null ? 'call something in code as in the database' : `call something ${shorten(name)} in code`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

/** What is not there, and what is of no table or column, is called nothing. */
const setCodeName: Handler<'code.setName'> = (design, { of, name }) => {
  const isThere = design.tables.some(({ id, columns }) => id === of || columns.some((each) => each.id === of))
  if (!isThere && name !== null)
    throw new Refused('missing', 'There is no table or column of that kind any more.')
  const { codeNames = {}, ...bare } = design
  const { [of]: before, ...others } = codeNames
  const now = name === null ? others : sorted({ ...others, [of]: name })
  return {
    design: Object.keys(now).length === 0 ? bare : { ...bare, codeNames: now },
    inverse: { kind: 'code.setName', of, name: before ?? null },
    touched: []
  }
}

export const CODE_NAME = noun(KINDS, { 'code.setName': setCodeName })
