import type { EngineRefusal } from '../dialect.ts'

/** Numbers of errors (MariaDB, "MariaDB Error Codes"). */
const KINDS: Record<number, EngineRefusal['kind']> = {
  1048: 'required',
  1062: 'key',
  1216: 'reference',
  1217: 'reference',
  1364: 'required',
  1451: 'reference',
  1452: 'reference',
  1761: 'key',
  1762: 'key',
  4025: 'check'
}
/** InnoDB gives up after so many steps of an action (ER_GET_ERRMSG with its own number 193). */
const TOO_DEEP = 1296

export function refusal(error: unknown): EngineRefusal | undefined {
  const { errno = 0, message = '' } = error as { errno?: number; message?: string }
  const kind = KINDS[errno] ?? (errno === TOO_DEEP ? 'other' : undefined)
  const name = /CONSTRAINT `((?:[^`]|``)+)`/.exec(message)?.[1]?.replaceAll('``', '`')
  return kind && { kind, ...(name !== undefined && { name }) }
}
