import type { EngineRefusal } from '../dialect.ts'

const KINDS: [RegExp, EngineRefusal['kind']][] = [
  [/FOREIGN KEY constraint failed/, 'reference'],
  [/UNIQUE constraint failed/, 'key'],
  [/NOT NULL constraint failed/, 'required'],
  [/CHECK constraint failed/, 'check'],
  [/too many levels of trigger recursion|SQLITE_CONSTRAINT/, 'other']
]

/** SQLite names no reference in what it says (SQLite, "Result and Error Codes", SQLITE_CONSTRAINT). */
export function refusal(error: unknown): EngineRefusal | undefined {
  const said = error instanceof Error ? error.message : String(error)
  const kind = KINDS.find(([pattern]) => pattern.test(said))?.[1]
  return kind && { kind }
}
