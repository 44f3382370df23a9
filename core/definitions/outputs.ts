import { writeDesignFile } from '../design/file.ts'
import type { Design } from '../design/model.ts'
import { DIALECTS } from '../dialect/index.ts'
import { script, type Dialect } from '../dialect/dialect.ts'
import { writeSql } from './create-script.ts'
import { writeViews } from './figure-views.ts'
import { dictionaryToCsv } from './dictionary-csv.ts'
import { dictionaryToMarkdown } from './dictionary-markdown.ts'
import { writePage } from './page.ts'
import { ALL_SHOWN, sceneOf, type Shown } from '../diagram/drawing.ts'
import type { Theme } from '../diagram/paint.ts'
import type { SheetWords } from '../diagram/sheet.ts'
import { sceneToSvg } from '../diagram/svg.ts'

/** What a design is given out as. */
export interface Output {
  name: string
  title: string
  file: string
  kind: 'sql' | 'svg' | 'page' | 'text' | 'json'
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
}

/** What a diagram shows and how, and what is written over and under it. */
export interface PictureOptions {
  shown?: Shown
  words?: SheetWords
  theme?: Theme
}

/** What one table comes to in a dialect: its own statements, as they stand among those of the design. */
export function tableSql(design: Design, table: string, anyVersion: Dialect): string {
  const dialect = anyVersion.for(design)
  const { catalog } = dialect.catalog(design)
  const own = catalog.tables.find((each) => each.id === table)
  if (!own || own.external) return ''
  // To the writer what it refers to is there already, so that references stand inside the table.
  const parents = new Set(own.foreignKeys.map((key) => key.table))
  const lists = catalog.enums.filter((list) => own.columns.some((column) => column.type.list === list.id))
  const tables = catalog.tables
    .filter((each) => each === own || parents.has(each.id))
    .map((each) => (each === own ? own : { ...each, external: true }))
  return script(dialect.create({ schemas: [], enums: lists, tables }))
}

/** Every output, by the name that the command line knows it by. */
export const OUTPUTS: readonly Output[] = [
  ...Object.values(DIALECTS).map((dialect): Output => ({
    name: dialect.name,
    title: dialect.title,
    file: `${dialect.name}.sql`,
    kind: 'sql',
    write: (design, options) =>
      options?.views ? writeViews(design, dialect) : writeSql(design, dialect, options)
  })),
  {
    name: 'svg',
    title: 'Diagram (SVG)',
    file: 'diagram.svg',
    kind: 'svg',
    write: (design, { picture = {}, fonts } = {}) => {
      const { shown = ALL_SHOWN, words, theme } = picture
      const how = { theme, ends: shown.look.ends }
      return sceneToSvg(sceneOf(design, shown), words ?? { title: design.name, framed: true }, how, fonts)
    }
  },
  {
    name: 'page',
    title: 'Page (HTML)',
    file: 'design.html',
    kind: 'page',
    write: (design, { fonts = '' } = {}) =>
      writePage(design, sceneToSvg(sceneOf(design, ALL_SHOWN), { title: design.name }), fonts)
  },
  {
    name: 'dictionary',
    title: 'Dictionary (Markdown)',
    file: 'dictionary.md',
    kind: 'text',
    write: dictionaryToMarkdown
  },
  {
    name: 'columns',
    title: 'Columns (CSV)',
    file: 'columns.csv',
    kind: 'text',
    write: dictionaryToCsv
  },
  {
    name: 'design',
    title: 'Design file',
    file: 'design.json',
    kind: 'json',
    write: (design) => writeDesignFile(design)
  }
]
