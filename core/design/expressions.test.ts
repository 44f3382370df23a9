import { describe, expect, it } from 'vitest'
import { readExpression, showExpression } from './expressions.ts'
import type { Column } from './model.ts'
import { parseType } from './type.ts'

const MOODS = { id: 'e_mood', name: 'mood', values: ['calm', 'wary'] }
const column = (name: string, type: string): Column => {
  const parsed = parseType(type, [MOODS])
  if (!parsed.ok) throw new Error(parsed.message)
  return { id: `c_${name.replace(' ', '_')}`, name, type: parsed.value, required: false }
}
const columns = [
  column('weight_g', 'integer'),
  column('name', 'text(20)'),
  column('found_on', 'date'),
  column('mood', 'mood'),
  column('protected', 'boolean'),
  column('two words', 'decimal(8,2)'),
  column('seen_at', 'timestamp')
]
const reading = { columns, enums: [MOODS] }
const said = (text: string): string => {
  const read = readExpression(text, reading)
  return read.ok ? `kept as ${read.value}` : read.message
}

describe('a condition on a table', () => {
  it.each([
    ['weight_g > 0', 'kept as {c_weight_g} > 0'],
    ['WEIGHT_G > 0', 'kept as {c_weight_g} > 0'],
    ['"two words" * 2 < 10.5', 'kept as {c_two_words} * 2 < 10.5'],
    ["found_on >= '2026-05-03' and protected", "kept as {c_found_on} >= '2026-05-03' AND {c_protected}"],
    ["mood in ('calm', 'wary')", "kept as {c_mood} IN ('calm', 'wary')"],
    ['seen_at > found_on', 'kept as {c_seen_at} > {c_found_on}'],
    ['length(trim(name)) > 2', 'kept as length(trim({c_name})) > 2']
  ])('%s is taken, its columns by id', (text, kept) => expect(said(text)).toBe(kept))

  it.each([
    ['weight > 0', 'There is no column called weight here.'],
    ['weight_g', 'This is a value, not a condition. Compare it with something: weight_g > 0.'],
    ["weight_g > 'heavy'", '“heavy” is not a whole number. So it cannot stand beside weight_g.'],
    [
      "found_on > '2026-02-30'",
      '“2026-02-30” is not a date such as 2026-05-03. So it cannot stand beside found_on.'
    ],
    ["mood = 'angry'", '“angry” is not one of calm, wary. So it cannot stand beside mood.'],
    ['name > 3', 'name is a text and 3 is a number; they cannot be compared.'],
    [
      'now() > seen_at',
      'now gives something else each time, so what it is used in would hold at one moment and not at the next.'
    ],
    ['lower(weight_g) = name', 'weight_g is a number, and a text is needed there.'],
    ['frobnicate(name)', /^There is no function frobnicate\. There are: lower, /],
    ['length(name, 2) > 1', 'length takes 1 values, not 2.'],
    ['weight_g > 0; drop table patient', '“;” cannot stand there.'],
    ['x'.repeat(3000), 'That is too long: an expression has at most 2000 characters.']
  ])('%s is refused in plain words', (text, message) =>
    expect(said(text)).toEqual(typeof message === 'string' ? message : expect.stringMatching(message))
  )

  it('follows a column that is renamed', () => {
    const read = readExpression('weight_g > 0', reading)
    const renamed = columns.map((each) =>
      each.name === 'weight_g' ? { ...each, name: 'weight in grams' } : each
    )
    expect(read.ok && showExpression(read.value, renamed)).toBe('"weight in grams" > 0')
  })
})

describe('a value that is worked out', () => {
  it.each([
    ['decimal(10,2)', '"two words" * weight_g', true],
    ['text', "upper(name) || '!'", true],
    ['integer', 'name', false],
    ['boolean', 'weight_g > 3', true],
    ['date', "'2026-05-03'", true],
    ['date', "'soon'", false],
    ['mood', "'calm'", true],
    ['mood', 'name', false]
  ])('for %s can be %s: %s', (type, text, good) => {
    const wanted = parseType(type, [MOODS])
    expect(readExpression(text, { ...reading, ...(wanted.ok && { wanted: wanted.value }) }).ok).toBe(good)
  })
})
