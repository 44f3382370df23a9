import { BOX, clip, rowTexts } from './box.ts'
import { keyShape, MARK, markColour, markPath, type Mark } from './mark.ts'
import {
  endMarks,
  linePath,
  outline,
  stubMarkAt,
  type End,
  type Scene,
  type SceneLine,
  type SceneStub,
  type SceneTable
} from './scene.ts'
import { STUB } from './stub.ts'

/** Ink and paper of the exported picture: the product's light tokens. */
const INK = '#14211D'
const QUIET = '#55655F'
const PAPER = '#FFFFFF'
const GROUND = '#EDF1EF'
const WIRE = '#3C4D47'

const SANS = "'Atkinson Hyperlegible Next', 'Segoe UI', system-ui, sans-serif"
const MONO = "'Atkinson Hyperlegible Mono', ui-monospace, 'DejaVu Sans Mono', monospace"

/**
 * The scene as an SVG document, with the title as its accessible name. Equal scenes give equal bytes.
 * @param fonts the rules that bring its fonts along; without them it has to do with what is there.
 */
export function sceneToSvg({ tables, lines, stubs, bounds }: Scene, title: string, fonts = ''): string {
  const { x, y } = bounds
  const [width, height] = [Math.max(bounds.width, 1), Math.max(bounds.height, 1)]
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${x} ${y} ${width} ${height}" width="${width}" height="${height}" role="img">`,
    `<title>${escapeMarkup(title)}</title>`,
    ...(fonts === '' ? [] : [`<style>${fonts}</style>`]),
    `<rect x="${x}" y="${y}" width="${width}" height="${height}" fill="${GROUND}"/>`,
    ...lines.map(lineToSvg),
    ...stubs.map(stubToSvg),
    ...tables.map(tableToSvg),
    '</svg>',
    ''
  ].join('\n')
}

const wire = (path: string, isDashed = false): string =>
  `<path d="${path}" fill="none" stroke="${WIRE}" stroke-width="1.3"${isDashed ? ' stroke-dasharray="6 4"' : ''}/>`

function lineToSvg({ points, identifying, ends }: SceneLine): string {
  return `<g>${wire(linePath(points), !identifying)}${ends.map(endToSvg).join('')}</g>`
}

function endToSvg(end: End): string {
  const { path, circle } = endMarks(end)
  const ring = circle
    ? `<circle cx="${circle[0]}" cy="${circle[1]}" r="3.5" fill="${GROUND}" stroke="${WIRE}" stroke-width="1.3"/>`
    : ''
  return wire(path) + ring
}

function stubToSvg(stub: SceneStub): string {
  const { end, mark, identifying } = stub
  const way = wire(`M${end.at[0]} ${end.at[1]}h${-STUB.line}`, !identifying)
  return `<g>${way}${endToSvg(end)}${markToSvg(mark, ...stubMarkAt(stub))}</g>`
}

function tableToSvg(table: SceneTable): string {
  const { x, y, width } = table
  const marks = table.marks.map((mark, at) => markToSvg(mark, x + BOX.pad + at * (MARK.width + 4), y + 10))
  const nameX = x + BOX.pad + table.marks.length * (MARK.width + 4) + 4
  const rows = table.rows.map((row) => {
    const middle = y + row.middle
    const mark = row.mark ? markToSvg(row.mark, x + BOX.pad, middle - 5) : ''
    const { name, type } = rowTexts(row, width)
    return (
      `${mark}<text x="${x + BOX.pad + BOX.markColumn}" y="${middle + 4}" font-family="${MONO}" font-size="12.5" fill="${INK}"${row.required ? '' : ' font-style="italic"'}>${escapeMarkup(name)}</text>` +
      `<text x="${x + width - BOX.pad}" y="${middle + 4}" font-family="${MONO}" font-size="12" fill="${QUIET}" text-anchor="end">${escapeMarkup(type)}</text>`
    )
  })
  return (
    `<g data-table="${escapeMarkup(table.id)}"><path d="${outline(table, BOX.cut)}" fill="${PAPER}" stroke="${INK}" stroke-width="${table.external ? '1.5" stroke-dasharray="1.5 2.5' : '1'}"/>` +
    `${marks.join('')}<text x="${nameX}" y="${y + 20}" font-family="${SANS}" font-size="14" font-weight="700" fill="${INK}">${escapeMarkup(clip(table.name, width - (nameX - x) - BOX.pad, 14))}</text>` +
    `${table.rule > BOX.head ? `<path d="M${x} ${y + table.rule}H${x + width}" stroke="${INK}" stroke-width="1"/>` : ''}${rows.join('')}</g>`
  )
}

function markToSvg(mark: Mark, x: number, y: number): string {
  const shape = keyShape(mark.key)
  const colour = markColour(shape)
  const filled = mark.style === 'own' || mark.style === 'both'
  return (
    `<g transform="translate(${x} ${y})"><path d="${markPath(shape)}" fill="${filled ? colour : PAPER}" stroke="${colour}" stroke-width="1.2"${mark.style === 'open' ? ' stroke-dasharray="2.4 1.6"' : ''}/>` +
    `${mark.style === 'both' ? `<rect x="0" y="11" width="${MARK.width}" height="1.6" fill="${colour}"/>` : ''}</g>`
  )
}

/** A text as XML: what would be markup escaped, what XML cannot hold replaced (XML 1.0, 2.2). */
export function escapeMarkup(text: string): string {
  return text
    .replace(/[\ufffe\uffff]/g, '\ufffd')
    .replace(/[&<>"]/g, (char) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[char] as string)
}
