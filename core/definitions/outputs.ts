import { writeDesignFile } from '../design/file.ts'
import { templateOutput, type Design, type Template } from '../design/model.ts'
import { DIALECTS, isDialect, PROVABLE, type Provable } from '../dialect/index.ts'
import { script, type Dialect } from '../dialect/dialect.ts'
import { writeSql } from './create-script.ts'
import { writeViews } from './figure-views.ts'
import { dictionaryToCsv } from './dictionary-csv.ts'
import { dictionaryToMarkdown } from './dictionary-markdown.ts'
import { writePage } from './page.ts'
import type { Tongue } from './code-names.ts'
import { CSHARP_WORDS, toCsharp } from './csharp.ts'
import { toDataAccess } from './data-access.ts'
import { GRAPHQL, toGraphql } from './graphql.ts'
import { JAVA_WORDS, toJakarta } from './jakarta.ts'
import { toJsonSchema } from './json-schema.ts'
import type { CodeFile } from './made-by.ts'
import { PHP, PHP_WORDS, toPhp } from './php.ts'
import { toPython } from './python.ts'
import { SEQUELIZE, toSequelize } from './sequelize.ts'
import { shapeOf } from './shape.ts'
import { writeLabelViews } from './label-views.ts'
import { chosen, DATABASE, DIALECT, inNames, KEYS, NAMES, packageOf, type Setting } from './settings.ts'
import { writeTemplate, writeTemplateEach } from './template.ts'
import { toTypescript, type TypescriptStyle } from './typescript.ts'
import { DATA_ACCESS, TYPESCRIPT } from './typescript-names.ts'
import { toZod } from './zod.ts'
import { ALL_SHOWN, sceneOf, type Shown } from '../diagram/drawing.ts'
import type { Theme } from '../diagram/paint.ts'
import type { SheetWords } from '../diagram/sheet.ts'
import { sceneToSvg } from '../diagram/svg.ts'

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

const styleOf = (design: Design, output: string, tongue: Tongue, version?: string): TypescriptStyle => ({
  version,
  tongue: inNames(tongue, chosen(design, output, NAMES)),
  keysApart: chosen(design, output, KEYS) === 'apart'
})

/** Code that comes as a folder of files. */
const folder = (
  name: string,
  title: string,
  file: string,
  settings: readonly Setting[],
  files: (design: Design, version?: string) => CodeFile[]
): Output => ({
  name,
  title,
  file,
  kind: 'code',
  group: 'applications',
  settings,
  files: (design, { version } = {}) => files(design, version),
  write: (design, { version } = {}) =>
    files(design, version)
      .map(({ path, text }) => `${path}:\n\n${text}`)
      .join('\n\n')
})

/** Code in which nothing but the names can be chosen. */
const coded = (
  name: string,
  title: string,
  file: string,
  tongue: Tongue,
  write: (design: Design, tongue: Tongue, version?: string) => string
): Output => ({
  name,
  title,
  file,
  kind: 'code',
  group: 'applications',
  settings: [NAMES],
  write: (design, { version } = {}) => write(design, inNames(tongue, chosen(design, name, NAMES)), version)
})

const PHP_PACKAGE = packageOf('\\', 'App\\Data', PHP_WORDS)
const CSHARP_PACKAGE = packageOf('.', 'App.Data', CSHARP_WORDS)
const JAVA_PACKAGE = packageOf('.', 'app.data', JAVA_WORDS)

/** Every output, by the name that the command line knows it by. */
export const OUTPUTS: readonly Output[] = [
  ...Object.values(DIALECTS).map((dialect): Output => ({
    name: dialect.name,
    title: dialect.title,
    file: `${dialect.name}.sql`,
    kind: 'sql',
    group: 'databases',
    write: (design, options) =>
      options?.views ? writeViews(design, dialect) : writeSql(design, dialect, options)
  })),
  {
    name: 'label-views',
    title: 'Junctions by labels',
    file: 'junctions.sql',
    kind: 'sql',
    group: 'databases',
    settings: [DIALECT],
    write: (design) => {
      const name = chosen(design, 'label-views', DIALECT)
      return writeLabelViews(design, DIALECTS[isDialect(name) ? name : 'postgresql'])
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
    write: dictionaryToMarkdown
  },
  {
    name: 'columns',
    title: 'Columns (CSV)',
    file: 'columns.csv',
    kind: 'text',
    group: 'people',
    write: dictionaryToCsv
  },
  {
    name: 'typescript',
    title: 'TypeScript',
    file: 'rows.ts',
    kind: 'code',
    group: 'applications',
    settings: [NAMES, KEYS],
    write: (design, { version } = {}) =>
      toTypescript(design, styleOf(design, 'typescript', TYPESCRIPT, version))
  },
  {
    name: 'data-access',
    title: 'TypeScript with data access',
    file: 'data-access.ts',
    kind: 'code',
    group: 'applications',
    settings: [DATABASE, NAMES, KEYS],
    write: (design, { version } = {}) => {
      const name = chosen(design, 'data-access', DATABASE)
      const dialect = PROVABLE.find((each) => each.name === name) as Provable
      return toDataAccess(design, dialect, styleOf(design, 'data-access', DATA_ACCESS, version))
    }
  },
  coded('zod', 'Zod', 'schemas.ts', TYPESCRIPT, toZod),
  coded('sequelize', 'Sequelize', 'models.js', SEQUELIZE, toSequelize),
  coded('json-schema', 'JSON Schema', 'rows.schema.json', TYPESCRIPT, toJsonSchema),
  coded('graphql', 'GraphQL', 'schema.graphql', GRAPHQL, toGraphql),
  folder('php', 'PHP', 'src/Data', [PHP_PACKAGE, NAMES], (design, version) =>
    toPhp(design, chosen(design, 'php', PHP_PACKAGE), inNames(PHP, chosen(design, 'php', NAMES)), version)
  ),
  {
    name: 'python',
    title: 'Python',
    file: 'rows.py',
    kind: 'code',
    group: 'applications',
    write: (design, { version } = {}) => toPython(design, undefined, version)
  },
  {
    name: 'csharp',
    title: 'C#',
    file: 'Rows.cs',
    kind: 'code',
    group: 'applications',
    settings: [CSHARP_PACKAGE],
    write: (design, { version } = {}) => toCsharp(design, chosen(design, 'csharp', CSHARP_PACKAGE), version)
  },
  folder('jakarta', 'Jakarta Persistence', 'src/main/java/app/data', [JAVA_PACKAGE], (design, version) =>
    toJakarta(design, chosen(design, 'jakarta', JAVA_PACKAGE), version)
  ),
  coded(
    'shape',
    'Shape (JSON)',
    'shape.json',
    TYPESCRIPT,
    (design, tongue, version) => `${JSON.stringify(shapeOf(design, tongue, version), null, 2)}\n`
  ),
  {
    name: 'design',
    title: 'Design file',
    file: 'design.json',
    kind: 'json',
    group: 'the design',
    write: (design) => writeDesignFile(design)
  }
]

/** Whether a template comes to one file, or to one for each table, and what such a file is called. */
const FILES: Setting = {
  name: 'files',
  title: 'as',
  usual: () => 'one',
  choices: [
    { value: 'one', title: 'one file' },
    { value: 'each', title: 'a file for each table' }
  ]
}
const FILE_NAME: Setting = {
  name: 'file',
  title: 'each called',
  usual: () => '{{ entity.type }}.txt',
  flaw: (text) =>
    text.includes('{{') ? undefined : 'it is to say {{ entity.type }}, so that no two are the same'
}

/** The output that a template of a team's own comes to. */
function fromTemplate(design: Design, template: Template): Output {
  const name = templateOutput(template.name)
  const tongue = inNames(TYPESCRIPT, chosen(design, name, NAMES))
  const own = { name, title: template.name, kind: 'code' as const, group: 'applications' as const }
  if (chosen(design, name, FILES) === 'one')
    return {
      ...own,
      file: `${template.name}.txt`,
      settings: [FILES, NAMES],
      write: (of, { version } = {}) => writeTemplate(of, template, tongue, version)
    }
  const files = (of: Design, version?: string): CodeFile[] =>
    writeTemplateEach(of, template, chosen(of, name, FILE_NAME), tongue, version)
  return { ...folder(name, template.name, template.name, [FILES, FILE_NAME, NAMES], files), ...own }
}

/** Every output of a design, with those of its own templates. */
export const outputsOf = (design: Design): readonly Output[] => [
  ...OUTPUTS,
  ...(design.templates ?? []).map((template) => fromTemplate(design, template))
]
