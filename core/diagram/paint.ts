import type { Look } from '../design/model.ts'
import { BOX, clip, rowTexts, textWidth } from './box.ts'
import type { Fates } from './compared.ts'
import { SIGNS, tagOf } from './fates.ts'
import { END_WORDS } from './line-words.ts'
import { keyShape } from '../design/key-shape.ts'
import { MARK, markColour, markPath, type MarkedKey } from './mark.ts'
import { regionSize } from './regions.ts'
import { endMarks, endNumbers, linePath, outline, stubMarkAt, type Scene } from './scene.ts'
import type { CircleShape, GroupShape, PathShape, PictureShape, TextShape } from './shapes.ts'
import { STUB } from './stub.ts'
import {
  endNumbersAt,
  type LineEnd,
  type SceneLine,
  type SceneRegion,
  type SceneStub,
  type SceneTable
} from './scene-parts.ts'

/** The colours of a picture: the product's own, light and dark. */
export const THEMES = {
  light: {
    ink: '#14211D',
    quiet: '#55655F',
    paper: '#FFFFFF',
    ground: '#EDF1EF',
    wire: '#3C4D47',
    region: '#DFE7E3',
    edge: '#B4C2BB',
    fates: { added: '#1F7A3D', removed: '#A8322B', renamed: '#2C4F9E', changed: '#8A5F00' }
  },
  dark: {
    ink: '#E6EEEA',
    quiet: '#9DB0A8',
    paper: '#1A2420',
    ground: '#121A17',
    wire: '#9FB3AA',
    region: '#18221E',
    edge: '#384741',
    fates: { added: '#74CB90', removed: '#EF8A80', renamed: '#93B1F4', changed: '#DFAE4E' }
  }
} as const
export type Theme = keyof typeof THEMES

/** How a scene is painted. */
export interface Paint {
  theme?: Theme | undefined
  ends?: Look['ends'] | undefined
  /** What became of tables, columns and references, where two states of a design are drawn in one. */
  fates?: Fates | undefined
}

/** A scene as shapes, in the order in which they are painted. Equal scenes give equal shapes. */
export function paint(scene: Scene, how: Paint = {}): PictureShape[] {
  const painter = new Painter(how)
  return [
    ...scene.regions.map((region) => painter.region(region)),
    ...scene.lines.map((line) => painter.line(line)),
    ...scene.stubs.map((stub) => painter.stub(stub)),
    ...scene.tables.map((table) => painter.table(table))
  ]
}

/** Paints the parts of scenes, and what a legend shows of them. */
export class Painter {
  readonly colours
  private readonly isDark: boolean
  private readonly ends: Look['ends']
  private readonly fates: Fates | undefined

  constructor({ theme = 'light', ends = 'feet', fates }: Paint) {
    this.colours = THEMES[theme]
    this.isDark = theme === 'dark'
    this.ends = ends
    this.fates = fates
  }

  region({ name, x, y, width, height, head }: SceneRegion): GroupShape {
    const { region: fill, edge: stroke, quiet, ground } = this.colours
    const size = regionSize(head)
    const sheet: PathShape = {
      kind: 'path',
      path: `M${x} ${y}h${width}v${height}h${-width}Z`,
      fill,
      stroke,
      width: 1
    }
    return {
      kind: 'group',
      shapes: [
        sheet,
        this.text(clip(name, width - 28, size), x + 14, y + head * 0.6, 'bold', size, quiet, { halo: ground })
      ]
    }
  }

  line(line: SceneLine): GroupShape {
    const fate = this.fates?.get(line.id)?.fate
    const { wire, fates } = this.colours
    const colour = fate ? fates[fate] : wire
    const way = this.wire(linePath(line.points), !line.identifying, colour, fate ? 2.2 : 1.3)
    if (fate === 'removed') way.dash = [1.5, 4]
    const xs = line.points.map(([x]) => x)
    const ys = line.points.map(([, y]) => y)
    const [x, y] = [Math.min(...xs), Math.min(...ys)]
    return {
      kind: 'group',
      shapes: [way, ...line.ends.flatMap((end) => this.end(end, colour)), ...this.sign(line, colour)],
      room: { x: x - 20, y: y - 20, width: Math.max(...xs) - x + 40, height: Math.max(...ys) - y + 40 }
    }
  }

  /** What became of a line, as a sign beside the table that refers. */
  private sign({ id, ends: [, { at, side }] }: SceneLine, colour: string): PictureShape[] {
    const fate = this.fates?.get(id)?.fate
    if (!fate) return []
    const [x, y] = [at[0] + side * 30, at[1]]
    const { ground: fill } = this.colours
    const ring: CircleShape = { kind: 'circle', at: [x, y], radius: 7, stroke: colour, width: 1.3, fill }
    return [ring, this.text(SIGNS[fate], x, y + 4, 'bold', 12, colour, { anchor: 'middle' })]
  }

  end(end: LineEnd, colour: string = this.colours.wire): PictureShape[] {
    return [...(this.ends === 'numbers' ? [this.numbers(end)] : this.foot(end, colour)), ...this.words(end)]
  }

  private numbers(end: LineEnd): TextShape {
    const [x, y] = endNumbersAt(end)
    const { ink, ground: halo } = this.colours
    return this.text(endNumbers(end), x, y, 'mono', 11, ink, { halo, ...(end.side < 0 && { anchor: 'end' }) })
  }

  private foot(end: LineEnd, colour: string): PictureShape[] {
    const { path, circle } = endMarks(end)
    const { ground: fill } = this.colours
    const foot = this.wire(path, false, colour)
    return circle
      ? [{ kind: 'circle', at: circle, radius: 3.5, stroke: colour, width: 1.3, fill }, foot]
      : [foot]
  }

  private words({ words }: LineEnd): PictureShape[] {
    if (!words) return []
    const [x, y] = words.at
    const { quiet, ground: halo } = this.colours
    const anchor = words.side < 0 ? { anchor: 'end' as const } : {}
    return [this.text(words.text, x, y, 'plain', END_WORDS.size, quiet, { halo, ...anchor })]
  }

  stub(stub: SceneStub): GroupShape {
    const { end, mark, identifying, id } = stub
    const fate = this.fates?.get(id)?.fate
    const colour = fate ? this.colours.fates[fate] : this.colours.wire
    const way = this.wire(`M${end.at[0]} ${end.at[1]}h${-STUB.line}`, !identifying, colour)
    const [x, y] = end.at
    return {
      kind: 'group',
      shapes: [way, ...this.end(end, colour), ...this.mark(mark, ...stubMarkAt(stub))],
      room: { x: x - STUB.length, y: y - 20, width: STUB.length, height: 40 }
    }
  }

  table(table: SceneTable): GroupShape {
    const { x, y, width, height } = table
    const fate = this.fates?.get(table.id)
    const { ink, paper, quiet, fates } = this.colours
    const stroke = fate ? fates[fate.fate] : table.slim ? quiet : ink
    const sheet: PathShape = {
      kind: 'path',
      path: outline(table, BOX.cut),
      fill: paper,
      stroke,
      width: fate ? 2 : table.external ? 1.5 : 1,
      ...(table.external && { dash: [1.5, 2.5] }),
      ...(table.slim && { dash: [5, 3] }),
      ...(fate?.fate === 'removed' && { dash: [8, 4] })
    }
    const nameX = x + BOX.pad + table.marks.length * (MARK.width + 4) + 4
    const named = clip(table.name, width - (nameX - x) - BOX.pad, 14)
    const isGone = fate?.fate === 'removed'
    const name = this.text(named, nameX, y + 20, 'bold', 14, table.slim ? quiet : ink, { struck: isGone })
    const rule: PictureShape[] =
      table.rule > BOX.head
        ? [{ kind: 'path', path: `M${x} ${y + table.rule}h${width}`, stroke: ink, width: 1 }]
        : []
    const marks = table.marks.flatMap((mark, at) =>
      this.mark(mark, x + BOX.pad + at * (MARK.width + 4), y + 10)
    )
    const tag = fate
      ? [this.text(tagOf(fate), x, y - 6, 'bold', 12, stroke, { halo: this.colours.ground })]
      : []
    return {
      kind: 'group',
      table: table.id,
      shapes: [sheet, ...marks, name, ...rule, ...table.rows.flatMap((row) => this.row(table, row)), ...tag],
      room: { x: x - 2, y: y - 20, width: width + 4, height: height + 24 }
    }
  }

  private row({ x, y, width }: SceneTable, row: SceneTable['rows'][number]): PictureShape[] {
    const { ink, quiet, fates } = this.colours
    const middle = y + row.middle
    const { name, type } = rowTexts(row, width)
    const fate = this.fates?.get(row.id)
    const colour = fate ? fates[fate.fate] : ink
    const said = fate?.was === undefined ? type : `was ${fate.was}`
    const room = width - BOX.pad * 2 - BOX.markColumn - textWidth(name, 12.5, true) - 8
    const struck = fate?.fate === 'removed'
    return [
      ...(fate
        ? [this.text(SIGNS[fate.fate], x + 5, middle + 4, 'bold', 12, colour, { anchor: 'middle' })]
        : []),
      ...(row.mark ? this.mark(row.mark, x + BOX.pad, middle - 5) : []),
      this.text(
        name,
        x + BOX.pad + BOX.markColumn,
        middle + 4,
        row.required ? 'mono' : 'italic',
        12.5,
        colour,
        {
          struck
        }
      ),
      this.text(clip(said, room, 12, true), x + width - BOX.pad, middle + 4, 'mono', 12, quiet, {
        anchor: 'end'
      })
    ]
  }

  mark(mark: MarkedKey, x: number, y: number): PictureShape[] {
    const shape = keyShape(mark.key)
    const stroke = markColour(shape, this.isDark)
    const isFilled = mark.style === 'own' || mark.style === 'both'
    const sign: PathShape = {
      kind: 'path',
      path: markPath(shape),
      fill: isFilled ? stroke : this.colours.paper,
      stroke,
      width: 1.2,
      move: [x, y],
      ...(mark.style === 'open' && { dash: [2.4, 1.6] })
    }
    const line: PathShape = {
      kind: 'path',
      path: `M0 11h${MARK.width}v1.6h${-MARK.width}Z`,
      fill: stroke,
      move: [x, y]
    }
    return mark.style === 'both' ? [sign, line] : [sign]
  }

  wire(path: string, isDashed: boolean, stroke: string = this.colours.wire, width = 1.3): PathShape {
    return { kind: 'path', path, stroke, width, ...(isDashed && { dash: [6, 4] }) }
  }

  text(
    text: string,
    x: number,
    y: number,
    face: TextShape['face'],
    size: number,
    fill: string,
    more: Pick<TextShape, 'anchor' | 'halo' | 'struck'> = {}
  ): TextShape {
    return { kind: 'text', text, at: [x, y], face, size, fill, ...more }
  }
}
