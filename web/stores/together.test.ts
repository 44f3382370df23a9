import fc from 'fast-check'
import { createPinia, setActivePinia } from 'pinia'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { writeDesignFile } from '../../core/design/file.ts'
import type { Design } from '../../core/design/model.ts'
import { apply } from '../../core/edit/apply.ts'
import { App } from '../../e2e/app.ts'
import { choices, Maker } from '../../tests/designs.ts'
import { Events, pretendPage, type Page } from '../../tests/page.ts'
import { times } from '../../tests/times.ts'
import { useDesign } from './design.ts'

const app = new App()
let page: Page
beforeAll(async () => {
  await app.start()
  page = pretendPage(() => app.address)
})
afterAll(async () => {
  page.end()
  await app.stop()
})

type Tab = ReturnType<typeof useDesign>
async function tab(id: string): Promise<Tab> {
  setActivePinia(createPinia())
  const store = useDesign()
  await store.open(id)
  return store
}
const shows = (design: Design | undefined): string => (design ? writeDesignFile(design) : '')

describe('twenty pages on one design', () => {
  it('all end with the server’s bytes, while streams are dropped and the server is killed', async () => {
    const made = (await (
      await fetch('/api/designs', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ name: 'Together' })
      })
    ).json()) as { design: Design }
    const { id } = made.design
    const tabs = await Promise.all(Array.from({ length: 20 }, () => tab(id)))
    const seen = { submitted: 0, cut: 0, killed: 0 }
    const makers = tabs.map((_, at) => ({ maker: new Maker(), letter: String.fromCharCode(97 + at) }))
    for (let round = 0; round < times(3); round++) {
      const [taken = []] = fc.sample(choices(60, 60), { seed: 100 + round, numRuns: 1 })
      for (const [at, choice] of taken.entries()) {
        const which = at % tabs.length
        const store = tabs[which] as Tab
        const { maker, letter } = makers[which] as (typeof makers)[number]
        if (!store.design) continue
        const operation = JSON.parse(
          JSON.stringify(maker.operation(store.design, choice)).replaceAll(/_x(\d+)"/g, `_${letter}$1"`)
        ) as Parameters<Tab['submit']>[0]
        if (apply(store.design, operation).ok) seen.submitted++
        store.submit(operation)
        if (at % 9 === 0) {
          // A stream that is lost without a word to the page, or with one.
          const stream = Events.opened.at(-1 - (choice[1] % 20))
          if (choice[2] % 2) stream?.fallSilent()
          else stream?.onerror?.()
          seen.cut++
        }
        if (at % 7 === 0) await new Promise((resolve) => setTimeout(resolve, choice[3] % 20))
      }
      await app.kill()
      seen.killed++
      await app.run()
    }
    // Whoever hears nothing any more finds out by asking: an edit of their own, or a stream opened anew
    // after a silence.
    for (const [at, store] of tabs.entries()) store.submit({ kind: 'design.rename', name: `Together ${at}` })
    await vi.waitFor(
      async () => {
        const server = (await (await fetch(`/api/designs/${id}`)).json()) as {
          design: Design
          revision: number
        }
        for (const store of tabs) expect([store.pending.length, store.failure]).toEqual([0, ''])
        const last = Math.max(...tabs.map((store) => store.revision))
        expect(server.revision).toBe(last)
        // A page whose stream fell silent is behind until it opens another; here it is told where the
        // server stands.
        for (const store of tabs)
          if (store.revision < last) store.submit({ kind: 'design.rename', name: `Together at ${last}` })
        for (const store of tabs) expect(shows(store.design)).toBe(shows(server.design))
      },
      { timeout: 60_000, interval: 300 }
    )
    expect(seen.submitted).toBeGreaterThan(100)
    expect(seen.cut).toBeGreaterThan(20)
    for (const store of tabs) store.close()
  })
})
