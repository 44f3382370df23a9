import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { DIALECTS } from '../dialect/index.ts'
import { pricesLater } from './later.ts'

const { design } = fernhollow()
const prices = (id: string, to?: string): Record<string, string> => {
  const table = tableOf(design, id) ?? expect.fail(id)
  const key = table.foreignKeys.find((each) => each.table === to)
  const later = pricesLater(design, table, key, DIALECTS.postgresql)
  return Object.fromEntries(later.map((each) => [each.to, each.price.kind]))
}

describe('what a choice would cost to change later', () => {
  it('is worked out from what would be carried', () => {
    expect(prices('t_admission', 't_finder')).toEqual({
      'many-to-many': 'rows moved',
      'one-to-one': 'free',
      required: 'free'
    })
    expect(prices('t_release', 't_release_site')).toMatchObject({
      'many-to-many': 'rows moved',
      optional: 'free'
    })
    // Of several skills only one has a place, and of what the pairs say only theirs.
    expect(prices('t_volunteer_skill')).toMatchObject({ 'one-to-many': 'knowledge lost' })
    expect(prices('t_volunteer_skill')['a number of its own as key']).toMatch(/^(free|rows moved)$/)
  })
})
