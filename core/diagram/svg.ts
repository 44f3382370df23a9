import type { Scene } from './scene.ts'
import { paint, THEMES, type Paint } from './paint.ts'
import { sheetOf, type SheetWords } from './sheet.ts'
import type { Face, PictureShape, TextShape } from './shapes.ts'

const SANS = "'Atkinson Hyperlegible Next', 'Segoe UI', system-ui, sans-serif"
const MONO = "'Atkinson Hyperlegible Mono', ui-monospace, 'DejaVu Sans Mono', monospace"
const FACE: Record<Face, string> = {
  plain: `font-family="${SANS}"`,
  bold: `font-family="${SANS}" font-weight="700"`,
  mono: `font-family="${MONO}"`,
  italic: `font-family="${MONO}" font-style="italic"`
}

/**
 * The scene as an SVG document. Equal scenes give equal bytes.
 * @param words what stands over and under it; its title is the picture's accessible name too.
 * @param fonts the rules that bring its fonts along; without them it has to do with what is there.
 */
export function sceneToSvg(scene: Scene, words: SheetWords, how: Paint = {}, fonts = ''): string {
  const { shapes, bounds } = sheetOf(scene, paint(scene, how), words, how)
  const { x, y, width, height } = bounds
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${x} ${y} ${width} ${height}" width="${width}" height="${height}" role="img">`,
    `<title>${escapeMarkup(words.title)}</title>`,
    ...(fonts === '' ? [] : [`<style>${fonts}</style>`]),
    `<rect x="${x}" y="${y}" width="${width}" height="${height}" fill="${THEMES[how.theme ?? 'light'].ground}"/>`,
    ...shapes.map(shapeToSvg),
    '</svg>',
    ''
  ].join('\n')
}

function shapeToSvg(shape: PictureShape): string {
  switch (shape.kind) {
    case 'group': {
      const table = shape.table === undefined ? '' : ` data-table="${escapeMarkup(shape.table)}"`
      return `<g${table}>${shape.shapes.map(shapeToSvg).join('')}</g>`
    }
    case 'path': {
      const { path, stroke, width = 1, dash, fill = 'none', move } = shape
      const line = stroke ? ` stroke="${stroke}" stroke-width="${width}"` : ''
      const dashed = dash ? ` stroke-dasharray="${dash.join(' ')}"` : ''
      const moved = move ? ` transform="translate(${move[0]} ${move[1]})"` : ''
      return `<path d="${path}" fill="${fill}"${line}${dashed}${moved}/>`
    }
    case 'circle': {
      const { at, radius, stroke, width, fill } = shape
      return `<circle cx="${at[0]}" cy="${at[1]}" r="${radius}" fill="${fill}" stroke="${stroke}" stroke-width="${width}"/>`
    }
    case 'text':
      return textToSvg(shape)
  }
}

function textToSvg({ text, at, face, size, fill, anchor, halo, struck }: TextShape): string {
  if (text === '') return ''
  const anchored = anchor ? ` text-anchor="${anchor}"` : ''
  const around = halo ? ` stroke="${halo}" stroke-width="3" stroke-linejoin="round" paint-order="stroke"` : ''
  const line = struck ? ' text-decoration="line-through"' : ''
  return `<text x="${at[0]}" y="${at[1]}" ${FACE[face]} font-size="${size}" fill="${fill}"${anchored}${around}${line}>${escapeMarkup(text)}</text>`
}

/** A text as XML: what would be markup escaped, what XML cannot hold replaced (XML 1.0, 2.2). */
export function escapeMarkup(text: string): string {
  return text
    .replace(/[\ufffe\uffff]/g, '\ufffd')
    .replace(/[&<>"]/g, (char) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[char] as string)
}
