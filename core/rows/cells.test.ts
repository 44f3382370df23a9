import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Column } from '../design/model.ts'
import type { NamedValues, Type } from '../design/type.ts'
import { typedInto, wordBegun, wordsWith } from './cells.ts'

const moods: NamedValues = { id: 'e_mood', name: 'mood', values: ['calm', 'wary', 'very wary', 'Calmed'] }
const column = (type: Type): Column => ({ id: 'c_mood', name: 'mood', type, required: false })
const mood = column({ kind: 'enum', enum: 'e_mood' })

describe('a cell that holds a word of a list', () => {
  it.each([
    ['', ['calm', 'wary', 'very wary', 'Calmed']],
    ['WA', ['wary', 'very wary']],
    ['cal', ['calm', 'Calmed']],
    ['fierce', []]
  ])('offers for %j those that have it, first those that begin so', (typed, words) =>
    expect(wordsWith(mood, typed, [moods])).toEqual(words)
  )

  it('is meant by what only one word begins with', () => {
    expect(['w', 'V', 'cal', 'calm', 'x', ''].map((typed) => wordBegun(mood, typed, [moods]))).toEqual([
      'wary',
      'very wary',
      undefined,
      undefined,
      undefined,
      undefined
    ])
    expect(wordsWith(column({ kind: 'boolean' }), 't', [])).toEqual(['true'])
    expect(wordsWith(column({ kind: 'date' }), '', [])).toEqual([])
  })

  it('takes what is pasted or imported only whole', () => {
    const { design } = fernhollow()
    const [list] = design.enums
    const table = design.tables.find(({ columns }) =>
      columns.some(({ type }) => type.kind === 'enum' && type.enum === list?.id)
    )
    const held = table?.columns.find(({ type }) => type.kind === 'enum')
    const [word] = list?.values ?? []
    if (!table || !held || word === undefined) return expect.fail('the demo has no list')
    expect(typedInto(design, table, held, {}, word)).toMatchObject({ ok: true })
    expect(typedInto(design, table, held, {}, word.slice(0, -1))).toMatchObject({ ok: false })
  })
})
