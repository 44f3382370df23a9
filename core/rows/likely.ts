import type { Column, Design } from '../design/model.ts'
import { intervalText, type Value } from '../design/value.ts'
import type { Random } from './random.ts'

const FIRST = [
  'Ines',
  'Bram',
  'Odile',
  'Teodor',
  'Cass',
  'Lin',
  'Osric',
  'Hester',
  'Yusra',
  'Dov',
  'Philippa',
  'Tam'
]
const LAST = [
  'Toller',
  'Okeby',
  'Farrant',
  'Minks',
  'Wetherlow',
  'Quill',
  'Mossgrove',
  'Pell',
  'Banning',
  'Arkwright'
]
const PLACES = [
  'Mill Lane',
  'Quay Street',
  'Fernhollow Wood',
  'Oxlea Road',
  'Saltings beach',
  'Larch Lane',
  'Old mill'
]
const THINGS = [
  'oak',
  'bracken',
  'thistle',
  'amber',
  'pebble',
  'willow',
  'ember',
  'sorrel',
  'flint',
  'clover',
  'rush'
]
const SAID = [
  'eats by itself',
  'left wing bandaged',
  'quiet during the night',
  'weight is up',
  'drinks, does not eat yet'
]
/** The first moment that is made up, and how many days it goes on. */
const FROM = Date.UTC(2025, 0, 1)
const DAYS = 600

/** What a column's name says that it holds, the first that fits. */
const BY_NAME: [RegExp, (random: Random) => string][] = [
  [
    /mail/i,
    (random) => `${random.pick(FIRST)}.${random.pick(LAST)}${random.below(1000)}@example.org`.toLowerCase()
  ],
  [/phone|telephone|mobile/i, (random) => `01632 960 ${String(random.below(1000)).padStart(3, '0')}`],
  [/post_?code|zip/i, (random) => `FH${1 + random.below(9)} ${1 + random.below(9)}${letters(random, 2)}`],
  [/street|address|place|site|found_at|where/i, (random) => `${1 + random.below(90)} ${random.pick(PLACES)}`],
  [/note|said|remark|comment|description|text/i, (random) => random.pick(SAID)],
  [/name|title|label/i, (random) => `${random.pick(FIRST)} ${random.pick(LAST)}`],
  [/code|_no$|number|ring/i, (random) => `${letters(random, 2)}${random.below(10_000)}`]
]

const letters = (random: Random, count: number): string =>
  Array.from({ length: count }, () => String.fromCharCode(65 + random.below(26))).join('')

/**
 * A value that a column could hold, by its name and its type; nothing where none is known.
 * @param n how many rows have been made, which widens what is drawn from where values must be apart.
 */
export function valueLike(design: Design, column: Column, random: Random, n: number): Value {
  const { type, name } = column
  switch (type.kind) {
    case 'boolean':
      return random.chance(50)
    case 'integer':
      return wholeNumber(name, random, type.size === 'small' ? 30_000 : Math.max(1000, n * 4))
    case 'decimal': {
      const whole = random.below(10 ** Math.min(type.precision - type.scale, 3))
      const rest = String(random.below(10 ** Math.min(type.scale, 2))).padStart(Math.min(type.scale, 2), '0')
      return type.scale > 0 ? `${whole}.${rest}` : String(whole)
    }
    case 'float':
      return Math.round(random.next() * 10_000) / 100
    case 'date':
      return moment(random).slice(0, 10)
    case 'time':
      return moment(random).slice(11)
    case 'timestamp':
      return moment(random)
    case 'interval':
      return intervalText((1 + random.below(16)) * 1800)
    case 'uuid':
      // The layout of a random uuid (RFC 9562, 5.4): some engines look at it.
      return [8, 4]
        .map((digits) => hex(random, digits))
        .concat(
          `4${hex(random, 3)}`,
          `${random.pick(['8', '9', 'a', 'b'])}${hex(random, 3)}`,
          hex(random, 12)
        )
        .join('-')
    case 'binary':
      return hex(random, 2 * Math.min(type.length ?? 8, 8))
    case 'json':
      return `{"${random.pick(THINGS)}":${random.below(100)}}`
    case 'enum': {
      const list = design.enums.find(({ id }) => id === type.enum)
      return list ? random.pick(list.values) : null
    }
    case 'native':
      return null
    case 'text':
    case 'char':
      return shortened(textLike(name, random, n), type.length)
  }
}

function wholeNumber(name: string, random: Random, most: number): number {
  if (/weight|_g$/i.test(name)) return 40 + random.below(4000)
  if (/capacity|quantity|count|size/i.test(name)) return 1 + random.below(12)
  return 1 + random.below(most)
}

function textLike(name: string, random: Random, n: number): string {
  const likely = BY_NAME.find(([pattern]) => pattern.test(name))?.[1]
  const said = likely ? likely(random) : `${random.pick(THINGS)} ${random.pick(THINGS)}`
  // Where many are wanted that are apart, a number tells them apart.
  return n > 50 && random.chance(60) ? `${said} ${random.below(n * 10)}` : said
}

/** Of what is too long the end stays, which tells most apart. */
function shortened(text: string, length: number | undefined): string {
  if (length === undefined || text.length <= length) return text
  return text.slice(text.length - length).trim() || text.slice(0, length)
}

const moment = (random: Random): string =>
  new Date(FROM + random.below(DAYS * 1440) * 60_000).toISOString().slice(0, 19).replace('T', ' ')

const hex = (random: Random, digits: number): string =>
  Array.from({ length: digits }, () => random.below(16).toString(16)).join('')
