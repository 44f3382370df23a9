import { apply } from '../core/edit/apply.ts'
import type { Design, Row } from '../core/design/model.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { App } from '../e2e/app.ts'
import { Browser, Key } from '../e2e/browser.ts'
import { spread } from './measure.ts'

/** Something that is done with a hundred thousand rows on the page, and the longest that it was blocked (milliseconds). */
export interface GridLine {
  what: string
  blocked: number
}

const ROWS = 100_000

/** The demo with so many doses, of its admissions and medicines. */
function manyDoses(): Design {
  const { design } = fernhollow()
  const [admissions, medicines] = ['t_admission', 't_medicine'].map(
    (id) => design.tables.find((table) => table.id === id)?.rows ?? []
  ) as [Row[], Row[]]
  const given = (at: number): string => new Date(Date.UTC(2026, 0, 1) + at * 60_000).toISOString()
  const rows = Array.from({ length: ROWS }, (_, at): Row => ({
    c_dose_admission_id: admissions[at % admissions.length]?.c_admission_admission_id ?? null,
    c_dose_medicine_id: medicines[at % medicines.length]?.c_medicine_medicine_id ?? null,
    c_dose_given_at: given(at).slice(0, 19).replace('T', ' '),
    c_dose_quantity: `${(at % 9) + 1}.50`
  }))
  const filled = apply(design, { kind: 'table.setRows', table: 't_dose', rows })
  if (!filled.ok) throw new Error(filled.refusal.message)
  return { ...filled.design, id: 'd_many', name: 'Many doses' }
}

const WATCH = `
  window.longest = 0;
  new PerformanceObserver((list) => {
    for (const task of list.getEntries()) window.longest = Math.max(window.longest, task.duration);
  }).observe({ type: 'longtask' });`

/** Gone through several times, so that a busy minute of the machine does not count; of each the middle is told. */
export async function benchGrid(times: number): Promise<GridLine[]> {
  const rounds: GridLine[][] = []
  while (rounds.length < times) rounds.push(await goThrough())
  const blockedIn = (at: number): number[] => rounds.flatMap((round) => round[at]?.blocked ?? [])
  return (rounds[0] ?? []).map(({ what }, at) => ({ what, blocked: spread(blockedIn(at)).median }))
}

async function goThrough(): Promise<GridLine[]> {
  const lines: GridLine[] = []
  const app = await new App().start()
  const browser = await new Browser().start()
  try {
    const address = await app.put(manyDoses())
    await browser.open(`${address}/rows/t_dose`)
    await browser.says('100,000 rows', '.sheet header')
    await settle()
    await browser.driver.executeScript(WATCH)
    const watched = async (what: string, act: () => Promise<unknown>): Promise<void> => {
      await browser.driver.executeScript('window.longest = 0')
      await act()
      await settle()
      const blocked = await browser.driver.executeScript<number>('return window.longest')
      lines.push({ what, blocked })
    }
    await watched('scrolling through them', () =>
      browser.driver.executeAsyncScript(`
        const done = arguments[0], grid = document.querySelector('.grid');
        let at = 0;
        const step = () => { grid.scrollTop = (at += 7001) % grid.scrollHeight; at < 900000 ? requestAnimationFrame(step) : done(); };
        step();`)
    )
    const focus = (): Promise<unknown> =>
      browser.driver.executeScript('document.querySelector(".grid").focus()')
    await focus()
    await watched('a new value, the first', () =>
      browser.type(Key.HOME, Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ARROW_RIGHT, '4', Key.ENTER)
    )
    await watched('a new value, the next', () => browser.type('5', Key.ENTER))
    await watched('a new value in a key', () =>
      browser.type(Key.ARROW_LEFT, '2026-02-03 04:05:06', Key.ENTER)
    )
    await watched('taking it back', () => browser.click('button', 'Undo'))
    await focus()
    await watched('a new row', () => browser.type(Key.INSERT, Key.ESCAPE))
    await browser.says('100,001 rows', '.sheet header')
    await watched('ordering them', () => browser.click('span', 'quantity'))
    await watched('looking for some by typing', async () => {
      const field = await browser.see('.filter')
      // One key after the other, as a keyboard sends them.
      for (const letter of '2026-02-03 04:05') await field.sendKeys(letter)
    })
    await browser.until('some are found', async () => (await gridRows(browser)) < 20)
    await watched('all of them again', async () => {
      const field = await browser.see('.filter')
      await field.sendKeys(Key.ESCAPE)
    })
    await focus()
    await watched('trying a delete', () => browser.type(Key.DELETE))
    await browser.see('.rehearsal')
    await watched('putting it back', () => browser.type(Key.ESCAPE))
    await browser.open(`${address}/rows/t_admission`)
    await browser.see('.line')
    await settle()
    await browser.driver.executeScript(WATCH)
    await focus()
    await watched('trying a delete that takes thousands along', async () => {
      await browser.type(Key.DELETE)
      await browser.says('doses', '.rehearsal .steps')
    })
  } finally {
    await browser.stop()
    await app.stop()
  }
  return lines
}

const gridRows = async (browser: Browser): Promise<number> =>
  Number(await (await browser.see('.grid')).getAttribute('aria-rowcount')) - 1

const settle = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 2500))
