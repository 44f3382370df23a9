/** Why something could not be kept, in words for a person; nothing of it was done. */
export class NotKept extends Error {
  override readonly name = 'NotKept'
}

/** A design that is here and cannot be read whole. */
export class Damaged extends Error {
  override readonly name = 'Damaged'
}

/** A backup or a design file that cannot be taken; nothing of it was. */
export class CannotTake extends Error {
  override readonly name = 'CannotTake'
}

/** The store is being closed: what comes now is for the next program. */
export class Closing extends Error {
  override readonly name = 'Closing'
  constructor() {
    super('The server is being stopped. What you change is kept in your browser and sent when it is back.')
  }
}

/** SQLite's result codes (“Result and Error Codes”) that a person can do something about. */
const REASONS: [code: RegExp, message: string][] = [
  [/SQLITE_FULL|ENOSPC/, 'The disk is full. Make room; what you change waits in your browser until then.'],
  [
    /SQLITE_READONLY|EROFS|EACCES|EPERM/,
    'The folder with the designs cannot be written to. Give this program leave to write there.'
  ],
  [
    /SQLITE_CORRUPT|SQLITE_NOTADB/,
    'The database of the designs is damaged, so nothing more is written to it. Make a backup from the shelf, and restore it into another folder.'
  ],
  [
    /SQLITE_IOERR|EIO/,
    'The disk reports an error. Look after it before going on; what you change waits in your browser until then.'
  ],
  [
    /SQLITE_BUSY|SQLITE_LOCKED/,
    'Another program holds the database of the designs. Close it; what you change waits in your browser until then.'
  ]
]

/** What went wrong when something was written, for a person. What nobody foresaw is handed on as it is. */
export function inWords(error: unknown): Error {
  const code =
    error instanceof Error ? `${error.message} ${(error as { code?: string }).code ?? ''}` : String(error)
  const found = REASONS.find(([pattern]) => pattern.test(code))
  return found ? new NotKept(found[1], { cause: error }) : error instanceof Error ? error : new Error(code)
}
