import { createPinia, setActivePinia } from 'pinia'
import { nextTick } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useTabs } from './tabs.ts'

/** The browser's storage for one window, as far as tabs use it. */
function storage(): Storage {
  const held = new Map<string, string>()
  return {
    getItem: (key: string) => held.get(key) ?? null,
    setItem: (key: string, value: string) => void held.set(key, value)
  } as Storage
}

describe('the designs that are open', () => {
  beforeEach(() => {
    vi.stubGlobal('sessionStorage', storage())
    setActivePinia(createPinia())
  })

  it('stand in the order in which they were opened, each where one was in it', () => {
    const { visit, tabs } = useTabs()
    visit('d_a', '/d/d_a/bench')
    visit('d_b', '/d/d_b/ledger', 'Ward book')
    visit('d_a', '/d/d_a/ledger/t_x', 'Fernhollow')
    visit('d_a', '/d/d_a/outputs')
    expect(useTabs().tabs).toEqual([
      { id: 'd_a', name: 'Fernhollow', path: '/d/d_a/outputs' },
      { id: 'd_b', name: 'Ward book', path: '/d/d_b/ledger' }
    ])
    expect(tabs).toHaveLength(0)
  })

  it('go round, and closing one leads to the one before it', () => {
    const store = useTabs()
    for (const id of ['d_a', 'd_b', 'd_c']) store.visit(id, `/d/${id}`)
    expect(
      [store.beside('d_a', 1), store.beside('d_c', 1), store.beside('d_a', -1)].map((tab) => tab?.id)
    ).toEqual(['d_b', 'd_a', 'd_c'])
    expect(store.close('d_b')?.id).toBe('d_a')
    expect(store.close('d_a')?.id).toBe('d_c')
    expect(store.close('d_c')).toBeUndefined()
  })

  it('are there again when the window is loaded anew, unless what was kept is not theirs', async () => {
    useTabs().visit('d_a', '/d/d_a', 'Fernhollow')
    await nextTick()
    setActivePinia(createPinia())
    expect(useTabs().tabs).toEqual([{ id: 'd_a', name: 'Fernhollow', path: '/d/d_a' }])
    for (const broken of ['{', '{"a":1}', '[{"id":1}, null]']) {
      sessionStorage.setItem('patient-key open designs', broken)
      setActivePinia(createPinia())
      expect(useTabs().tabs).toEqual([])
    }
  })
})
