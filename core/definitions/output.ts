import type { Design } from '../design/model.ts'
import type { Shown } from '../diagram/drawing.ts'
import type { Theme } from '../diagram/paint.ts'
import type { SheetWords } from '../diagram/sheet.ts'
import type { CodeFile } from './made-by.ts'
import type { Setting } from './settings.ts'

/** Whom outputs are for: a database, people who read, an application, or this program again. */
export const OUTPUT_GROUPS = ['databases', 'people', 'applications', 'the design'] as const
export type OutputGroup = (typeof OUTPUT_GROUPS)[number]

/** What a design is given out as. */
export interface Output {
  name: string
  title: string
  file: string
  kind: 'sql' | 'svg' | 'page' | 'text' | 'code' | 'json'
  /** Whom it is for. */
  group: OutputGroup
  /** What can be chosen of it. */
  settings?: readonly Setting[]
  /** The files, where it comes as a folder of several; what is written then is all of them, one after the other. */
  files?(design: Design, options?: OutputOptions): CodeFile[]
  write(design: Design, options?: OutputOptions): string
}

/**
 * Where it is SQL. `rows`: with the design's own rows. `views`: the views of its figures, and nothing else. Where it is
 * a diagram, `picture`: what is drawn and how; `fonts`: the rules that bring its fonts along.
 */
export interface OutputOptions {
  rows?: boolean
  views?: boolean
  picture?: PictureOptions
  fonts?: string
  /** Which state of the design it is, in words, where it is code. */
  version?: string
}

/** What a diagram shows and how, and what is written over and under it. */
export interface PictureOptions {
  shown?: Shown
  words?: SheetWords
  theme?: Theme
}
