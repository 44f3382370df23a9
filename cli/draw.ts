import { fold, tableOf } from '../core/design/directory.ts'
import { ENDS, PLAIN_LOOK, type Design, type Look, type ShownPart } from '../core/design/model.ts'
import { bothIn } from '../core/diagram/compared.ts'
import { askedOf, sceneOf, type Shown } from '../core/diagram/drawing.ts'
import { THEMES, type Theme } from '../core/diagram/paint.ts'
import type { Pages } from '../core/diagram/pdf.ts'
import type { SheetWords } from '../core/diagram/sheet.ts'
import { sceneToSvg } from '../core/diagram/svg.ts'
import { sameNames } from '../core/version/same-names.ts'
import { counted } from '../core/naming/words.ts'
import { openDesign, openState, put } from './files.ts'
import { CannotDo, type Outcome } from './outcome.ts'
import { fontFiles, fonts, svgToPng } from './picture.ts'

/** What a diagram can be written as. */
export const PICTURES = { svg: 'Diagram (SVG)', png: 'Diagram (PNG)', pdf: 'Diagram (PDF)' } as const
export type PictureKind = keyof typeof PICTURES
export const isPicture = (as: string): as is PictureKind => Object.hasOwn(PICTURES, as)

/** What of a design is drawn and how, as the command line says it. */
export interface DrawOptions {
  view?: string
  subject?: string
  near?: string
  steps?: string
  detail?: string
  notation?: string
  words?: string
  theme?: string
  scale?: string
  pages?: string
  since?: string
}
export const DRAW_OPTIONS = [
  'view',
  'subject',
  'near',
  'steps',
  'detail',
  'notation',
  'words',
  'theme',
  'scale',
  'pages',
  'since'
] as const satisfies readonly (keyof DrawOptions)[]

/** How much of each table a diagram has, as the command line calls it. */
const DETAILS = { columns: 'all', keys: 'keys', names: 'none' } as const
const WORDS = ['none', 'verbs', 'roles'] as const

/** Writes a diagram of a design, or of two states of it in one. */
export async function draw(
  path: string,
  as: PictureKind,
  output: string | undefined,
  options: DrawOptions
): Promise<Outcome> {
  if (as !== 'svg' && output === undefined)
    throw new CannotDo(`${PICTURES[as]} is no text: say with -o where it is to be written.`)
  if (as !== 'pdf' && options.pages !== undefined)
    throw new CannotDo('Only a PDF has pages: leave --pages out.')
  if (as !== 'png' && options.scale !== undefined)
    throw new CannotDo('Only a PNG has a scale: leave --scale out.')
  const { design: after, since } = statesOf(path, options.since)
  const { design, fates } = since ? bothIn(since.design, after) : { design: after, fates: undefined }
  const { shown, title, note } = shownOf(design, options)
  const { part } = askedOf(design, shown)
  if (part.gone > 0 && part.design.tables.length === 0)
    throw new CannotDo(`${title}: none of its tables is in the design any longer.`)
  const words: SheetWords = {
    title: since ? `${title}: what is otherwise than in ${since.called}` : title,
    ...(note !== undefined && { note }),
    framed: true
  }
  const how = {
    theme: oneOf('theme', options.theme, Object.keys(THEMES)) as Theme | undefined,
    ends: shown.look.ends,
    fates
  }
  const scene = sceneOf(design, shown)
  if (as === 'svg') put(sceneToSvg(scene, words, how, fonts()), output)
  else if (as === 'png') put(await svgToPng(sceneToSvg(scene, words, how), scaleOf(options.scale)), output)
  else {
    const { PAGES, sceneToPdf } = await import('../core/diagram/pdf.ts')
    const pages = oneOf('pages', options.pages, PAGES) as Pages | undefined
    put(await sceneToPdf(scene, words, fontFiles(), how, pages), output)
  }
  const gone =
    part.gone > 0
      ? [`${counted(part.gone, 'table')} of it ${part.gone === 1 ? 'is' : 'are'} gone from the design.`]
      : []
  return {
    status: 0,
    json: { written: output ?? null, as, tables: scene.tables.length, gone: part.gone },
    words: output ? [`${output}: ${PICTURES[as]} of ${design.name}`, ...gone] : []
  }
}

/** The design as it is drawn, and what it is compared with: its tables go by their names where the ids are others. */
function statesOf(
  path: string,
  since: string | undefined
): { design: Design; since?: { design: Design; called: string } } {
  const { design } = openDesign(path)
  if (since === undefined) return { design }
  const before = openState(since)
  return { design, since: { ...before, design: sameNames(before.design, design) } }
}

/** What is shown: a view or a subject that the design has, or what is said on the line, which goes before a view. */
function shownOf(
  design: Design,
  options: DrawOptions
): { shown: Shown; title: string; note?: string | undefined } {
  const { view: viewName, subject: subjectName, near, steps } = options
  if ([viewName, subjectName, near].filter((each) => each !== undefined).length > 1)
    throw new CannotDo('Say one of --view, --subject and --near, not several.')
  if (steps !== undefined && near === undefined) throw new CannotDo('--steps is said with --near.')
  const view = viewName === undefined ? undefined : named('view', viewName, design.views ?? [])
  const subject = subjectName === undefined ? undefined : named('subject', subjectName, design.subjects ?? [])
  const shows: ShownPart = subject
    ? { kind: 'subject', subject: subject.id }
    : near !== undefined
      ? {
          kind: 'near',
          table: tableCalled(design, near),
          steps: oneOf('steps', steps, ['1', '2']) === '2' ? 2 : 1
        }
      : (view?.shows ?? { kind: 'all' })
  const look: Look = { ...PLAIN_LOOK, ...view?.look, ...saidLook(options) }
  const title = view ? (view.title ?? view.name) : subject ? `${design.name}: ${subject.name}` : design.name
  return { shown: { shows, look }, title, note: view?.note ?? subject?.note }
}

function saidLook({ detail, notation, words }: DrawOptions): Partial<Look> {
  const rows = oneOf('detail', detail, Object.keys(DETAILS)) as keyof typeof DETAILS | undefined
  const ends = oneOf('notation', notation, ENDS) as Look['ends'] | undefined
  const said = oneOf('words', words, WORDS) as Look['words'] | undefined
  return { ...(rows && { rows: DETAILS[rows] }), ...(ends && { ends }), ...(said && { words: said }) }
}

function oneOf(what: string, said: string | undefined, all: readonly string[]): string | undefined {
  if (said !== undefined && !all.includes(said))
    throw new CannotDo(`There is no ${what} called “${said}”. There are: ${all.join(', ')}.`)
  return said
}

function named<T extends { name: string }>(what: string, name: string, all: readonly T[]): T {
  const found = all.find((each) => fold(each.name) === fold(name))
  if (found) return found
  const there = all.length > 0 ? `There are: ${all.map((each) => each.name).join(', ')}.` : 'It has none.'
  throw new CannotDo(`The design has no ${what} called “${name}”. ${there}`)
}

function tableCalled(design: Design, name: string): string {
  const found = design.tables.find((table) => fold(table.name) === fold(name)) ?? tableOf(design, name)
  if (!found) throw new CannotDo(`The design has no table called “${name}”.`)
  return found.id
}

/** Pixels for each of the drawing's own. */
function scaleOf(said: string | undefined): number {
  const scale = Number(said ?? 2)
  if (!(scale >= 0.1 && scale <= 8)) throw new CannotDo(`A scale is a number from 0.1 to 8, not “${said}”.`)
  return scale
}
