import { DIALECTS, isDialect } from '../dialect/index.ts'
import { flowing } from '../carry/earlier.ts'
import { sayFlow } from '../carry/words.ts'
import { defaultText } from '../design/default.ts'
import { columnsIn, namesIn, sameSet, tableOf } from '../design/directory.ts'
import { showExpression } from '../design/expressions.ts'
import {
  type Check,
  type Column,
  type Design,
  type Enum,
  type ForeignKey,
  type Index,
  type Key,
  type RowPolicy,
  type Table,
  rowSecurityOf,
  type RowSecurity
} from '../design/model.ts'
import { typeText } from '../design/type.ts'
import { plural } from '../naming/words.ts'
import { junctionSides } from '../relate/junction.ts'
import { isOfPart, isOfSchema, schemaDelta, deltaOf, type Alteration, type AlterationOf } from './delta.ts'
import { sayBeside } from './words-beside.ts'

export type ChangeKind = 'added' | 'removed' | 'renamed' | 'changed' | 'carried'

/**
 * One difference between two states of a design, said in a sentence. `table` is the id of the table that
 * it is about, `key` that of the alteration that it says.
 */
export interface DifferenceInWords {
  kind: ChangeKind
  table: string
  key: string
  sentence: string
}

/**
 * What changed in the schema from one state of a design to the next, in words. Entities are known by their ids, so a
 * rename is told as a rename.
 */
export function compareDesigns(from: Design, to: Design): DifferenceInWords[] {
  return sayDelta(schemaDelta(from, to), from, to)
}

/** What changed besides, of which a database knows nothing: rows of the design, names in code, rulings, views. */
export function compareBeside(from: Design, to: Design): DifferenceInWords[] {
  const delta = deltaOf(from, to).filter((alteration) => !isOfSchema(alteration))
  return sayDelta(delta, from, to)
}

/** A delta in sentences, in its order. */
function sayDelta(delta: readonly Alteration[], from: Design, to: Design): DifferenceInWords[] {
  const words = new Words(from, to)
  return delta.flatMap((alteration): DifferenceInWords[] => {
    const { key, table } = alteration
    if (alteration.part === 'carry') return sayCarry(alteration, from, to)
    const sentence = isOfSchema(alteration) ? words.of(alteration) : sayBeside(alteration, from, to)
    return [{ kind: changeKind(alteration), table, key, sentence }]
  })
}

/** What a carry moves; one that is taken away moves back. */
function sayCarry(alteration: AlterationOf<'carry'>, from: Design, to: Design): DifferenceInWords[] {
  const flow =
    alteration.kind === 'removed'
      ? flowing(alteration.before, [to, from]).back
      : flowing(alteration.after, [to, from]).there
  return sayFlow(flow, from, to).map((said) => ({ kind: 'carried', key: alteration.key, ...said }))
}

function changeKind(alteration: Alteration): ChangeKind {
  if (!isOfPart(alteration) || alteration.kind !== 'changed') return alteration.kind
  return alteration.aspect === 'name' ? 'renamed' : 'changed'
}

/** The sentences of alterations between two states. */
class Words {
  constructor(
    private readonly from: Design,
    private readonly to: Design
  ) {}

  of(alteration: Alteration): string {
    switch (alteration.part) {
      case 'design':
        return this.design(alteration)
      case 'schema':
        return this.schema(alteration)
      case 'list':
        return this.list(alteration)
      case 'table':
        return this.table(alteration)
      case 'column':
        return this.column(alteration)
      case 'primaryKey':
        return this.primaryKey(alteration)
      case 'unique':
        return this.unique(alteration)
      case 'foreignKey':
        return this.foreignKey(alteration)
      case 'check':
      case 'index':
      case 'rowPolicy':
        return this.rule(alteration)
      default:
        return sayBeside(alteration, this.from, this.to)
    }
  }

  private design(alteration: AlterationOf<'design'>): string {
    if (alteration.kind === 'changed' && alteration.aspect === 'oldest') {
      const [was, is] = [sayOldest(alteration.before.oldest), sayOldest(alteration.after.oldest)]
      return `It is to run on other versions of engines: ${is}, where before ${was}.`
    }
    return 'The naming policy changes, and with it what is named by it.'
  }

  private before(id: string): Table {
    return tableOf(this.from, id) as Table
  }

  private after(id: string): Table {
    return tableOf(this.to, id) as Table
  }

  private schema(alteration: AlterationOf<'schema'>): string {
    if (alteration.kind === 'added') return `The schema ${alteration.after.name} is new.`
    if (alteration.kind === 'removed') return `The schema ${alteration.before.name} is removed.`
    return `The schema ${alteration.before.name} is renamed to ${alteration.after.name}.`
  }

  private list(alteration: AlterationOf<'list'>): string {
    if (alteration.kind === 'added')
      return `The list of values ${alteration.after.name} is new: ${alteration.after.values.join(', ')}.`
    if (alteration.kind === 'removed') return `The list of values ${alteration.before.name} is removed.`
    const { aspect, before, after } = alteration
    if (aspect === 'name') return `The list of values ${before.name} is renamed to ${after.name}.`
    const [come, gone] = [valuesOnlyIn(after, before), valuesOnlyIn(before, after)]
    if (come.length + gone.length === 0) return `The values of ${after.name} stand in another order.`
    const parts = [
      ...(come.length > 0 ? [`gets ${come.join(', ')}`] : []),
      ...(gone.length > 0 ? [`loses ${gone.join(', ')}`] : [])
    ]
    return `${after.name} ${parts.join(', and ')}.`
  }

  private table(alteration: AlterationOf<'table'>): string {
    if (alteration.kind === 'added')
      return `${alteration.after.name} is new${this.newTable(alteration.after)}.`
    if (alteration.kind === 'removed')
      return `${alteration.before.name} is removed, with its ${alteration.before.columns.length} columns.`
    const { aspect, before, after } = alteration
    switch (aspect) {
      case 'name':
        return `${before.name} is renamed to ${after.name}.`
      case 'schema':
        return `${after.name} moves ${this.intoSchema(after)}.`
      case 'external':
        return after.external
          ? `${after.name} is another system's from now on.`
          : `${after.name} is the design's own from now on.`
      case 'rowSecurity':
        return `Rows of ${after.name} are ${SAYS_SECURITY[rowSecurityOf(after)]}, where before ${SAYS_SECURITY[rowSecurityOf(before)]}.`
      default:
        return `The ${aspect} of ${after.name} changes.`
    }
  }

  private newTable(table: Table): string {
    const sides = new Set(junctionSides(table).map((side) => tableOf(this.to, side.table)?.name))
    const { length } = table.columns
    return sides.size > 0
      ? `: a junction of ${[...sides].join(' and ')}, with ${length} columns`
      : `, with ${length} ${length === 1 ? 'column' : 'columns'}`
  }

  private intoSchema({ schema }: Table): string {
    if (schema === undefined) return 'out of its schema'
    return `into the schema ${this.to.schemas.find(({ id }) => id === schema)?.name ?? ''}`
  }

  private column(alteration: AlterationOf<'column'>): string {
    const { table } = alteration
    if (alteration.kind === 'added') {
      const place = `${this.after(table).name}.${alteration.after.name}`
      return `${place} is new: ${this.newColumn(this.after(table), alteration.after)}.`
    }
    if (alteration.kind === 'removed') {
      const { name, type } = alteration.before
      return `${this.after(table).name}.${name} is removed (${typeText(type, this.from.enums)}).`
    }
    const { aspect, before, after } = alteration
    const place = `${this.after(table).name}.${after.name}`
    switch (aspect) {
      case 'name':
        return `${this.after(table).name}.${before.name} is renamed to ${after.name}.`
      case 'type':
        return `${place} changes from ${typeText(before.type, this.from.enums)} to ${typeText(after.type, this.to.enums)}.`
      case 'required':
        return `${place} ${after.required ? 'becomes required' : 'may now be empty'}.`
      case 'default':
        return `${place} ${sayDefault(before, after)}.`
      case 'computed':
        return `${place} ${sayComputed(this.before(table), before, this.after(table), after)}.`
      case 'copied':
        return `${place} ${sayCopied(before, after)}.`
      case 'renewed':
        return `${place} ${sayRenewed(after)}.`
      default:
        return `The ${aspect} of ${place} changes.`
    }
  }

  private newColumn(table: Table, column: Column): string {
    const words = [typeText(column.type, this.to.enums), column.required ? 'required' : 'may be empty']
    if (column.default?.kind === 'generated') words.push('generated')
    else if (column.default) words.push(`default ${defaultText(column.default, column.type)}`)
    if (column.computed !== undefined)
      words.push(`computed ${showExpression(column.computed, table.columns)}`)
    return words.join(', ')
  }

  private primaryKey(alteration: AlterationOf<'primaryKey'>): string {
    const table = this.after(alteration.table)
    if (alteration.kind === 'added')
      return `${table.name} gets the primary key (${keyNames(table, alteration.after)}).`
    const was = keyNames(this.before(alteration.table), alteration.before)
    if (alteration.kind === 'removed') return `${table.name} loses its primary key (${was}).`
    const { aspect, before, after } = alteration
    if (aspect === 'name') return sayNamed(`The primary key of ${table.name}`, before.name, after.name)
    const now = keyNames(table, after)
    return sameSet(before.columns, after.columns) && was === now
      ? `The primary key of ${table.name} is set anew.`
      : `The primary key of ${table.name} changes from (${was}) to (${now}).`
  }

  private unique(alteration: AlterationOf<'unique'>): string {
    const table = this.after(alteration.table)
    if (alteration.kind === 'added') return `${keyNames(table, alteration.after)} is unique in ${table.name}.`
    const was = keyNames(this.before(alteration.table), alteration.before)
    if (alteration.kind === 'removed') {
      const isPrimary = table.primaryKey && sameSet(table.primaryKey.columns, alteration.before.columns)
      return isPrimary
        ? `${was} is no longer a key of ${table.name} beside the primary one.`
        : `${was} need no longer be unique in ${table.name}.`
    }
    const { aspect, before, after } = alteration
    if (aspect === 'name') return sayNamed(`The key (${was}) of ${table.name}`, before.name, after.name)
    return `${keyNames(table, after)} is unique in ${table.name}, before it was ${was}.`
  }

  private foreignKey(alteration: AlterationOf<'foreignKey'>): string {
    const name = this.after(alteration.table).name
    if (alteration.kind === 'removed')
      return `${name} no longer refers to ${this.referred(this.from, alteration.before)}.`
    const { after } = alteration
    const referred = this.referred(this.to, after)
    const by = columnsIn(
      this.after(alteration.table),
      after.pairs.map((pair) => pair.column)
    )
    const names = by.map((column) => column.name).join(', ')
    if (alteration.kind === 'added')
      return `${name} refers to ${referred} by ${names} (on delete ${after.onDelete}).`
    const { aspect, before } = alteration
    switch (aspect) {
      case 'name':
        return sayNamed(`The reference of ${name} to ${referred}`, before.name, after.name)
      case 'target':
        return `${name} now refers to ${referred} by ${names}.`
      case 'onDelete':
        return `Deleting ${referred}, for ${name}: ${before.onDelete} becomes ${after.onDelete}.`
      case 'onUpdate':
        return `Changing the key of ${referred}, for ${name}: ${before.onUpdate} becomes ${after.onUpdate}.`
      case 'deferrable':
        return `That ${name} refers to ${referred} is looked at ${sayMoment(after.deferrable)}.`
      case 'atLeastOne':
        return `${sayMinimum(referred, name, after.atLeastOne)}.`
      default:
        return `The ${aspect} of the reference of ${name} to ${referred} changes.`
    }
  }

  private referred(design: Design, { table }: ForeignKey): string {
    return tableOf(design, table)?.name ?? 'a table'
  }

  private rule(alteration: RuleAlteration): string {
    const { name } = this.after(alteration.table)
    const { what, was, now } = this.sayRule(alteration)
    const one = `${/^[aeiou]/.test(what) ? 'an' : 'a'} ${what}`
    if (alteration.kind === 'removed') return `${name} loses ${one}: ${was}.`
    if (alteration.kind === 'added') return `${name} gets ${one}: ${now}.`
    if (alteration.aspect === 'name')
      return sayNamed(`The ${what} ${now} of ${name}`, alteration.before.name, alteration.after.name)
    return `${name} has another ${what}: ${now}, before it was ${was}.`
  }

  private sayRule(alteration: RuleAlteration): { what: string; was: string; now: string } {
    const [before, after] = [this.before(alteration.table), this.after(alteration.table)]
    const said = <T>(say: (table: Table, rule: T) => string, rule: { before?: T; after?: T }) => ({
      was: rule.before ? say(before, rule.before) : '',
      now: rule.after ? say(after, rule.after) : ''
    })
    switch (alteration.part) {
      case 'check':
        return { what: 'check', ...said(sayCheck, alteration) }
      case 'index':
        return { what: 'index', ...said(sayIndex, alteration) }
      case 'rowPolicy':
        return { what: 'row policy', ...said(sayPolicy, alteration) }
    }
  }
}

function sayCopied({ copied: was }: Column, { copied }: Column): string {
  if (!copied) return 'is no longer copied'
  const isFrom = was?.foreignKey === copied.foreignKey && was.column === copied.column
  const words = [
    isFrom ? 'is copied otherwise' : 'is copied from what it refers to',
    ...(copied.again ? ['again when it refers to another row'] : []),
    ...(copied.fixed ? ['and can be nothing else'] : []),
    ...(copied.byTrigger ? ['by a trigger'] : isFrom ? ['by whoever writes the row'] : [])
  ]
  return words.join(', ')
}

function sayRenewed({ renewed }: Column): string {
  if (!renewed) return 'is no longer renewed with each change of its row'
  return `becomes the present moment with each change of its row, which the ${renewed} sees to`
}

function sayMoment(deferrable: ForeignKey['deferrable']): string {
  if (deferrable === undefined) return 'with each statement'
  return deferrable === 'deferred'
    ? 'when a transaction ends'
    : 'with each statement, or when a transaction ends where that asks for it'
}

function sayMinimum(parent: string, child: string, minimum: ForeignKey['atLeastOne']): string {
  if (minimum === undefined) return `Each ${parent} may be without ${plural(child)} again`
  const how = minimum === 'held' ? 'held at the end of each transaction' : 'said, and held by nothing'
  return `Each ${parent} has at least one ${child}: ${how}`
}

const SAYS_SECURITY: Record<RowSecurity, string> = {
  off: 'held to no row policies',
  on: 'held to row policies',
  forced: 'held to row policies for their owner as well'
}

/** The versions that are named, in words. */
const sayOldest = (oldest: Design['oldest'] = {}): string =>
  Object.entries(oldest)
    .map(([dialect, version]) => `${isDialect(dialect) ? DIALECTS[dialect].title : dialect} ${version}`)
    .join(', ') || 'the usual ones'

type RuleAlteration = AlterationOf<'check'> | AlterationOf<'index'> | AlterationOf<'rowPolicy'>

const valuesOnlyIn = (one: Enum, other: Enum): string[] =>
  one.values.filter((value) => !other.values.includes(value))

/** A name that a person gives, or leaves to the policy again. */
function sayNamed(what: string, before: string | undefined, after: string | undefined): string {
  if (after === undefined) return `${what} is named by the policy again, and no longer ${before}.`
  return `${what} is called ${after}${before === undefined ? '' : `, and no longer ${before}`}.`
}

function sayDefault(before: Column, after: Column): string {
  const was = defaultText(before.default, before.type)
  const now = defaultText(after.default, after.type)
  if (now === '') return `no longer has the default ${was}`
  const says = now === 'generated' ? 'is generated' : `has the default ${now}`
  return was === '' ? says : `${says}, before it was ${was}`
}

function sayComputed(before: Table, old: Column, after: Table, column: Column): string {
  if (column.computed === undefined) return 'is no longer computed'
  const now = `is computed: ${showExpression(column.computed, after.columns)}`
  return old.computed === undefined
    ? now
    : `${now}, before it was ${showExpression(old.computed, before.columns)}`
}

const keyNames = (table: Table, key: Key): string => namesIn(table, key.columns)

const sayCheck = (table: Table, check: Check): string => showExpression(check.condition, table.columns)

function sayIndex(table: Table, index: Index): string {
  const names = namesIn(
    table,
    index.columns.map(({ column }) => column)
  )
  const where = index.where === undefined ? '' : ` where ${showExpression(index.where, table.columns)}`
  return `${names}${index.unique ? ', unique' : ''}${where}`
}

const sayPolicy = (table: Table, policy: RowPolicy): string =>
  `${policy.name}, ${[policy.condition, policy.writes]
    .flatMap((each) => (each === undefined ? [] : showExpression(each, table.columns)))
    .join(', writing ')}`
