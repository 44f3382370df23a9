import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { times } from '../../tests/times.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Design } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import type { Operation } from '../edit/operation.ts'
import { outputsOf } from './outputs.ts'
import { OutputFlaw } from './made-by.ts'
import { FIRST_TEMPLATE } from './template.ts'
import { wantedFiles } from './wanted.ts'

const demo = fernhollow().design
function after(design: Design, ...operations: Operation[]): Design {
  return operations.reduce((now, operation) => {
    const result = apply(now, operation)
    return result.ok ? result.design : expect.fail(result.refusal.message)
  }, design)
}
const withTemplate = (text: string, more: Operation[] = []): Design =>
  after(demo, { kind: 'template.set', name: 'kinds', text }, ...more)
const written = (design: Design): string =>
  outputsOf(design)
    .find(({ name }) => name === 'template-kinds')
    ?.write(design) ?? expect.fail('no output')
const choose = (setting: string, to: string): Operation => ({
  kind: 'design.setOutputSetting',
  output: 'template-kinds',
  setting,
  to
})

describe('a template of a team’s own', () => {
  it('is over the shape, and begins with one that shows it', () => {
    const text = written(withTemplate(FIRST_TEMPLATE))
    for (const line of [
      '// Made by Patient Key from the design Fernhollow Wildlife Hospital.',
      'Stay is a row of stay, found by admissionId, startedAt',
      '  weightG: integer, or nothing',
      '  doses: many Dose',
      '  patient: Patient'
    ])
      expect(text.split('\n')).toContain(line)
  })

  it('has names as they are chosen, in other letter cases, of one and of several', () => {
    const text =
      '{% for entity in entities %}{{ entity.one | plural | UPPER_SNAKE }} {{ entity.fields[0].name }};{% endfor %}'
    expect(written(withTemplate(text))).toContain('CARER_NOTES carerNoteId;')
    expect(written(withTemplate(text, [choose('names', 'lower_snake')]))).toContain(
      'CARER_NOTES carer_note_id;'
    )
  })

  it('comes to a file for each table where it is so chosen, each in its place', () => {
    const design = withTemplate('record {{ entity.type }}', [
      choose('files', 'each'),
      choose('file', 'kinds/{{ entity.type }}.kind'),
      { kind: 'design.setOutput', output: 'template-kinds', to: 'src' }
    ])
    const files = wantedFiles(design, '')
    expect(files).toHaveLength(demo.tables.length)
    expect(files).toContainEqual({ path: 'src/kinds/CarerNote.kind', text: 'record CarerNote' })
  })

  it('is told of where a file of it would take the place of another', () => {
    const design = withTemplate('', [
      choose('files', 'each'),
      { kind: 'design.setOutput', output: 'template-kinds', to: 'src' },
      { kind: 'design.setOutput', output: 'python', to: 'src/dose.txt' }
    ])
    expect(() => wantedFiles(design, '')).toThrow(
      'Two outputs would be written to one place, src/dose.txt and src/Dose.txt'
    )
  })

  it.each([
    ['{% for entity in entitys %}{% endfor %}', /undefined variable: entitys, line:1/],
    ['{% for entity in entities %}', /not closed/],
    ['{{ design | shout }}', /undefined filter: shout/],
    ["{% render 'shape.json' %}", /shape.json/],
    ['{{ entities.constructor.name }}', /undefined variable/],
    ['{% for a in (1..100000000) %}{{ a }}{% endfor %}', /limit/],
    ["{{ 'now' | date: '%s' }}", /another each time/],
    ["{{ 'today' | date_to_string }}", /another each time/],
    ['{{ entities | map: "type" | sample }}', /another each time/],
    ['a\0b', /a zero byte/],
    ['half \ud83e of one', /half a character/]
  ])('that cannot be written says why: %s', (text, why) => {
    expect(() => written(withTemplate(text))).toThrow(why)
  })

  it('whose files would have one name, or none that can be, says for which', () => {
    const each = (name: string): Design => withTemplate('', [choose('files', 'each'), choose('file', name)])
    expect(() => written(each('{{ design }}.txt'))).toThrow(
      'Two files would be called Fernhollow Wildlife Hospital.txt'
    )
    expect(() => written(each('../{{ entity.type }}'))).toThrow(
      '“../Species” is no name of a file for species'
    )
  })

  it('of any text at all is written, or says in words why not', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        '{{',
        '}}',
        '{%',
        '%}',
        ' for ',
        ' in ',
        ' if ',
        ' endfor ',
        ' endif ',
        '|',
        ' entities',
        ' entity.'
      ),
      fc.constantFrom(
        '{% for e in entities %}',
        '{% endfor %}',
        '{{ e.type }}',
        '{% include "x" %}',
        '{% render "/etc/passwd" %}'
      ),
      fc.constantFrom(
        '{{ 1 | divided_by: 0 }}',
        '{% raw %}',
        '{{ entities | map: "type" | join }}',
        '(1..99999999)',
        '\0',
        '\ud83e'
      ),
      fc.string({ unit: 'binary', maxLength: 5 })
    )
    const seen = { written: 0, refused: 0 }
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (pieces) => {
        const small = { ...demo, tables: demo.tables.slice(0, 3), carries: [] }
        try {
          const text = written({ ...small, templates: [{ name: 'kinds', text: pieces.join('') }] })
          expect(text.isWellFormed() && !text.includes('\0')).toBe(true)
          expect(text).not.toContain('root:')
          seen.written++
        } catch (error) {
          expect(error).toBeInstanceOf(OutputFlaw)
          seen.refused++
        }
      }),
      { numRuns: times(1000) }
    )
    expect(Math.min(seen.written, seen.refused)).toBeGreaterThan(100)
  })

  it('is taken back by its inverse, and not removed while the application is given it', () => {
    const before = withTemplate('one')
    const result = apply(before, { kind: 'template.set', name: 'kinds', text: 'two' })
    expect(result.ok && apply(result.design, result.inverse)).toMatchObject({ design: before })
    const given = after(before, { kind: 'design.setOutput', output: 'template-kinds', to: 'kinds.txt' })
    expect(apply(given, { kind: 'template.set', name: 'kinds', text: null })).toMatchObject({
      ok: false,
      refusal: { code: 'in-use' }
    })
    expect(after(before, { kind: 'template.set', name: 'kinds', text: null })).toEqual(demo)
  })
})

describe('what is chosen of an output', () => {
  it('is kept with the design, taken back, and as usual where it cannot be', () => {
    const setting = { kind: 'design.setOutputSetting', output: 'data-access', setting: 'database' } as const
    const write = (design: Design): string =>
      outputsOf(design)
        .find(({ name }) => name === 'data-access')
        ?.write(design) ?? ''
    const onSqlite = after(demo, { ...setting, to: 'sqlite' })
    expect(write(demo)).toContain('How PostgreSQL says')
    expect(write(onSqlite)).toContain('How SQLite says')
    expect(write(after(demo, { ...setting, to: 'something else' }))).toBe(write(demo))
    const result = apply(demo, { ...setting, to: 'sqlite' })
    expect(result.ok && apply(result.design, result.inverse)).toMatchObject({ ok: true, design: demo })
    expect(after(onSqlite, { ...setting, to: null })).toEqual(demo)
  })
})
