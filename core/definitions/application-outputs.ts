import { templateOutput, type Design, type Template } from '../design/model.ts'
import { PROVABLE, type Provable } from '../dialect/index.ts'
import type { Tongue } from './code-names.ts'
import { CSHARP_WORDS, toCsharp } from './csharp.ts'
import { toDataAccess } from './data-access.ts'
import { GRAPHQL, toGraphql } from './graphql.ts'
import { JAVA_WORDS, toJakarta } from './jakarta.ts'
import { toJsonSchema } from './json-schema.ts'
import type { CodeFile } from './made-by.ts'
import type { Output } from './output.ts'
import { PHP, PHP_WORDS, toPhp } from './php.ts'
import { toPython } from './python.ts'
import { SEQUELIZE, toSequelize } from './sequelize.ts'
import { chosen, DATABASE, inNames, KEYS, NAMES, packageOf, type Setting } from './settings.ts'
import { shapeOf } from './shape.ts'
import { writeTemplate, writeTemplateEach } from './template.ts'
import { toTypescript, type TypescriptStyle } from './typescript.ts'
import { DATA_ACCESS, TYPESCRIPT } from './typescript-names.ts'
import { toZod } from './zod.ts'

const styleOf = (design: Design, output: string, tongue: Tongue, version?: string): TypescriptStyle => ({
  version,
  tongue: inNames(tongue, chosen(design, output, NAMES)),
  keysApart: chosen(design, output, KEYS) === 'apart'
})

/** What all of these are. */
const CODE = { kind: 'code', group: 'applications' } as const

/** Code that comes as a folder of files. */
const folder = (
  name: string,
  title: string,
  file: string,
  settings: readonly Setting[],
  files: (design: Design, version?: string) => CodeFile[]
): Output => ({
  ...CODE,
  name,
  title,
  file,
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
  ...CODE,
  name,
  title,
  file,
  settings: [NAMES],
  write: (design, { version } = {}) => write(design, inNames(tongue, chosen(design, name, NAMES)), version)
})

const PHP_PACKAGE = packageOf('\\', 'App\\Data', PHP_WORDS)
const CSHARP_PACKAGE = packageOf('.', 'App.Data', CSHARP_WORDS)
const JAVA_PACKAGE = packageOf('.', 'app.data', JAVA_WORDS)

/** What applications are given, each written from the one shape of the design. */
export const APPLICATION_OUTPUTS: readonly Output[] = [
  {
    name: 'typescript',
    title: 'TypeScript',
    file: 'rows.ts',
    ...CODE,
    settings: [NAMES, KEYS],
    write: (design, { version } = {}) =>
      toTypescript(design, styleOf(design, 'typescript', TYPESCRIPT, version))
  },
  {
    name: 'data-access',
    title: 'TypeScript with data access',
    file: 'data-access.ts',
    ...CODE,
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
    ...CODE,
    write: (design, { version } = {}) => toPython(design, undefined, version)
  },
  {
    name: 'csharp',
    title: 'C#',
    file: 'Rows.cs',
    ...CODE,
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
  )
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
export function fromTemplate(design: Design, template: Template): Output {
  const name = templateOutput(template.name)
  const tongue = inNames(TYPESCRIPT, chosen(design, name, NAMES))
  const own = { ...CODE, name, title: template.name }
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
