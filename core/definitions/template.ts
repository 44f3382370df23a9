import { Liquid, LiquidError } from 'liquidjs'
import { BOUNDS } from '../bounds.ts'
import type { Design, Template } from '../design/model.ts'
import { flawOfWritten } from '../design/place.ts'
import { flawOfText } from '../design/value.ts'
import { inCase } from '../naming/names.ts'
import { plural, singular } from '../naming/words.ts'
import type { Tongue } from './code-names.ts'
import { madeBy, OutputFlaw, type CodeFile } from './made-by.ts'
import { shapeOf, type Entity } from './shape.ts'

/** A word that nothing has is told of, but where it is only asked whether there is one. No file can be read, and no time wasted. */
const engine = new Liquid({
  strictVariables: true,
  strictFilters: true,
  lenientIf: true,
  templates: {},
  parseLimit: BOUNDS.template,
  memoryLimit: 20_000_000,
  // Equal designs give equal bytes, wherever and whenever they are written.
  timezoneOffset: 0,
  locale: 'en-GB'
})
/** How long all files of a template may take (milliseconds). */
const PATIENCE = 5000
const NOW = new Set(['now', 'today'])
for (const name of Object.keys(engine.filters).filter((each) => each.startsWith('date'))) {
  const plain = engine.filters[name]
  const handler = typeof plain === 'function' ? plain : plain?.handler
  engine.registerFilter(name, function (value, ...rest) {
    if (NOW.has(String(value)))
      throw new Error('what time it is cannot stand in a file: it would be another each time')
    return handler?.call(this, value, ...rest)
  })
}
engine.registerFilter('sample', () => {
  throw new Error('nothing is chosen by chance: the file would be another each time')
})
const LETTER_CASES = ['lower_snake', 'UPPER_SNAKE', 'lowerCamel', 'UpperCamel'] as const
for (const letterCase of LETTER_CASES)
  engine.registerFilter(letterCase, (text: unknown) => inCase(String(text), letterCase))
engine.registerFilter('plural', (text: unknown) => plural(String(text)))
engine.registerFilter('singular', (text: unknown) => singular(String(text)))

/** What a template is given: the shape of the design, and the lines that say what it was made from. */
function givenTo(design: Design, tongue: Tongue, version?: string): { entities: readonly Entity[] } {
  const shape = shapeOf(design, tongue, version)
  return { ...shape, made_by: madeBy(shape) } as { entities: readonly Entity[] }
}

/** @param until when it is to be done, by the clock that counts. @throws OutputFlaw */
function rendered(text: string, given: object, until = performance.now() + PATIENCE): string {
  const left = until - performance.now()
  if (left <= 0)
    throw new OutputFlaw(
      `The template gives nothing: all of its files together take over ${PATIENCE / 1000} s.`
    )
  try {
    const made = String(engine.parseAndRenderSync(text, given, { renderLimit: left }))
    const flaw = flawOfText(made)
    if (flaw !== undefined)
      throw new OutputFlaw(`The template gives nothing: what it gives has ${flaw} in it.`)
    return made
  } catch (error) {
    if (!(error instanceof LiquidError)) throw error
    throw new OutputFlaw(`The template gives nothing: ${error.message.replace(/, file:\S*/, '')}.`)
  }
}

/**
 * What a template of a team's own comes to.
 * @throws OutputFlaw
 */
export const writeTemplate = (design: Design, { text }: Template, tongue: Tongue, version?: string): string =>
  rendered(text, givenTo(design, tongue, version))

/**
 * The same as a file for each table, `entity` being the one that it is for.
 * @param name what a file is called, itself a template.
 * @throws OutputFlaw
 */
export function writeTemplateEach(
  design: Design,
  { text }: Template,
  name: string,
  tongue: Tongue,
  version?: string
): CodeFile[] {
  const given = givenTo(design, tongue, version)
  const until = performance.now() + PATIENCE
  const known = new Set<string>()
  return given.entities.map((entity) => {
    const path = rendered(name, { ...given, entity }, until).trim()
    const flaw = flawOfWritten(path)
    if (flaw !== undefined)
      throw new OutputFlaw(`“${path}” is no name of a file for ${entity.table}: ${flaw}.`)
    if (known.has(path.toLowerCase()))
      throw new OutputFlaw(`Two files would be called ${path}: have the name say which table it is for.`)
    known.add(path.toLowerCase())
    return { path, text: rendered(text, { ...given, entity }, until) }
  })
}

/** What a new template begins with: it shows what there is to write. */
export const FIRST_TEMPLATE = `{% for line in made_by %}// {{ line }}
{% endfor %}
{%- for entity in entities %}
{{ entity.type }} is a row of {{ entity.table }}, found by {{ entity.key | join: ", " }}
{%- for field in entity.fields %}
  {{ field.name }}: {{ field.type.kind }}{% if field.optional %}, or nothing{% endif %}
{%- endfor %}
{%- for end in entity.ends %}
  {{ end.name }}: {% if end.many %}many {% endif %}{{ end.to }}
{%- endfor %}
{% endfor %}`
