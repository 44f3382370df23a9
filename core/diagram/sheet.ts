import { textWidth } from './box.ts'
import { FATE_WORDS, SIGNS } from './fates.ts'
import type { Fate } from './compared.ts'
import { Painter, type Paint } from './paint.ts'
import type { Scene } from './scene.ts'
import type { PictureShape } from './shapes.ts'
import type { LineEnd } from './scene-parts.ts'

/** What stands on a sheet beside its drawing. */
export interface SheetWords {
  title: string
  note?: string | undefined
  /** Whether it begins with its title and ends with a legend of what was used. */
  framed?: boolean | undefined
}

/** Sizes of what stands over and under the drawing (pixels). */
const HEAD = { line: 1.7, note: 0.58, noteLine: 0.84, foot: 14 }
/** How large the title is: the wider the sheet, the farther away it is looked at from. */
const TITLE = { least: 24, most: 110, share: 0.013 }
const LEGEND = { line: 26, sample: 46, gap: 26, size: 12.5 }
const MARGIN = 30
/** A legend is not set narrower than this, however small the drawing is. */
const NARROWEST = 360

/** A drawing with its title and note over it, and under it a legend of what was used. */
export function sheetOf(
  scene: Scene,
  drawn: readonly PictureShape[],
  words: SheetWords,
  how: Paint
): { shapes: PictureShape[]; bounds: Scene['bounds'] } {
  const { x, y, width: own, height } = scene.bounds
  if (!words.framed) return { shapes: [...drawn], bounds: inWhole({ x, y, width: own, height }) }
  const painter = new Painter(how)
  const { ink, quiet } = painter.colours
  const left = x + MARGIN
  const size = Math.min(TITLE.most, Math.max(TITLE.least, own * TITLE.share))
  const titled = textWidth(words.title, size) * 1.06 + 2 * MARGIN
  const width = Math.max(own, NARROWEST, titled)
  const notes = wrapped(words.note ?? '', width - 2 * MARGIN, size * HEAD.note)
  const head = MARGIN + size * (HEAD.line + notes.length * HEAD.noteLine)
  const top = y - head
  const shapes: PictureShape[] = [
    ...drawn,
    painter.text(words.title, left, top + MARGIN + size * 0.8, 'bold', size, ink),
    ...notes.map((line, at) => {
      const y = top + MARGIN + size * (HEAD.line + at * HEAD.noteLine)
      return painter.text(line, left, y, 'plain', size * HEAD.note, quiet)
    })
  ]
  let [at, line] = [left, y + height + HEAD.foot]
  for (const { sample, words: said, isWide } of legendOf(scene, painter, how)) {
    const wide = (isWide ? LEGEND.sample : 24) + textWidth(said, LEGEND.size) + LEGEND.gap
    if (at > left && at + wide > x + width - MARGIN) {
      at = left
      line += LEGEND.line
    }
    shapes.push(...sample(at, line))
    shapes.push(painter.text(said, at + (isWide ? LEGEND.sample : 24), line + 4, 'plain', LEGEND.size, quiet))
    at += wide
  }
  const bottom = line + LEGEND.line + MARGIN / 2
  return { shapes, bounds: inWhole({ x, y: top, width, height: bottom - top }) }
}

/** What is drawn, in whole pixels, of which there is one at least. */
function inWhole({ x, y, width, height }: Scene['bounds']): Scene['bounds'] {
  const [left, top] = [Math.floor(x), Math.floor(y)]
  return {
    x: left,
    y: top,
    width: Math.max(1, Math.ceil(x + width) - left),
    height: Math.max(1, Math.ceil(y + height) - top)
  }
}

interface Entry {
  /** Paints it to the right of a place. */
  sample: (x: number, y: number) => PictureShape[]
  words: string
  isWide?: boolean
}

/** What of the notation stands in a drawing, each with what it means. */
function legendOf(scene: Scene, painter: Painter, { ends, fates }: Paint): Entry[] {
  const { lines, stubs, tables } = scene
  const drawn = [...lines, ...stubs]
  const used = [...lines.flatMap((line) => line.ends), ...stubs.map(({ end }) => end)]
  const rows = tables.flatMap((table) => table.rows)
  const { ink, quiet, paper } = painter.colours
  const entries: (Entry | false)[] = [
    ...ENDS.map(
      ({ least, most, words }): Entry | false =>
        used.some((end) => end.least === least && end.most === most) && {
          words: ends === 'numbers' ? `${least}..${most === 'many' ? '*' : '1'} ${words}` : words,
          isWide: ends !== 'numbers',
          sample: (x, y) =>
            ends === 'numbers'
              ? []
              : [painter.wire(`M${x} ${y}h36`, false), ...painter.end(endAt(x, y, least, most))]
        }
    ),
    drawn.some(({ identifying }) => identifying) && {
      words: 'identifying',
      isWide: true,
      sample: (x, y) => [painter.wire(`M${x} ${y}h36`, false)]
    },
    drawn.some(({ identifying }) => !identifying) && {
      words: 'not identifying',
      isWide: true,
      sample: (x, y) => [painter.wire(`M${x} ${y}h36`, true)]
    },
    stubs.length > 0 && {
      words: 'refers to what is not drawn beside it, by its key',
      isWide: true,
      sample: (x, y) => [
        painter.wire(`M${x + 26} ${y}h12`, false),
        ...painter.mark((stubs[0] as (typeof stubs)[number]).mark, x, y - 5)
      ]
    },
    rows.some(({ required }) => !required) && {
      words: 'may be empty',
      isWide: true,
      sample: (x, y) => [painter.text('abc', x + 6, y + 4, 'italic', 12, ink)]
    },
    tables.some(({ junction }) => junction) && {
      words: 'junction',
      isWide: true,
      sample: (x, y) => [
        { kind: 'path', path: `M${x + 6} ${y - 9}h28v18h-28l-6 -6v-6Z`, fill: paper, stroke: ink, width: 1 }
      ]
    },
    tables.some(({ external }) => external) && {
      words: 'another system’s',
      isWide: true,
      sample: (x, y) => [
        {
          kind: 'path',
          path: `M${x} ${y - 9}h34v18h-34Z`,
          fill: paper,
          stroke: ink,
          width: 1.5,
          dash: [1.5, 2.5]
        }
      ]
    },
    tables.some(({ slim }) => slim) && {
      words: 'beside what is shown',
      isWide: true,
      sample: (x, y) => [
        {
          kind: 'path',
          path: `M${x} ${y - 9}h34v18h-34Z`,
          fill: paper,
          stroke: quiet,
          width: 1,
          dash: [5, 3]
        }
      ]
    },
    ...(Object.keys(SIGNS) as Fate[]).map(
      (fate): Entry | false =>
        [...(fates?.values() ?? [])].some((each) => each.fate === fate) && {
          words: FATE_WORDS[fate],
          sample: (x, y) => [painter.text(SIGNS[fate], x + 6, y + 5, 'bold', 15, painter.colours.fates[fate])]
        }
    )
  ]
  return entries.filter((entry) => entry !== false)
}

/** What an end can say, in words. */
const ENDS = [
  { least: 1, most: 'one', words: 'exactly one' },
  { least: 0, most: 'one', words: 'at most one' },
  { least: 0, most: 'many', words: 'any number' },
  { least: 1, most: 'many', words: 'at least one' }
] as const

const endAt = (x: number, y: number, least: LineEnd['least'], most: LineEnd['most']): LineEnd => ({
  at: [x + 36, y],
  side: -1,
  least,
  most
})

/** A text in lines of so many pixels at the most, as its own lines are set. */
function wrapped(text: string, width: number, size: number): string[] {
  return text.split('\n').flatMap((own) => {
    const lines: string[] = []
    for (const word of own.split(' ').filter((each) => each !== '')) {
      const last = lines.at(-1)
      if (last !== undefined && textWidth(`${last} ${word}`, size) <= width)
        lines[lines.length - 1] = `${last} ${word}`
      else lines.push(word)
    }
    return lines
  })
}
