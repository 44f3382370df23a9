import { beforeEach, describe, expect, it, vi } from 'vitest'
import { Histories, type History, type Step } from './history.ts'

const step = (n: number): Step => ({
  label: `rename it ${n}`,
  operation: { kind: 'design.rename', name: `name ${n}` }
})
const steps = (count: number): Step[] => Array.from({ length: count }, (_, n) => step(n))
const history: History = { past: steps(3), future: steps(1) }

describe('what can be undone', () => {
  const stored = new Map<string, string>()
  beforeEach(() => {
    stored.clear()
    vi.stubGlobal('sessionStorage', {
      getItem: (key: string) => stored.get(key) ?? null,
      setItem: (key: string, value: string) => stored.set(key, value)
    })
  })

  it('is each design’s own, and outlives the page', () => {
    const before = new Histories()
    before.keep('d_one', history)
    expect(before.of('d_one')).toBe(history)
    expect(before.of('d_two')).toBeUndefined()
    expect(new Histories().of('d_one')).toBeUndefined()
    before.store()
    expect(new Histories().of('d_one')).toEqual(history)
    expect(new Histories().of('d_two')).toBeUndefined()
  })

  it('is the last two hundred steps', () => {
    const before = new Histories()
    before.keep('d_one', { past: steps(500), future: [] })
    before.store()
    const past = new Histories().of('d_one')?.past ?? []
    expect([past.length, past.at(-1)?.label]).toEqual([200, 'rename it 499'])
  })

  it.each([
    ['nothing', ''],
    ['half a text', '{"past": ['],
    ['something else', '{"past": [{"label": "x", "operation": {"kind": "drop everything"}}], "future": []}']
  ])('is forgotten where the storage holds %s', (_, text) => {
    stored.set('patient-key history d_one', text)
    expect(new Histories().of('d_one')).toBeUndefined()
  })

  it('is kept while the page is there by a browser that stores nothing', () => {
    vi.stubGlobal('sessionStorage', {
      getItem: () => {
        throw new Error('denied')
      },
      setItem: () => {
        throw new Error('denied')
      }
    })
    const here = new Histories()
    here.keep('d_one', history)
    expect(() => here.store()).not.toThrow()
    expect(here.of('d_one')).toBe(history)
    expect(here.of('d_two')).toBeUndefined()
  })
})
