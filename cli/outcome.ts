/** A command that could not be done: said in one line, exit status 2. */
export class CannotDo extends Error {}

/** What a command comes to: 0 done and good, 1 done and something was found. */
export interface Outcome {
  status: 0 | 1
  /** For --json, on standard output. */
  json: unknown
  /** For people, on standard error. */
  words: string[]
}
