import fc from 'fast-check'
import { createPinia, setActivePinia } from 'pinia'
import { nextTick } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { times } from '../../tests/times.ts'
import { Histories } from '../stores/history.ts'
import { useTabs } from '../stores/tabs.ts'
import { remember, remembered } from './remembered.ts'

/** A browser's small storage that holds one text, whatever is asked for. */
const holding = (text: string): Partial<Storage> => ({ getItem: () => text, setItem: () => undefined })

const step = { label: 'rename it', operation: { kind: 'design.rename', name: 'Ward book' } }
const json = fc.oneof(
  fc.jsonValue(),
  fc.array(
    fc.oneof(fc.jsonValue(), fc.record({ id: fc.constant('d_a'), name: fc.string(), path: fc.string() }))
  ),
  fc.record({ past: fc.array(fc.oneof(fc.constant(step), fc.jsonValue())), future: fc.constant([]) })
)
const text = fc.oneof(
  json.map((value) => JSON.stringify(value)),
  fc.string({ unit: 'binary' })
)

describe('what a browser has remembered', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('is judged, whatever it is: a page has tabs and steps that are some, or none', () => {
    const seen = { tabs: 0, steps: 0, none: 0 }
    fc.assert(
      fc.property(text, (given) => {
        vi.stubGlobal('sessionStorage', holding(given))
        setActivePinia(createPinia())
        const { tabs } = useTabs()
        for (const tab of tabs) {
          expect(tab.path.startsWith('/d/')).toBe(true)
          seen.tabs++
        }
        const history = new Histories().of('d_a')
        if (history === undefined) seen.none++
        else seen.steps += history.past.length
      }),
      {
        numRuns: times(1000),
        examples: [
          [JSON.stringify([null, { id: 'd_a', name: 'A', path: '/d/d_a/bench' }, 7])],
          [JSON.stringify({ past: [step], future: [] })],
          [JSON.stringify([{ id: 'd_a', name: 'A', path: '//elsewhere.example' }])]
        ]
      }
    )
    expect(seen.none).toBeGreaterThan(500)
    expect(seen.tabs).toBeGreaterThan(0)
    expect(seen.steps).toBeGreaterThan(0)
  })

  it('is nothing where the browser refuses its storage, or has no room, and the page goes on', async () => {
    const refused = (): never => {
      throw new DOMException('no', 'SecurityError')
    }
    const browsers = [
      { get: refused, set: undefined },
      { value: { getItem: refused, setItem: refused } },
      { value: { getItem: () => null, setItem: refused } }
    ]
    for (const browser of browsers) {
      Object.defineProperty(globalThis, 'sessionStorage', { configurable: true, ...browser })
      setActivePinia(createPinia())
      const { tabs, visit } = useTabs()
      expect(tabs).toEqual([])
      visit('d_a', '/d/d_a/bench')
      await nextTick()
      expect(useTabs().tabs).toHaveLength(1)
      expect(remembered('sessionStorage', 'x')).toBeUndefined()
      expect(() => remember('sessionStorage', 'x', 'y')).not.toThrow()
    }
  })
})
