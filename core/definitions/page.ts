import { sha256 } from '@noble/hashes/sha2.js'
import { utf8ToBytes } from '@noble/hashes/utils.js'
import type { Design } from '../design/model.ts'
import { escapeMarkup } from '../diagram/svg.ts'
import { dictionaryOf, sayDictionary, type DictionaryTable, type Relation } from './dictionary.ts'
import { PAGE_SCRIPT } from './page-script.ts'

/** What runs in the page, and nothing else: known by its hash (Content Security Policy Level 3, 2.3.1). */
const SCRIPT = `\n${PAGE_SCRIPT}\n`
const SCRIPT_HASH = btoa(String.fromCharCode(...sha256(utf8ToBytes(SCRIPT))))

/**
 * A page that stands alone, for people without this program: the diagram to move about in, and the data dictionary
 * beside it to search. It asks nothing of any other address.
 * @param svg the diagram, with its fonts; each table's group carries its id as `data-table`.
 * @param fonts the rules that bring the fonts along.
 */
export function writePage(design: Design, svg: string, fonts: string): string {
  const dictionary = dictionaryOf(design)
  const title = escapeMarkup(design.name)
  const lists = dictionary.lists.map(
    ({ name, values }) => `<dt>${mono(name)}</dt><dd>${values.map(escapeMarkup).join(', ')}</dd>`
  )
  const index = dictionary.index.map(
    ({ name, tables }) => `<dt>${mono(name)}</dt><dd>${tables.map(escapeMarkup).join(', ')}</dd>`
  )
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; script-src 'sha256-${SCRIPT_HASH}'; font-src data:; img-src data:">
<title>${title}</title>
<style>
${fonts}
${STYLE}
</style>
</head>
<body>
<header><h1>${title}</h1><p>${sayDictionary(dictionary)}</p>
<label>Find <input type="search" placeholder="a table or a column…" autocomplete="off"></label>
<button type="button" id="all">Show all</button></header>
<main>
<div id="picture" tabindex="0" role="region" aria-label="Diagram: drag to move, turn the wheel to come nearer">${svg}</div>
<div id="book" tabindex="0" role="region" aria-label="Data dictionary">
${dictionary.tables.map(tableToPage).join('\n')}
${lists.length > 0 ? `<section><h2>Lists of values</h2><dl>${lists.join('')}</dl></section>` : ''}
<section><h2>Columns</h2><dl>${index.join('')}</dl></section>
</div>
</main>
<script>${SCRIPT}</script>
</body>
</html>
`
}

function tableToPage({ id, name, kind, note, columns, rules, ones, manys }: DictionaryTable): string {
  const rows = columns.map(
    (column) =>
      `<tr><th scope="row">${mono(column.name)}</th><td>${escapeMarkup(column.type)}</td><td>${column.holds}</td><td>${escapeMarkup(column.given)}</td><td>${escapeMarkup(column.refersTo)}</td><td>${escapeMarkup(column.note)}</td></tr>`
  )
  const words = [name, note, ...columns.flatMap((column) => [column.name, column.note])]
    .join(' ')
    .toLowerCase()
  return `<section data-of="${escapeMarkup(id)}" data-words="${escapeMarkup(words)}"><h2>${escapeMarkup(name)}${kind === 'table' ? '' : ` <small>${kind}</small>`}</h2>
${note === '' ? '' : `<p>${escapeMarkup(note)}</p>`}
<table><thead><tr><th>column</th><th>type</th><th></th><th>begins with</th><th>refers to</th><th>note</th></tr></thead><tbody>
${rows.join('\n')}
</tbody></table>
${rules.length > 0 ? `<ul>${rules.map((rule) => `<li>${escapeMarkup(rule)}</li>`).join('')}</ul>` : ''}
${related('refers to', ones)}${related('is referred to by', manys)}</section>`
}

const mono = (text: string): string => `<code>${escapeMarkup(text)}</code>`

const related = (head: string, relations: readonly Relation[]): string =>
  relations.length === 0
    ? ''
    : `<h3>${head}</h3><ul>${relations
        .map(
          ({ table, sentences }) =>
            `<li><strong>${escapeMarkup(table)}</strong>: ${escapeMarkup(sentences.join(' '))}</li>`
        )
        .join('')}</ul>`

const STYLE = `
body { margin: 0; height: 100vh; display: grid; grid-template-rows: auto minmax(0, 1fr); color: #14211d; background: #edf1ef; font: 14px/1.45 'Atkinson Hyperlegible Next', system-ui, sans-serif; }
header { display: flex; align-items: baseline; gap: 18px; padding: 10px 18px; background: #fff; border-bottom: 1px solid #c5d0cb; }
h1 { font-size: 16px; margin: 0; }
header p { margin: 0; color: #55655f; }
header label { margin-left: auto; }
input, button { font: inherit; padding: 3px 8px; border: 1px solid #9aaba4; background: #fff; color: inherit; }
main { display: grid; grid-template-columns: minmax(0, 3fr) minmax(320px, 2fr); min-height: 0; }
#picture { overflow: hidden; cursor: grab; touch-action: none; }
#picture svg { transform-origin: 0 0; display: block; user-select: none; }
#picture [data-table] { cursor: pointer; }
#picture .found > path:first-child { stroke: #8a5a00; stroke-width: 4; }
#book { overflow: auto; background: #fff; border-left: 1px solid #c5d0cb; padding: 0 18px 40vh; }
section { padding: 14px 0; border-bottom: 1px solid #dde5e1; }
section.here { box-shadow: -18px 0 0 #fff, -21px 0 0 #8a5a00; }
h2 { font-size: 15px; margin: 0; }
h3 { font-size: 12px; margin: 8px 0 0; color: #55655f; }
small { font-weight: 400; color: #55655f; }
p, ul { margin: 4px 0; }
ul { padding-left: 18px; }
table { border-collapse: collapse; width: 100%; font-size: 12.5px; margin: 6px 0; }
th, td { text-align: left; vertical-align: top; padding: 2px 8px 2px 0; border-bottom: 1px solid #edf1ef; overflow-wrap: anywhere; font-weight: 400; }
thead th { color: #55655f; }
code { font-family: 'Atkinson Hyperlegible Mono', ui-monospace, monospace; }
dt { float: left; clear: left; margin-right: 10px; }
dd { margin: 0 0 2px; color: #55655f; }
:focus-visible { outline: 2px solid #8a5a00; outline-offset: -2px; }
@media print { body { display: block; height: auto; } header label, header button { display: none; } main { display: block; } #picture svg { width: 100%; height: auto; transform: none !important; } #book { border: 0; } }
`.trim()
