/** What is written of a store: all of it as a backup, which is read back; or one design with its versions. */
export type Written = { kind: 'backup' } | { kind: 'file'; design: string }

/** What is read whole: a design file, or a backup of the first form. */
export type Whole = 'file' | 'backup'

/**
 * Something of a store that could not be backed up as it is: what, why, and whether what of it is sound
 * was.
 */
export interface NotWhole {
  name: string
  why: string
  soundPart: boolean
}

/** What a process of its own is asked for. */
export type ToHelper =
  /** To write what there is in a folder with designs. */
  | { kind: 'write'; folder: string; written: Written; to: string }
  /** To write what a file from outside holds as a backup, line by line. */
  | { kind: 'lines'; what: Whole; from: string; to: string }
  /** Some of the changes between two states, each a text of JSON. */
  | { kind: 'some'; from: string; to: string; only: readonly string[] }

/**
 * `notWhole`: the designs of which not all was written; `design`: the state, as a text of JSON. Both are nothing where
 * there was not what was asked for.
 */
export type FromHelper =
  | { kind: 'done'; notWhole?: NotWhole[] | undefined; design?: string | undefined }
  /** What is damaged, or cannot be taken, in words; or what nobody foresaw. */
  | { kind: 'damaged' | 'refused' | 'broken'; message: string }
