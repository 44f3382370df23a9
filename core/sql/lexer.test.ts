import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { tokens } from './lexer.ts'

const texts = (sql: string): string[] => tokens(sql).map((token) => token.text)

describe('tokens', () => {
  it('leave out space and comments, and take quotes off names and strings', () => {
    expect(
      texts(
        `select "a""b", \`c\`\`d\`, [e f], 'it''s' -- a comment, 'not a string'\n from /* x; */ t where n >= 1.5e3;`
      )
    ).toEqual([
      'select',
      'a"b',
      ',',
      'c`d',
      ',',
      'e f',
      ',',
      "it's",
      'from',
      't',
      'where',
      'n',
      '>=',
      '1.5e3',
      ';'
    ])
    expect(tokens('select "select" \'select\'').map((token) => [token.kind, token.word])).toEqual([
      ['word', 'SELECT'],
      ['name', ''],
      ['string', '']
    ])
  })

  it('say where they begin, and never lose a character that is not space', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('a', '"', "'", ' ', '-', '(', '1', '🦔', '\n', '/', '*', '[') }),
        (sql) => {
          const found = tokens(sql)
          for (const [at, token] of found.entries()) {
            expect(token.at).toBeGreaterThanOrEqual(found[at - 1]?.at ?? 0)
            if (token.kind === 'mark') expect(sql.startsWith(token.text, token.at)).toBe(true)
          }
          const last = found.at(-1)
          if (last?.kind === 'word') expect(sql.slice(last.at)).toContain(last.text)
        }
      )
    )
  })

  it('read names in any script', () =>
    expect(texts('قنفذ naïve _x1 $')).toEqual(['قنفذ', 'naïve', '_x1', '$']))
})
