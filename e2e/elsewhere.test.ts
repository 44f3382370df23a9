import { describe, expect, it } from 'vitest'
import { Key } from './browser.ts'
import { session } from './session.ts'

const NAME = 'designs.fernhollow.test'

/** A server on another machine, by a name and without TLS: a page there has less of a browser than one of this machine. */
describe('on a name that is not this machine’s', () => {
  const { app, browser } = session({ demo: true, host: '0.0.0.0', names: [NAME] })
  const address = (): string => app.address.replace('127.0.0.1', NAME)

  it('a design opens, is worked on, and is kept', async () => {
    await browser.open(`${address()}/d/d_fernhollow/bench/t_patient?token=${app.token}`)
    await browser.see('.sheet')
    expect(await browser.driver.executeScript('return isSecureContext')).toBe(false)
    await browser.untilLineHasKeyboard()
    await browser.type(Key.END, Key.ENTER, 'seen_elsewhere', Key.TAB, 'text(20)', Key.ENTER, Key.ESCAPE)
    const kept = async (): Promise<boolean> => {
      const answer = await fetch(`${app.address}/api/designs/d_fernhollow?token=${app.token}`)
      return (await answer.text()).includes('seen_elsewhere')
    }
    await browser.until('the column is kept', kept)
  })
})

describe('a design that is left', () => {
  const { app, browser } = session({ demo: true })

  it('has its edits on their way, which the shelf tells, and sends them when the server is back', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/bench/t_patient`)
    await browser.see('.sheet')
    await browser.untilLineHasKeyboard()
    await browser.until('the shelf is at hand', () =>
      browser.driver.executeScript<boolean>(
        'return performance.getEntriesByType("resource").some(({ name }) => /ShelfScreen.*js$/.test(name))'
      )
    )
    await app.kill()
    await browser.type(Key.END, Key.ENTER, 'while_away', Key.TAB, 'text(20)', Key.ENTER, Key.ESCAPE)
    await browser.says('what you change is kept here (1 so far)')
    await browser.click('a', 'Shelf')
    await browser.says('Fernhollow Wildlife Hospital: One change is on the way to the server.')
    await browser.says('The server does not answer. What you typed is kept here')
    expect((await browser.text()).split('does not answer')).toHaveLength(2)
    await app.run()
    await browser.until('the column is kept', async () =>
      JSON.stringify(await app.design('d_fernhollow')).includes('while_away')
    )
    await browser.until('nothing is on its way', async () => !(await browser.text()).includes('on the way'))
  })

  it('that no tab has any more is sent by the next page, wherever that is', async () => {
    await browser.open(`${app.address}/d/d_fernhollow/bench/t_patient`)
    await browser.see('.sheet')
    await browser.untilLineHasKeyboard()
    await app.kill()
    await browser.type(Key.END, Key.ENTER, 'left_behind', Key.TAB, 'text(20)', Key.ENTER, Key.ESCAPE)
    await browser.says('what you change is kept here (1 so far)')
    await browser.open('about:blank')
    await app.run()
    await browser.open(app.address)
    await browser.until('the column is kept', async () =>
      JSON.stringify(await app.design('d_fernhollow')).includes('left_behind')
    )
  })
})
