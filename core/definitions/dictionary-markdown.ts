import { dictionaryOf, sayDictionary, type DictionaryTable, type Relation } from './dictionary.ts'
import type { Design } from '../design/model.ts'

/** The data dictionary as Markdown (CommonMark, with tables as GFM has them). */
export function dictionaryToMarkdown(design: Design, version?: string): string {
  const dictionary = dictionaryOf(design)
  const lists = dictionary.lists.map(
    ({ name, values }) => `- **${plain(name)}**: ${values.map(plain).join(', ')}`
  )
  const index = dictionary.index.map(({ name, tables }) => `- ${code(name)}: ${tables.map(plain).join(', ')}`)
  return [
    `# ${plain(dictionary.name)}: data dictionary`,
    `${sayDictionary(dictionary)}.`,
    ...(version === undefined ? [] : [plain(`It is of ${version}.`)]),
    ...dictionary.tables.map(tableToMarkdown),
    ...(lists.length > 0 ? [['## Lists of values', '', ...lists].join('\n')] : []),
    ...(index.length > 0 ? [['## Columns', '', ...index].join('\n')] : []),
    ''
  ].join('\n\n')
}

function tableToMarkdown(table: DictionaryTable): string {
  const kind = table.kind === 'table' ? [] : [`*${table.kind}*`]
  const rows = table.columns.map(({ name, type, holds, given, refersTo, note }) =>
    [code(name), plain(type), holds, plain(given), plain(refersTo), plain(note)].join(' | ')
  )
  return [
    `## ${plain(table.name)}`,
    ...kind,
    ...(table.note === '' ? [] : [plain(table.note)]),
    ['column | type | holds | begins with | refers to | note', '--- | --- | --- | --- | --- | ---', ...rows]
      .map((row) => `| ${row} |`)
      .join('\n'),
    ...(table.rules.length > 0 ? [table.rules.map((rule) => `- ${plain(rule)}`).join('\n')] : []),
    ...related('Refers to', table.ones),
    ...related('Is referred to by', table.manys)
  ].join('\n\n')
}

const related = (head: string, relations: readonly Relation[]): string[] =>
  relations.length === 0
    ? []
    : [
        `**${head}**`,
        relations
          .map(({ table, sentences }) => `- **${plain(table)}**: ${plain(sentences.join(' '))}`)
          .join('\n')
      ]

/** A text of which nothing is taken for markup, on one line. */
const plain = (text: string): string =>
  text.replace(/\s+/g, ' ').replace(/[\\`*_{}[\]<>#|~!&]/g, (char) => `\\${char}`)

/** A name as code, between more grave accents than it holds. */
function code(name: string): string {
  const longest = Math.max(0, ...[...name.matchAll(/`+/g)].map(([run]) => run.length))
  const fence = '`'.repeat(longest + 1)
  const text = name.replaceAll('|', '\\|')
  return longest > 0 ? `${fence} ${text} ${fence}` : `${fence}${text}${fence}`
}
