import type { Design, Position, Table } from '../core/design/model.ts'
import { layout } from '../core/diagram/layout.ts'
import { makeScene, type Scene } from '../core/diagram/scene.ts'
import { settle } from '../core/diagram/settle.ts'
import { lifelike } from '../demo/lifelike.ts'
import { Origin } from 'selenium-webdriver'
import { App } from '../e2e/app.ts'
import { Browser, By } from '../e2e/browser.ts'
import { faultsOf, measuresOf, type Drawing, type Measures } from '../tests/drawing.ts'
import { measure, spread, type Spread } from './measure.ts'
import { plainLayers } from './plain-layers.ts'

/** How a drawing of a lifelike design comes out beside that of a plain layered layout of the same boxes. */
interface Beside {
  count: number
  own: Measures
  plain: Measures
  /** The plain layout of those references alone that are drawn as lines here. */
  alike: Measures
  /** Faults of the own drawing: tables and lines on each other, lines through tables. */
  faults: number
}

export interface DrawingBench {
  lines: { what: string; measured: Spread; yardstick: string; against: Spread }[]
  page: string
}

const draw = (design: Design): Scene => makeScene(design, layout(design))
const RUNS = { 30: 15, 170: 7, 1000: 3 } as const

/** Layout and routes of lifelike designs against a plain layered layout, and dragging a table among a thousand. */
export async function benchDrawing(): Promise<DrawingBench> {
  const lines: DrawingBench['lines'] = []
  const drawn: Beside[] = []
  for (const [size, runs] of Object.entries(RUNS)) {
    const count = Number(size)
    const design = lifelike(count)
    // What was worked out for a design is kept with it, so each run draws a copy that nothing is known of.
    const measured = await measure(runs, () => draw(structuredClone(design)))
    const against = await measure(runs, () => plainLayers(structuredClone(design)))
    lines.push({
      what: `placing and routing a lifelike design of ${count.toLocaleString('en-GB')} tables`,
      measured,
      yardstick: 'a plain layered layout of the same boxes',
      against
    })
    drawn.push(await beside(count, design))
  }
  const page = [
    'Lifelike designs (`demo/lifelike.ts`), placed and routed here, and by a plain layered layout of the same boxes: how often lines of different keys cross, the area of the sheet, and how much of it is tables. Here references to hubs and to what is far away are told of beside their tables; “same lines” is the plain layout of the others alone, whose lines end anywhere at a table, while here they end at the row of their column.',
    '',
    '| tables | crossings | plain | plain, same lines | area, ratio to plain | to plain, same lines | of it tables | plain | faults |',
    '|---|---|---|---|---|---|---|---|---|',
    ...drawn.map(
      ({ count, own, plain, alike, faults }) =>
        `| ${count.toLocaleString('en-GB')} | ${own.crossings} | ${plain.crossings} | ${alike.crossings} | ${(own.area / plain.area).toPrecision(2)} | ${(own.area / alike.area).toPrecision(2)} | ${percent(own.tables)} | ${percent(plain.tables)} | ${faults} |`
    ),
    '',
    await smallOnes(),
    '',
    afterEdits(),
    '',
    await dragging()
  ].join('\n')
  return { lines, page }
}

async function beside(count: number, design: Design): Promise<Beside> {
  const scene = draw(design)
  const isDrawn = new Set(scene.lines.map(({ id }) => id))
  const counted = (drawing: Drawing): number =>
    Object.values(faultsOf(drawing)).reduce((sum: number, each: string[]) => sum + each.length, 0)
  return {
    count,
    own: measuresOf(scene),
    plain: measuresOf(await plainLayers(design)),
    alike: measuresOf(await plainLayers(design, (id) => isDrawn.has(id))),
    faults: counted(scene)
  }
}

/** The area of small designs, which differ from each other more than large ones do. */
async function smallOnes(): Promise<string> {
  const ratios: number[] = []
  for (let seed = 1; seed <= SEEDS; seed++) {
    const design = lifelike(30, seed)
    ratios.push(measuresOf(draw(design)).area / measuresOf(await plainLayers(design)).area)
  }
  const [least, most] = [Math.min(...ratios), Math.max(...ratios)]
  const halves = ratios.filter((ratio) => ratio <= 0.5).length
  const [low, median, high] = [least, spread(ratios).median, most].map((ratio) => ratio.toPrecision(2))
  return `Of ${SEEDS} designs of 30 tables the area is ${median} of the plain one at the median, from ${low} to ${high}, and at most half in ${halves}.`
}
const SEEDS = 16

/** How much of a picture moves when a design is changed a little: kept as it is here, and placed anew. */
function afterEdits(): string {
  const rows = Object.keys(RUNS).map((size) => {
    const design: Design = { ...lifelike(Number(size)), positions: {} }
    const before = layout(design)
    const referring = design.tables.filter(({ foreignKeys }) => foreignKeys.length > 0).slice(0, EDITS)
    const moves = referring.flatMap((table) => {
      const changes = [
        { ...table, columns: [...table.columns, { ...table.columns[0], id: 'c_more', name: 'more' }] },
        { ...table, foreignKeys: table.foreignKeys.slice(1) }
      ] as Table[]
      return changes.map((changed) => {
        const next = { ...design, tables: design.tables.map((each) => (each === table ? changed : each)) }
        return [
          movedShare(before, settle(next, undefined, before) ?? layout(next)),
          movedShare(before, layout(next))
        ]
      })
    })
    const mean = (at: 0 | 1): number => moves.reduce((sum, each) => sum + (each[at] ?? 0), 0) / moves.length
    return `| ${Number(size).toLocaleString('en-GB')} | ${percent(mean(0))} | ${percent(mean(1))} |`
  })
  return [
    `One column more, or one reference less (${EDITS} of each): how many of the tables stand elsewhere afterwards, by more than 60 pixels.`,
    '',
    '| tables | as it is drawn again on the screen | placed anew |',
    '|---|---|---|',
    ...rows
  ].join('\n')
}
const EDITS = 6

function movedShare(before: ReadonlyMap<string, Position>, after: ReadonlyMap<string, Position>): number {
  const far = [...before].filter(([id, { x, y }]) => {
    const now = after.get(id) ?? { x, y }
    return Math.abs(now.x - x) + Math.abs(now.y - y) > 60
  })
  return far.length / before.size
}

const percent = (share: number): string => `${Math.round(share * 100)} %`

/**
 * In the page: how long each frame comes after the one before, and, of each move, how long its frame is worked on: from
 * the move, which is handed on as a frame begins, to the first task after the frame has been laid out and painted.
 */
const FRAMES = `
  window.frames = { intervals: [], work: [] };
  let last = performance.now();
  const tick = () => {
    const now = performance.now();
    window.frames.intervals.push(now - last);
    last = now;
    if (!window.enough) requestAnimationFrame(tick);
  };
  requestAnimationFrame(tick);
  let begun;
  const painted = new MessageChannel();
  painted.port1.onmessage = () => {
    window.frames.work.push(performance.now() - begun);
    begun = undefined;
  };
  window.addEventListener('pointermove', () => {
    if (begun !== undefined) return;
    begun = performance.now();
    requestAnimationFrame(() => painted.port2.postMessage(0));
  }, { capture: true })`
interface Frames {
  intervals: number[]
  work: number[]
}

/**
 * A table is dragged across a thousand, the one with the most lines: these are pulled along, and their ways looked for
 * when it is dropped.
 */
async function dragging(): Promise<string> {
  const design = lifelike(1000)
  const lines = new Map<string, number>()
  for (const { parent, child } of draw(design).lines)
    for (const id of [parent, child]) lines.set(id, (lines.get(id) ?? 0) + 1)
  const [id, count] = [...lines].sort(([, one], [, other]) => other - one)[0] ?? ['', 0]
  const app = await new App().start()
  const browser = await new Browser().start()
  try {
    await browser.open(`${await app.put(design)}/diagram`)
    const table = await browser.driver.wait(
      async () => (await browser.driver.findElements(By.css(`[data-table="${id}"]`)))[0],
      60_000
    )
    if (!table) throw new Error('The diagram has no tables.')
    await new Promise((resolve) => setTimeout(resolve, 2000))
    const act = browser.driver.actions({ async: true }).move({ origin: table }).press()
    for (let step = 0; step < 100; step++) act.move({ origin: Origin.POINTER, x: 3, y: 2, duration: 16 })
    await browser.driver.executeScript(FRAMES)
    await act.perform()
    const frames = await browser.driver.executeScript<Frames>('window.enough = true; return window.frames')
    await browser.driver.actions().release().perform()
    const [work, interval] = [spread(frames.work.slice(3)), spread(frames.intervals.slice(3))]
    const ms = (time: number): string => `${time.toFixed(1)} ms`
    return `Dragging a table with ${count} lines among 1,000: a frame is worked on for ${ms(work.median)} at the median and ${ms(work.p95)} at the 95th percentile, from the move until it is painted (${frames.work.length} frames in which it moved), and comes ${ms(interval.median)} and ${ms(interval.p95)} after the one before on a screen of 60 in a second. The ways of its lines are looked for when it is dropped, and until then they are drawn dotted.`
  } finally {
    await browser.stop()
    await app.stop()
  }
}
