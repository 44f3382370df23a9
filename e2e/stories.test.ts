import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Numbers } from '../tests/queries.ts'
import { times } from '../tests/times.ts'
import { Key } from './browser.ts'
import { session } from './session.ts'

/**
 * What one person does in a browser while the server comes and goes: edits, looks at the shelf, loads the page anew,
 * opens another tab and closes it. In the end everything that was typed is on the server.
 */
describe('what is typed in a browser', () => {
  const { app, browser } = session({ demo: true })
  const seen: Record<string, number> = {}
  const count = (what: string): void => void (seen[what] = (seen[what] ?? 0) + 1)
  let isUp = true

  const bench = (): string => `${app.address}/d/d_fernhollow/bench/t_finder`
  const isAtBench = async (): Promise<boolean> =>
    (await browser.driver.getCurrentUrl()).includes('/bench/') &&
    (await browser.driver.executeScript<boolean>('return document.querySelector(".sheet") !== null'))
  const open = async (): Promise<void> => {
    await browser.open(bench())
    await browser.see('.sheet')
    await browser.untilLineHasKeyboard()
  }
  const stop = async (): Promise<void> => {
    await app.kill()
    isUp = false
  }
  const start = async (): Promise<void> => {
    await app.run()
    isUp = true
  }

  /** A column more. Typed where the bench is; the page says when it has taken it. */
  const type = async (name: string): Promise<void> => {
    await browser.type(Key.END, Key.ENTER, name, Key.TAB, 'text(20)', Key.ENTER, Key.ESCAPE)
    await browser.until(`${name} is in the sheet`, () =>
      browser.driver.executeScript<boolean>(
        'return [...document.querySelectorAll(".sheet input")].some(({ value }) => value === arguments[0])',
        name
      )
    )
    // The browser keeps it within milliseconds; one that is killed before has not.
    await browser.driver.sleep(200)
    count(isUp ? 'typed with the server' : 'typed without it')
  }

  const actions: Record<string, (name: string, typed: string[]) => Promise<void>> = {
    edits: async (name, typed) => {
      if (!(await isAtBench())) {
        if (!isUp) return
        await open()
      }
      await type(name)
      typed.push(name)
    },
    'the server goes': async () => {
      if (isUp) await stop()
    },
    'the server comes back': async () => {
      if (!isUp) await start()
    },
    'the shelf': async () => {
      if (!(await isAtBench())) return
      await browser.click('a', 'Shelf')
      await browser.until('the shelf is there', async () => !(await isAtBench()))
      count('left for the shelf')
    },
    'loaded anew': async () => {
      if (!isUp) return
      await open()
      count('loaded anew')
    },
    'another tab': async (name, typed) => {
      if (!isUp) return
      const here = await browser.driver.getWindowHandle()
      await browser.driver.switchTo().newWindow('tab')
      await open()
      if (name.endsWith('0')) await stop()
      await type(name)
      typed.push(name)
      await browser.driver.close()
      await browser.driver.switchTo().window(here)
      count('another tab, closed')
    }
  }
  const kinds = [
    'edits',
    'edits',
    'the server goes',
    'the server comes back',
    'the shelf',
    'loaded anew',
    'another tab'
  ]

  it(
    'comes to the server, whatever becomes of it and of the page',
    async () => {
      await browser.open(app.address)
      const stories = fc.sample(fc.array(fc.nat(1000), { minLength: 30, maxLength: 30 }), {
        numRuns: times(20),
        seed: 7
      })
      for (const [story, given] of stories.entries()) {
        const numbers = new Numbers(given)
        const typed: string[] = []
        await open()
        for (let step = 0; step < 6; step++)
          await actions[numbers.pick(kinds)]?.(`seen_${story}_${step}`, typed)
        if (!isUp) await start()
        await browser.open(app.address)
        await browser.until(`all of story ${story} is kept (${typed.join(', ')})`, async () => {
          const kept = JSON.stringify(await app.design('d_fernhollow'))
          return typed.every((name) => kept.includes(`"${name}"`))
        })
        await browser.until(
          'nothing is on its way',
          async () => !(await browser.text()).includes('on the way')
        )
      }
      const all = [
        'typed with the server',
        'typed without it',
        'left for the shelf',
        'loaded anew',
        'another tab, closed'
      ]
      expect(all.filter((what) => (seen[what] ?? 0) < 3)).toEqual([])
    },
    times(600_000)
  )
})
