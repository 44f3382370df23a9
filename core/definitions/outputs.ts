import { writeDesignFile } from '../design/file.ts'
import type { Design } from '../design/model.ts'
import { DIALECTS, isDialect } from '../dialect/index.ts'
import { script, type Dialect } from '../dialect/dialect.ts'
import { ALL_SHOWN, sceneOf } from '../diagram/drawing.ts'
import { sceneToSvg } from '../diagram/svg.ts'
import { APPLICATION_OUTPUTS, fromTemplate } from './application-outputs.ts'
import { writeSql } from './create-script.ts'
import { dictionaryToCsv } from './dictionary-csv.ts'
import { dictionaryToMarkdown } from './dictionary-markdown.ts'
import { writeViews } from './figure-views.ts'
import { writeLabelViews } from './label-views.ts'
import type { Output } from './output.ts'
import { writePage } from './page.ts'
import { chosen, DIALECT } from './settings.ts'

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
    group: 'databases',
    write: (design, options) =>
      options?.views ? writeViews(design, dialect, options.version) : writeSql(design, dialect, options)
  })),
  {
    name: 'label-views',
    title: 'Junctions by labels',
    file: 'junctions.sql',
    kind: 'sql',
    group: 'databases',
    settings: [DIALECT],
    write: (design, { version } = {}) => {
      const name = chosen(design, 'label-views', DIALECT)
      return writeLabelViews(design, DIALECTS[isDialect(name) ? name : 'postgresql'], version)
    }
  },
  {
    name: 'svg',
    title: 'Diagram (SVG)',
    file: 'diagram.svg',
    kind: 'svg',
    group: 'people',
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
    group: 'people',
    write: (design, { fonts = '' } = {}) =>
      writePage(design, sceneToSvg(sceneOf(design, ALL_SHOWN), { title: design.name }), fonts)
  },
  {
    name: 'dictionary',
    title: 'Dictionary (Markdown)',
    file: 'dictionary.md',
    kind: 'text',
    group: 'people',
    write: (design, { version } = {}) => dictionaryToMarkdown(design, version)
  },
  {
    name: 'columns',
    title: 'Columns (CSV)',
    file: 'columns.csv',
    kind: 'text',
    group: 'people',
    write: dictionaryToCsv
  },
  ...APPLICATION_OUTPUTS,
  {
    name: 'design',
    title: 'Design file',
    file: 'design.json',
    kind: 'json',
    group: 'the design',
    write: (design) => writeDesignFile(design)
  }
]

/** Every output of a design, with those of its own templates. */
export const outputsOf = (design: Design): readonly Output[] => [
  ...OUTPUTS,
  ...(design.templates ?? []).map((template) => fromTemplate(design, template))
]
