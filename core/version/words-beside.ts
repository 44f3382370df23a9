import { columnOf, nameOfTable, namesIn, tableOf } from '../design/directory.ts'
import type { Design, ForeignKey } from '../design/model.ts'
import { kindOf } from '../design/parts/all.ts'
import { DIALECTS, isDialect } from '../dialect/index.ts'
import { sentence } from '../design/words.ts'
import { isOfPart, type Alteration, type AlterationOf, type PartAlteration } from './delta.ts'
import { rowsBetween } from './rows-between.ts'

/** A difference of which a database knows nothing, in a sentence. */
export function sayBeside(alteration: Alteration, from: Design, to: Design): string {
  switch (alteration.part) {
    case 'design':
      return sayDesign(alteration)
    case 'table':
      return sayTable(alteration, to)
    case 'foreignKey':
      return sayReference(alteration, to)
    case 'figure':
    case 'subject':
    case 'view':
    case 'template':
      return sayNamed(alteration)
    case 'ruling':
      return sayRuling(alteration)
    case 'setAside':
      return saySetAside(alteration, from, to)
    case 'codeName':
      return sayCodeName(alteration, from, to)
    case 'output':
      return sayOutput(alteration)
    case 'outputSetting':
      return `What is chosen of the output ${idIn(alteration)} changes.`
    case 'rows':
      return sayRows(alteration)
    case 'positions':
      return 'Tables stand elsewhere in the diagram.'
    case 'order':
      return sayOrder(alteration, to)
    default:
      return sayAny(alteration, to)
  }
}

/** What has no words of its own: which property of which part. */
function sayAny(alteration: PartAlteration, to: Design): string {
  const { name, plural } = kindOf(alteration.part)
  if (alteration.kind !== 'changed') return `The ${plural} change.`
  const { after, table } = alteration
  const called = 'name' in after && after.name !== undefined ? after.name : `a ${name}`
  const place = table === '' ? called : `${nameOfTable(to, table)}.${called}`
  return `The ${alteration.aspect} of ${place} changes.`
}

const ends = <T>(alteration: { before?: T; after?: T }): { was: T | undefined; is: T | undefined } => ({
  was: alteration.before,
  is: alteration.after
})

function sayDesign(alteration: AlterationOf<'design'>): string {
  if (alteration.kind !== 'changed') return 'The design is another one.'
  const { aspect, before, after } = alteration
  switch (aspect) {
    case 'name':
      return `The design ${before.name} is renamed to ${after.name}.`
    case 'dialects':
      return `It is written for ${sayDialects(after.dialects)}, where before for ${sayDialects(before.dialects)}.`
    case 'standing':
      return 'New tables and junctions begin with other columns.'
    case 'usual':
      return 'What deletes usually do changes.'
    default:
      return `The ${aspect} of the design changes.`
  }
}

const sayDialects = (names: readonly string[]): string =>
  names.map((name) => (isDialect(name) ? DIALECTS[name].title : name)).join(', ') || 'every dialect'

function sayTable(alteration: AlterationOf<'table'>, to: Design): string {
  if (alteration.kind !== 'changed') return 'The tables change.'
  const { after } = alteration
  const table = tableOf(to, after.id) ?? after
  return after.label
    ? `Rows of ${after.name} are called by ${namesIn(table, after.label)}.`
    : `What rows of ${after.name} are called by is left to what it has again.`
}

function sayReference(alteration: AlterationOf<'foreignKey'>, to: Design): string {
  if (alteration.kind !== 'changed') return 'The references change.'
  const { aspect, after, table } = alteration
  const what = `the reference of ${nameOfTable(to, table)} to ${nameOfTable(to, after.table)}`
  switch (aspect) {
    case 'verbs':
      return `${sentence(what)} reads ${sayVerbs(after)}.`
    case 'childIs':
      return `${sentence(what)} ${sayNature(after)}.`
    case 'accessors':
      return `${sentence(what)} is called otherwise in code.`
    default:
      return `The ${aspect} of ${what} changes.`
  }
}

const sayVerbs = ({ verbs }: ForeignKey): string =>
  verbs ? `“${verbs.child}” one way, and “${verbs.parent}” the other` : 'as it is proposed'

function sayNature({ childIs }: ForeignKey): string {
  if (childIs === undefined) return 'is again what its shape says'
  return childIs === 'part'
    ? 'is that of a part to its whole'
    : 'is that of a thing by itself to what lists it'
}

type OfNamed =
  AlterationOf<'figure'> | AlterationOf<'subject'> | AlterationOf<'view'> | AlterationOf<'template'>

function sayNamed(alteration: OfNamed): string {
  const { was, is } = ends<{ name: string }>(alteration)
  const what = `The ${kindOf(alteration.part).name}`
  if (alteration.kind === 'added') return `${what} ${is?.name ?? ''} is new.`
  if (alteration.kind === 'removed') return `${what} ${was?.name ?? ''} is removed.`
  if (alteration.aspect === 'name') return `${what} ${was?.name ?? ''} is renamed to ${is?.name ?? ''}.`
  if (alteration.aspect === 'note') return `The note of the ${alteration.part} ${is?.name ?? ''} changes.`
  return `${what} ${is?.name ?? ''} is otherwise.`
}

function sayRuling(alteration: AlterationOf<'ruling'>): string {
  if (alteration.kind === 'added') return `The ruling “${alteration.after.says}” is new.`
  if (alteration.kind === 'removed') return `The ruling “${alteration.before.says}” is removed.`
  const { aspect, before, after } = alteration
  if (aspect === 'says') return `The ruling “${before.says}” says “${after.says}” now.`
  return aspect === 'verdict'
    ? `The ruling “${after.says}” has another verdict.`
    : `The ruling “${after.says}” has other statements.`
}

function saySetAside(alteration: AlterationOf<'setAside'>, from: Design, to: Design): string {
  const { was, is } = ends(alteration)
  const { rule, table } = is ?? was ?? { rule: '', table: '' }
  const what = `A finding on ${tableOf(to, table)?.name ?? nameOfTable(from, table)} (${rule})`
  return is ? `${what} is set aside: ${is.reason}` : `${what} is told of again.`
}

function sayCodeName(alteration: AlterationOf<'codeName'>, from: Design, to: Design): string {
  const id = idIn(alteration)
  const what = placeName(to, id) ?? placeName(from, id) ?? 'What is gone'
  const { is } = ends(alteration)
  return is ? `${what} is called ${is.value} in code.` : `${what} is called in code as in the database again.`
}

/** The name of a table, or of a column with its table, by its id. */
function placeName({ tables }: Design, id: string): string | undefined {
  for (const table of tables) {
    if (table.id === id) return table.name
    const column = columnOf(table, id)
    if (column) return `${table.name}.${column.name}`
  }
  return undefined
}

function sayOutput(alteration: AlterationOf<'output'>): string {
  const { is } = ends(alteration)
  const what = idIn(alteration)
  return is
    ? `The application is given ${what} as ${is.value}.`
    : `The application is no longer given ${what}.`
}

function idIn(alteration: Alteration): string {
  if (!isOfPart(alteration)) return ''
  const part = alteration.kind === 'removed' ? alteration.before : alteration.after
  return 'id' in part ? part.id : ''
}

function sayRows({ before, after }: Extract<Alteration, { part: 'rows' }>): string {
  const { added, removed, changed } = rowsBetween(before, after)
  const parts = [
    ...(added.length > 0 ? [`${added.length} ${added.length === 1 ? 'comes' : 'come'}`] : []),
    ...(removed.length > 0 ? [`${removed.length} ${removed.length === 1 ? 'goes' : 'go'}`] : []),
    ...(changed.length > 0
      ? [`${changed.length} ${changed.length === 1 ? 'holds' : 'hold'} something else`]
      : [])
  ]
  if (parts.length === 0) return `The rows of ${after.name} stand in another order.`
  return `Of the rows of ${after.name} ${parts.join(', ')}.`
}

function sayOrder({ of, table }: Extract<Alteration, { part: 'order' }>, to: Design): string {
  const where = table === '' ? '' : ` of ${nameOfTable(to, table)}`
  return `The ${kindOf(of).plural}${where} stand in another order.`
}
