import PDFDocument from 'pdfkit'
import { paint, THEMES, type Paint } from './paint.ts'
import type { Scene } from './scene.ts'
import { sheetOf, type SheetWords } from './sheet.ts'
import type { Face, PictureShape, TextShape } from './shapes.ts'

/** On which pages a picture is put: on one as large as it is, or on as many of a size as it takes. */
export const PAGES = ['one', 'a4', 'a3'] as const
export type Pages = (typeof PAGES)[number]

/** The faces as font files, in the order of ./fonts.ts. */
export type FontFiles = readonly [Uint8Array, Uint8Array, Uint8Array, Uint8Array]

/** Sizes of pages lying, in points of 1/72 inch (ISO 216). */
const SIZES = { a4: [841.89, 595.28], a3: [1190.55, 841.89] } as const
/** Room around what stands on one of several pages, and how much of it stands on the next one too (points). */
const EDGE = { margin: 28, overlap: 18 }
/** Points for each pixel: on one page, and on several, where it is still read. */
const SCALE = { one: 0.75, several: 0.6 }
/** No page may be longer (PDF 1.7, annex C, in points). */
const LONGEST = 14_400

const FACES: readonly Face[] = ['plain', 'bold', 'mono', 'italic']
/** Letters that the fonts may lack, and what is written for them. */
const INSTEAD: Record<string, string> = { '→': '»', '←': '«', '−': '–' }

/**
 * The scene as a PDF document, in vectors, with its text as text. Equal scenes give equal bytes.
 * A letter that the fonts do not have is written as a question mark.
 */
export async function sceneToPdf(
  scene: Scene,
  words: SheetWords,
  fonts: FontFiles,
  how: Paint = {},
  pages: Pages = 'one'
): Promise<Uint8Array> {
  const { shapes, bounds } = sheetOf(scene, paint(scene, how), words, how)
  const info = { Title: words.title, CreationDate: new Date(0) }
  // None of the fonts that readers bring along is used.
  const document = new PDFDocument({ autoFirstPage: false, margin: 0, font: '', info })
  const chunks: Uint8Array[] = []
  document.on('data', (chunk: Uint8Array) => chunks.push(chunk))
  const done = new Promise<void>((resolve, reject) => {
    document.on('end', resolve)
    document.on('error', reject)
  })
  for (const [at, face] of FACES.entries()) document.registerFont(face, fonts[at] as Buffer)
  const pen = new Pen(document)
  for (const page of pagesOf(bounds, pages)) {
    document.addPage({ size: [...page.size], margin: 0 })
    document.rect(0, 0, ...page.size).fill(THEMES[how.theme ?? 'light'].ground)
    document.save()
    document.rect(page.inset, page.inset, page.size[0] - 2 * page.inset, page.size[1] - 2 * page.inset).clip()
    document.translate(page.inset, page.inset).scale(page.scale).translate(-page.x, -page.y)
    for (const shape of shapes) if (isOn(shape, page)) pen.draw(shape)
    document.restore()
    if (page.says) pen.says(page.says, page.size)
  }
  document.end()
  await done
  return joined(chunks)
}

interface Page {
  size: readonly [number, number]
  inset: number
  scale: number
  /** What of the sheet stands on it (pixels). */
  x: number
  y: number
  width: number
  height: number
  /** Which of several it is. */
  says?: string
}

/** The pages that a sheet takes, row by row; on each of several stands where it belongs. */
function pagesOf({ x, y, width, height }: Scene['bounds'], pages: Pages): Page[] {
  if (pages === 'one') {
    const scale = Math.min(SCALE.one, LONGEST / width, LONGEST / height)
    return [{ size: [width * scale, height * scale], inset: 0, scale, x, y, width, height }]
  }
  const size = SIZES[pages]
  const scale = SCALE.several
  const [wide, high] = size.map((each) => (each - 2 * EDGE.margin) / scale) as [number, number]
  const step = EDGE.overlap / scale
  const across = Math.max(1, Math.ceil((width - step) / (wide - step)))
  const down = Math.max(1, Math.ceil((height - step) / (high - step)))
  return Array.from({ length: across * down }, (_, at): Page => {
    const [column, row] = [at % across, Math.floor(at / across)]
    const place = `row ${row + 1} of ${down}, column ${column + 1} of ${across}`
    return {
      size,
      inset: EDGE.margin,
      scale,
      x: x + column * (wide - step),
      y: y + row * (high - step),
      width: wide,
      height: high,
      ...(across * down > 1 && { says: `page ${at + 1} of ${across * down}: ${place}` })
    }
  })
}

function isOn(shape: PictureShape, { x, y, width, height }: Page): boolean {
  if (shape.kind !== 'group' || !shape.room) return true
  const { x: left, y: top, width: wide, height: high } = shape.room
  return left < x + width && left + wide > x && top < y + height && top + high > y
}

/** Draws shapes into a document. */
class Pen {
  constructor(private readonly document: PDFKit.PDFDocument) {}

  draw(shape: PictureShape): void {
    const { document } = this
    switch (shape.kind) {
      case 'group':
        for (const each of shape.shapes) this.draw(each)
        return
      case 'path': {
        const { path, stroke, width = 1, dash, fill, move } = shape
        document.save()
        if (move) document.translate(move[0], move[1])
        document.path(path).lineWidth(width)
        if (dash) document.dash(dash[0], { space: dash[1] })
        if (fill && stroke) document.fillAndStroke(fill, stroke)
        else if (fill) document.fill(fill)
        else document.stroke(stroke ?? '#000000')
        document.restore()
        return
      }
      case 'circle': {
        const { at, radius, stroke, width, fill } = shape
        document.save()
        document.circle(at[0], at[1], radius).lineWidth(width).fillAndStroke(fill, stroke)
        document.restore()
        return
      }
      case 'text':
        this.text(shape)
    }
  }

  private text({ text: wanted, at, face, size, fill, anchor, halo, struck }: TextShape): void {
    const { document } = this
    document.font(face).fontSize(size)
    const text = this.written(wanted)
    if (text === '') return
    const wide = document.widthOfString(text)
    const x = at[0] - (anchor === 'end' ? wide : anchor === 'middle' ? wide / 2 : 0)
    const options = { lineBreak: false, baseline: 'alphabetic' } as const
    document.save()
    if (halo)
      document
        .lineWidth(3)
        .strokeColor(halo)
        .text(text, x, at[1], { ...options, stroke: true, fill: false })
    document.fillColor(fill).text(text, x, at[1], { ...options, stroke: false, fill: true })
    if (struck)
      document
        .moveTo(x, at[1] - size * 0.3)
        .lineTo(x + wide, at[1] - size * 0.3)
        .lineWidth(1)
        .stroke(fill)
    document.restore()
  }

  /** A text in the letters that the face at hand has. */
  private written(text: string): string {
    const has = (letter: string): boolean => this.glyphs().hasGlyphForCodePoint(letter.codePointAt(0) ?? 0)
    const write = (letter: string): string => {
      if (has(letter)) return letter
      const instead = INSTEAD[letter] ?? '?'
      return has(instead) ? instead : '?'
    }
    return [...text].map(write).join('')
  }

  /** The font at hand, as it is read from its file. */
  private glyphs(): { hasGlyphForCodePoint(code: number): boolean } {
    const { _font: now } = this.document as unknown as {
      _font: { font: { hasGlyphForCodePoint(code: number): boolean } }
    }
    return now.font
  }

  /** Which of several pages this is, in its lower margin. */
  says(text: string, [, height]: readonly [number, number]): void {
    this.document.font('plain').fontSize(9).fillColor(THEMES.light.quiet)
    this.document.text(text, EDGE.margin, height - 12, { lineBreak: false, baseline: 'alphabetic' })
  }
}

function joined(chunks: readonly Uint8Array[]): Uint8Array {
  const all = new Uint8Array(chunks.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const chunk of chunks) {
    all.set(chunk, at)
    at += chunk.length
  }
  return all
}
