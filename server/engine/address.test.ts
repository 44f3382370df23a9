import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { addressIn, passwordIn } from './address.ts'

const word = fc
  .string({ unit: 'binary', minLength: 1, maxLength: 12 })
  .filter((text) => text.isWellFormed() && !text.includes('\0'))
const host = fc.constantFrom('localhost', '127.0.0.1', '[::1]', 'db.fernhollow.example')

describe('the address of a server', () => {
  it('gives each part as it was before it was written into an address', () => {
    fc.assert(
      fc.property(
        word,
        word,
        word,
        host,
        fc.option(fc.integer({ min: 1, max: 65535 })),
        fc.boolean(),
        (user, password, database, hostname, port, isBehind) => {
          const [u, p, d] = [user, password, database].map(encodeURIComponent)
          const url = `mariadb://${u}${isBehind ? '' : `:${p}`}@${hostname}${port === null ? '' : `:${port}`}/${d}${isBehind ? `?password=${p}` : ''}`
          expect(addressIn(url, ['mariadb'], 3306)).toEqual({
            hostname: hostname.replace(/[[\]]/g, ''),
            port: port ?? 3306,
            user,
            password,
            database
          })
          expect(passwordIn(url)).toBe(password)
        }
      ),
      { numRuns: times(1000) }
    )
  })

  it('that is none is nothing, whatever it is', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        'mariadb',
        'postgres',
        '://',
        ':',
        '@',
        '/',
        '?',
        '#',
        '%',
        '%zz',
        '%00',
        '[',
        ']',
        'password=',
        '..',
        '-1',
        '99999',
        ' ',
        '\n'
      ),
      fc.string({ unit: 'binary', maxLength: 6 })
    )
    const seen = { none: 0, some: 0, secret: 0 }
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 9 }), (pieces) => {
        const url = pieces.join('')
        const found = addressIn(url, ['mariadb', 'postgres'], 3306)
        if (passwordIn(url) !== undefined) seen.secret++
        if (!found) return void seen.none++
        seen.some++
        expect(found.database).not.toBe('')
        expect(Number.isInteger(found.port) && found.port >= 0 && found.port < 65536).toBe(true)
      }),
      {
        numRuns: times(3000),
        examples: [
          [['mariadb://u:%zz@h/d']],
          [['mariadb://u@h/d?password=%zz']],
          [['mariadb://u:p@h/d']],
          [['postgres', '://h/', 'd']]
        ]
      }
    )
    expect(addressIn('postgres://u@h/d%00user%00other', ['postgres'], 5432)).toBeUndefined()
    expect(seen.none).toBeGreaterThan(1000)
    expect(seen.some).toBeGreaterThan(1)
    expect(seen.secret).toBeGreaterThan(1)
  })
})
