import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Logged } from '../api/client.ts'
import { Outbox } from './outbox.ts'

const logged = (name: string): Logged => ({
  revision: 0,
  mark: '',
  operationId: `operation ${name}`,
  client: 'c',
  operation: { kind: 'design.rename', name }
})
const names = (pending: readonly Logged[]): string[] =>
  pending.map(({ operation }) => (operation.kind === 'design.rename' ? operation.name : ''))

let stored: Record<string, string>
let locks: Set<string>

beforeEach(() => {
  stored = {}
  locks = new Set()
  const methods: Record<string, unknown> = {
    getItem: (key: string) => stored[key] ?? null,
    setItem: (key: string, value: string) => {
      stored[key] = value
    },
    removeItem: (key: string) => {
      delete stored[key]
    }
  }
  vi.stubGlobal(
    'localStorage',
    new Proxy(
      {},
      {
        get: (_, name: string) => methods[name],
        ownKeys: () => Object.keys(stored),
        getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true })
      }
    )
  )
  vi.stubGlobal('navigator', {
    locks: {
      request: async (name: string, hold: () => Promise<void>) => {
        locks.add(name)
        await hold()
        locks.delete(name)
      },
      query: () => Promise.resolve({ held: [...locks].map((name) => ({ name })) })
    }
  })
})
afterEach(() => vi.unstubAllGlobals())

describe('what is on its way', () => {
  it('is left alone while its tab lives, and taken over once when it is gone', async () => {
    const first = new Outbox('d_ward')
    first.keep([logged('a'), logged('b')])
    const second = new Outbox('d_ward')
    expect(await second.adopt()).toEqual([])
    first.close()
    await Promise.resolve()
    const third = new Outbox('d_ward')
    expect(names(await third.adopt())).toEqual(['a', 'b'])
    expect(await second.adopt()).toEqual([])
    expect(Object.keys(stored)).toHaveLength(1)
    third.keep([])
    expect(stored).toEqual({})
  })

  it('of another design is not touched', async () => {
    const gone = new Outbox('d_ward')
    gone.keep([logged('a')])
    gone.close()
    await Promise.resolve()
    expect(await new Outbox('d_wa').adopt()).toEqual([])
    expect(await new Outbox('d_pen').adopt()).toEqual([])
    expect(Object.keys(stored)).toHaveLength(1)
  })

  it('is no trouble where the browser stores nothing, or has no locks', async () => {
    vi.stubGlobal(
      'localStorage',
      new Proxy(
        {},
        {
          get: () => {
            throw new Error('not allowed')
          },
          ownKeys: () => {
            throw new Error('not allowed')
          }
        }
      )
    )
    vi.stubGlobal('navigator', {})
    const outbox = new Outbox('d_ward')
    expect(() => outbox.keep([logged('a')])).not.toThrow()
    expect(await outbox.adopt()).toEqual([])
    expect(() => outbox.close()).not.toThrow()
  })
})
