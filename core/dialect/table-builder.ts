import { expressionOf } from '../design/expressions.ts'
import {
  columnOf,
  columnsIn,
  fold,
  keyOf,
  keysOf,
  referencesTo,
  sameSet,
  tableOf
} from '../design/directory.ts'
import {
  type Check,
  type Column,
  type Design,
  type ForeignKey,
  type Index,
  type Key,
  type Table,
  rowSecurityOf
} from '../design/model.ts'
import { sameType, type Type } from '../design/type.ts'
import { constraintNames } from '../naming/names.ts'
import type { DialectNames } from './called.ts'
import { keepingOf } from './keeping.ts'
import type {
  CatalogCheck,
  CatalogColumn,
  CatalogForeignKey,
  CatalogIndex,
  CatalogKey,
  CatalogRowPolicy,
  CatalogTable,
  CatalogTrigger
} from './catalog.ts'
import { unsaidIn } from './unsaid.ts'
import { LIMITS } from './limits/index.ts'
import type { LimitContext } from './limits/limit.ts'
import type { Remark, LimitRemark } from './remark.ts'
import type { Expression } from '../sql/expression.ts'
import type { TypeWords } from './facts.ts'
import { NameGiver, nameLength } from '../naming/fit.ts'
import { schemaOf } from './qualified.ts'
import { foldedIn, isShortUnfolded } from './unfolded.ts'
import { typeOfExpression } from './typed.ts'
import { defaultSql, expressionSql, typeOn, type RefusedCheck, type Speech } from './speech.ts'
import { written, type Written } from './written.ts'
import type { Keeping } from './trigger.ts'

/**
 * What was worked out for a table, and all that it was worked out from; as long as that stays, so does it.
 */
export interface Worked {
  design: Pick<Design, 'policy' | 'enums' | 'schemas'>
  name: string
  parents: readonly (Table | undefined)[]
  /** The keys of it that others refer by. */
  referredBy: readonly string[]
  /** The names that its keys and rules were given, folded; nothing where one had to give way to another. */
  names: readonly string[] | undefined
  result: CatalogTable
  remarks: readonly Remark[]
  losses: readonly string[]
}

/** What is remembered for a dialect. */
export function memoIn<K extends object, V>(
  all: WeakMap<Speech, WeakMap<K, V>>,
  speech: Speech
): WeakMap<K, V> {
  let found = all.get(speech)
  if (!found) all.set(speech, (found = new WeakMap()))
  return found
}

const worked = new WeakMap<Speech, WeakMap<Table, Worked>>()
const columnNames = new WeakMap<Speech, WeakMap<Table['columns'], ReadonlyMap<string, string>>>()

/** Works tables out, one after the other; names are given in that order. */
export class TableBuilder {
  private readonly memo: WeakMap<Table, Worked>
  /** Of the table that is being worked out. */
  private own: {
    table: string
    schema: string | undefined
    remarks: Remark[]
    losses: string[]
    names: string[]
    gaveWay: boolean
  } = { table: '', schema: undefined, remarks: [], losses: [], names: [], gaveWay: false }

  constructor(
    private readonly design: Design,
    private readonly speech: Speech,
    private readonly called: DialectNames,
    private readonly names: NameGiver
  ) {
    this.memo = memoIn(worked, speech)
  }

  /** The table as it was worked out before, where nothing that it leans on has changed; else anew. */
  table(table: Table): Worked {
    const { design } = this
    const before = this.memo.get(table)
    const name = this.called.tableNames.get(table.id) as string
    const references = table.uniques.length === 0 ? [] : referencesTo(design, table.id)
    const same =
      before &&
      before.name === name &&
      this.sharesWith(before.design) &&
      before.referredBy.length === references.length &&
      references.every(({ foreignKey }, at) => foreignKey.key === before.referredBy[at]) &&
      table.foreignKeys.every((key, at) => before.parents[at] === tableOf(design, key.table))
    if (same && before.names && this.names.giveAll(before.names, schemaOf(name))) return before
    this.own = { table: table.id, schema: schemaOf(name), remarks: [], losses: [], names: [], gaveWay: false }
    const result = this.work(table, name)
    const { remarks, losses, names, gaveWay } = this.own
    const { policy, enums, schemas } = design
    const parents = table.foreignKeys.map((key) => tableOf(design, key.table))
    const made: Worked = {
      design: { policy, enums, schemas },
      name,
      parents,
      referredBy: references.map(({ foreignKey }) => foreignKey.key),
      names: gaveWay ? undefined : names.map(fold),
      result,
      remarks,
      losses
    }
    this.memo.set(table, made)
    return made
  }

  private sharesWith({ policy, enums, schemas }: Worked['design']): boolean {
    return this.design.policy === policy && this.design.enums === enums && this.design.schemas === schemas
  }

  /**
   * A name for a key or a rule, the one that a person gave it or the policy's, and a note of whether it
   * had to give way to another.
   */
  private give(named: string | undefined, byPolicy: string): string {
    const wanted = named ?? byPolicy
    const kept = this.speech.facts.kept?.rule
    const name = this.names.give(wanted, { schema: this.own.schema, kept })
    this.own.names.push(name)
    this.own.gaveWay ||= name !== this.names.spell(wanted, kept)
    if (named !== undefined && kept?.test(named))
      this.own.remarks.push({ table: this.own.table, message: this.sayKept(named, name) })
    return name
  }

  private columnNames(table: Table): ReadonlyMap<string, string> {
    const memo = memoIn(columnNames, this.speech)
    let found = memo.get(table.columns)
    if (!found) {
      const { nameLimit, refusedInNames, kept } = this.speech.facts
      const own = new NameGiver(nameLimit, refusedInNames)
      memo.set(
        table.columns,
        (found = new Map(
          table.columns.map((column) => [column.id, own.give(column.name, { kept: kept?.column })])
        ))
      )
    }
    return found
  }

  private remark(table: Table, message: string): void {
    this.own.remarks.push({ table: table.id, message })
  }

  private lose(message: string): void {
    if (!this.own.losses.includes(message)) this.own.losses.push(message)
  }

  private column(table: Table, id: string): string {
    return this.columnNames(table).get(id) as string
  }

  private expression(table: Table, kept: string | Expression): Written {
    return written((name) => {
      const typeSql = (of: Type): string => this.typeSql(table, of)
      return expressionSql(this.speech, table.columns, kept, undefined, name, { typeSql })
    })
  }

  /**
   * What a column is computed from, without columns that are computed themselves where they cannot be named.
   * `asIs`: before it is made a value of the column's type.
   */
  private computation(table: Table, column: Column, computed: string, asIs = false): Written {
    const { source = (name) => name, computes, computedLiteral, literal, facts } = this.speech
    const { fromComputed, folded } = facts.computed
    const unfolds = !fromComputed && isShortUnfolded(table, column)
    const expression = folded && unfolds ? foldedIn(table, computed) : expressionOf(computed)
    const gives = typeOfExpression(expression, (id) => columnOf(table, id)?.type)
    return written((name) => {
      const named = (id: string): string => source(name(id), columnOf(table, id) as Column)
      const sql = expressionSql(this.speech, table.columns, expression, column.type, named, {
        typeSql: (of) => this.typeSql(table, of),
        literal: computedLiteral ?? literal,
        ...(unfolds && {
          instead: (id: string) => {
            const of = columnOf(table, id)?.computed
            if (of === undefined || this.isUnsaid(of)) return undefined
            return folded ? foldedIn(table, of) : expressionOf(of)
          }
        })
      })
      return computes && !asIs ? computes(sql, column.type, this.typeSql(table, column.type), gives) : sql
    })
  }

  private typeSql(table: Table, type: Type): string {
    const list = type.kind === 'enum' ? this.called.enumNames.get(type.enum) : undefined
    return typeOn(this.speech, this.design, table, type, '', list).sql
  }

  private work(table: Table, name: string): CatalogTable {
    const { design, speech } = this
    const { facts } = speech
    const policy = constraintNames(design.policy)
    const labels = (ids: readonly string[]): string[] => columnsIn(table, ids).map((column) => column.name)
    const key = (each: Key, wanted: string): CatalogKey => ({
      id: each.id,
      name: this.give(each.name, wanted),
      columns: [...each.columns]
    })
    this.sayName(table, table.name, 'table')
    for (const column of table.columns) this.sayName(table, column.name, 'column')
    const columns = table.columns.map((column) => this.catalogColumn(table, column))
    const primaryKey = table.primaryKey && key(table.primaryKey, policy.primaryKey(table.name))
    const uniques = distinctUniques(table).map((each) =>
      key(each, policy.unique(table.name, labels(each.columns)))
    )
    const foreignKeys = table.foreignKeys.map((each): CatalogForeignKey => {
      const pairs = inKeyOrder(design, each)
      const ids = pairs.map((pair) => pair.column)
      return {
        ...key({ id: each.id, name: each.name, columns: ids }, policy.foreignKey(table.name, labels(ids))),
        table: each.table,
        refersTo: pairs.map((pair) => pair.refersTo),
        onDelete: this.action(each, 'delete'),
        onUpdate: this.action(each, 'update'),
        ...(each.deferrable && this.speech.facts.deferrable && { deferrable: each.deferrable }),
        ...(this.isMinimumHeld(table, each) && { atLeastOne: true as const })
      }
    })
    const heldByReferences = this.heldByReferences(table)
    const checks = [
      ...table.checks
        .filter((each) => !this.isUnsaid(each.condition))
        .flatMap((each): CatalogCheck[] => {
          const named = columnsNamedBy(each.condition, table)
          const byTrigger = this.isHeldByTrigger(table, each, named)
          if (byTrigger) this.tellUnseen(table, named)
          else if (this.refuses(table, named, 'a check')) return []
          return [
            {
              id: each.id,
              name: this.give(each.name, policy.check(table.name, labels(named))),
              condition: this.expression(table, each.condition),
              ...(byTrigger && { byTrigger })
            }
          ]
        }),
      ...columns.flatMap((column, at) =>
        this.heldComputation(table, table.columns[at] as Column, column, policy)
      ),
      ...columns.flatMap((column, at): CatalogCheck[] => {
        const held =
          column.generated || heldByReferences.has(column.id)
            ? undefined
            : this.words(table, table.columns[at] as Column).holds
        return held && !this.refuses(table, [column.id])
          ? [
              {
                id: `${column.id}_held`,
                name: this.give(undefined, policy.check(table.name, [column.name])),
                condition: written((name) => held(name(column.id)))
              }
            ]
          : []
      })
    ]
    for (const message of speech.remarks?.(table) ?? []) this.remark(table, message)
    const held = this.heldIndexes(table, policy, labels)
    const own = this.ownIndexes(table, policy, labels)
    const made: CatalogTable = {
      id: table.id,
      name,
      external: table.external === true,
      note: facts.comments ? table.note : undefined,
      columns: [...columns, ...held.flatMap(({ column }) => column)],
      primaryKey,
      uniques: [...uniques, ...held.map(({ key }) => key)],
      foreignKeys,
      checks,
      indexes: [...own, ...this.foreignKeyIndexes(table, policy, labels, own)],
      triggers: this.triggers(table),
      rowPolicies: facts.rowPolicies ? this.policies(table) : [],
      rowSecurity: facts.rowPolicies ? rowSecurityOf(table) : 'off'
    }
    const finished = speech.finish ? speech.finish(made, { table, design }) : made
    if (!table.external) this.tellLimits(table, finished)
    return finished
  }

  private keeping(table: Table, column: Column): Keeping | undefined {
    const { design, speech } = this
    return keepingOf({ design, table, column, speech, typeSql: (type) => this.typeSql(table, type) })
  }

  private triggers(table: Table): CatalogTrigger[] {
    return table.columns.flatMap((column): CatalogTrigger[] => {
      const keeping = this.keeping(table, column)
      if (keeping?.by !== 'trigger') return []
      const { does } = keeping
      const words = `${table.name}_${column.name}_${does.kind === 'renews' ? 'renewed' : 'copied'}`
      return [{ id: column.id, name: this.give(undefined, words), column: column.id, does }]
    })
  }

  private policies(table: Table): CatalogRowPolicy[] {
    const said = table.rowPolicies.filter(
      ({ condition, writes }) => !this.isUnsaid(condition) && (writes === undefined || !this.isUnsaid(writes))
    )
    return said.map(({ id, name, command, role, condition, writes }) => ({
      id,
      name,
      command,
      role,
      condition: this.expression(table, condition),
      writes: writes === undefined ? undefined : this.expression(table, writes)
    }))
  }

  private tellLimits(table: Table, made: CatalogTable): void {
    const { design, speech } = this
    const asked: LimitContext = {
      table,
      made,
      design,
      facts: speech.facts,
      dialect: speech.name,
      words: (of, column) => this.words(of, column),
      keeping: (column) => this.keeping(table, column),
      filters: (where) => this.filter(table, where) !== undefined
    }
    for (const limit of [...LIMITS, ...(speech.limits ?? [])])
      for (const { message, ...finding } of limit(asked))
        this.own.remarks.push({ table: table.id, message, finding })
  }

  /** What holds a computed column to its type where the engine works it out only when it is read. */
  private heldComputation(
    table: Table,
    column: Column,
    { id, computed }: CatalogColumn,
    policy: ReturnType<typeof constraintNames>
  ): CatalogCheck[] {
    if (!computed || column.computed === undefined) return []
    // Some engines would cut what is too long where it is made a value of the column.
    const whole = this.speech.computes ? this.computation(table, column, column.computed, true) : computed
    const { holdsComputed } = this.words(table, column)
    const [before = '', after = ''] = holdsComputed?.('\u0000').split('\u0000') ?? []
    const needed = column.required && !this.speech.facts.computed.required
    const conditions: [string, Written][] = [
      ...(holdsComputed ? [[`${id}_computed`, [before, ...whole, after]] as [string, Written]] : []),
      ...(needed ? [[`${id}_required`, ['(', ...computed, ') IS NOT NULL']] as [string, Written]] : [])
    ]
    if (conditions.length === 0 || this.refuses(table, [id])) return []
    return conditions.map(([key, condition]) => ({
      id: key,
      name: this.give(undefined, policy.check(table.name, [column.name])),
      condition
    }))
  }

  /** Columns that what they refer to holds to their type already: by a reference of one column to the same type. */
  private heldByReferences(table: Table): ReadonlySet<string> {
    const alone = table.foreignKeys.filter(({ pairs }) => pairs.length === 1)
    return new Set(
      alone.flatMap(({ table: id, pairs: [pair] }) => {
        const parent = tableOf(this.design, id)
        const [own, to] = [
          pair && columnOf(table, pair.column),
          pair && parent && columnOf(parent, pair.refersTo)
        ]
        return own && to && own.id !== to.id && sameType(own.type, to.type) ? [own.id] : []
      })
    )
  }

  /** Whether the dialect has no words for a function in an expression; limits/unsaid.ts tells of it. */
  private isUnsaid(kept: string): boolean {
    return unsaidIn(kept, this.speech.name, this.speech.facts) !== undefined
  }

  private refusal(table: Table, columns: readonly string[]): RefusedCheck | undefined {
    return this.speech.refusesCheck?.(table, columnsIn(table, columns))
  }

  /** Whether triggers hold a check that the engine does not take, since that was chosen. */
  private isHeldByTrigger(table: Table, { everywhere }: Check, named: readonly string[]): true | undefined {
    const isHeld = everywhere && this.speech.facts.holdsByTrigger
    return isHeld && this.refusal(table, named) ? true : undefined
  }

  private tellUnseen(table: Table, named: readonly string[]): void {
    const { column, unseen: message } = this.refusal(table, named) ?? {}
    if (message === undefined) return
    const finding: Remark['finding'] = { rule: 'check by triggers', weight: 'doubtful', column }
    this.own.remarks.push({ table: table.id, message, finding })
  }

  /** True where the dialect cannot make the check; it says why, and what can hold one of the design's own. */
  private refuses(table: Table, columns: readonly string[], of?: 'a check'): boolean {
    const why = this.refusal(table, columns)
    if (!why) return false
    const { message, column, fix = of && this.byTriggers(table, why.message) } = why
    const finding: Remark['finding'] = { rule: 'check that is lost', weight: 'wrong', column, fix }
    this.own.remarks.push({ table: table.id, message, finding })
    return true
  }

  /** What lets triggers hold all checks of which the same is told. */
  private byTriggers(table: Table, message: string): LimitRemark['fix'] {
    if (!this.speech.facts.holdsByTrigger) return undefined
    const alike = table.checks.filter(
      ({ condition }) => this.refusal(table, columnsNamedBy(condition, table))?.message === message
    )
    return {
      label: 'Hold it there by triggers',
      operation: {
        kind: 'batch',
        label: `hold checks of ${table.name} by triggers`,
        operations: alike.map((check) => ({
          kind: 'check.change' as const,
          table: table.id,
          check: { ...check, everywhere: true as const }
        }))
      }
    }
  }

  private sayName(table: Table, word: string, kind: 'table' | 'column'): void {
    const { title, nameLimit, kept } = this.speech.facts
    if (nameLimit && word.length * 4 > nameLimit.most && nameLength(word, nameLimit.of) > nameLimit.most)
      this.remark(
        table,
        `${title} takes names of up to ${nameLimit.most} ${nameLimit.of}: ${word.slice(0, 30)}… is shortened.`
      )
    if (kept?.[kind]?.test(word)) this.remark(table, this.sayKept(word, this.names.spell(word, kept[kind])))
  }

  private sayKept(name: string, written: string): string {
    return `${this.speech.facts.title} keeps the name ${name} for itself: it is written as ${written}.`
  }

  /** Nothing is made on a table that another system has. */
  private isMinimumHeld(table: Table, { atLeastOne, table: parent }: ForeignKey): boolean {
    if (parent === table.id) return false
    const isOurs = !table.external && tableOf(this.design, parent)?.external !== true
    return atLeastOne === 'held' && this.speech.facts.deferredTriggers && isOurs
  }

  private action(foreignKey: ForeignKey, on: 'delete' | 'update'): CatalogForeignKey['onDelete'] {
    const wanted = on === 'delete' ? foreignKey.onDelete : foreignKey.onUpdate
    const { facts } = this.speech
    const lack = facts.lacks.find((each) => each.action === wanted && each.on.includes(on))
    if (!lack) return wanted
    // Refusing is what every engine can do; what is not there comes out as the refusal that is.
    const instead = facts.lacks.some((each) => each.action === 'NO ACTION' && each.on.includes(on))
      ? 'RESTRICT'
      : 'NO ACTION'
    if (wanted !== 'RESTRICT' || instead !== 'NO ACTION')
      this.lose(`${lack.why} References with ${wanted} on ${on} are written with ${instead}.`)
    return instead
  }

  private words(table: Table, column: Column): TypeWords {
    const list = column.type.kind === 'enum' ? this.called.enumNames.get(column.type.enum) : undefined
    return typeOn(this.speech, this.design, table, column.type, column.id, list)
  }

  private catalogColumn(table: Table, column: Column): CatalogColumn {
    const { speech } = this
    const words = this.words(table, column)
    if (words.loss) this.lose(words.loss)
    const { default: begins, computed } = column
    const generated = begins?.kind === 'generated'
    const isBegun = begins && !(begins.kind === 'expression' && this.isUnsaid(begins.expression))
    const isComputed = computed !== undefined && !this.isUnsaid(computed)
    const plain: CatalogColumn = {
      id: column.id,
      name: this.column(table, column.id),
      type: {
        sql: words.sql,
        type: column.type,
        ...(speech.enumTypes && column.type.kind === 'enum' && { list: column.type.enum })
      },
      required: column.required || generated,
      generated,
      default: isBegun ? defaultSql(speech, begins, column.type) : undefined,
      computed: isComputed ? this.computation(table, column, computed) : undefined,
      note: speech.facts.comments ? column.note : undefined
    }
    const keeping = this.keeping(table, column)
    if (keeping?.by === 'column') plain.renewed = keeping.now
    return speech.adjust ? speech.adjust(plain, { table, column }) : plain
  }

  private ownIndexes(
    table: Table,
    policy: ReturnType<typeof constraintNames>,
    labels: (ids: readonly string[]) => string[]
  ): CatalogIndex[] {
    const own = table.indexes.filter((each) => !this.isHeldByColumn(table, each))
    return own.map((each): CatalogIndex => {
      const ids = each.columns.map(({ column }) => column)
      const filter = each.where === undefined ? undefined : this.filter(table, each.where)
      const whole = each.where !== undefined && !filter
      return {
        id: each.id,
        name: this.give(
          each.name,
          each.unique ? policy.unique(table.name, labels(ids)) : policy.index(table.name, labels(ids))
        ),
        columns: ids,
        descending: each.columns.map(({ descending }) => descending),
        unique: each.unique && !whole,
        where: filter && this.expression(table, filter)
      }
    })
  }

  /** The condition of an index on some of the rows, where the engine takes it. */
  private filter(table: Table, where: string): Expression | undefined {
    const { facts, filter } = this.speech
    if (!facts.partialIndexes || this.isUnsaid(where)) return undefined
    return filter ? filter(expressionOf(where), (id) => columnOf(table, id)) : expressionOf(where)
  }

  /** Whether an index on some of the rows is to be held by a column, since the engine has none such. */
  private isHeldByColumn(table: Table, { unique, where, everywhere }: Index): boolean {
    const { holdsByColumn } = this.speech.facts
    const isHeld = holdsByColumn && unique && everywhere === true
    return isHeld && where !== undefined && !this.isUnsaid(where) && !this.filter(table, where)
  }

  /**
   * What is unique in some of the rows, where the engine has no such index: a unique key with a column that is
   * computed, and empty in all other rows. Where something empty is the same beside what is filled, every column
   * of the key is computed so.
   */
  private heldIndexes(
    table: Table,
    policy: ReturnType<typeof constraintNames>,
    labels: (ids: readonly string[]) => string[]
  ): { column: CatalogColumn[]; key: CatalogKey }[] {
    const { speech } = this
    const names = new NameGiver(speech.facts.nameLimit, speech.facts.refusedInNames)
    for (const name of this.columnNames(table).values()) names.give(name)
    const held = table.indexes.filter((each) => this.isHeldByColumn(table, each))
    return held.map((index) => {
      const ids = index.columns.map(({ column }) => column)
      const name = this.give(index.name, policy.unique(table.name, labels(ids)))
      const isIn = this.expression(table, index.where as string)
      const column = (id: string, called: string, type: Type, value: Written): CatalogColumn => ({
        id,
        name: names.give(called),
        type: { sql: this.typeSql(table, type), type },
        required: false,
        default: undefined,
        generated: false,
        computed: ['CASE WHEN ', ...isIn, ' THEN ', ...value, ' END'],
        note: undefined
      })
      const columns =
        speech.facts.emptyInKey === 'apart'
          ? [column(`${index.id}_if`, `${name}_if`, { kind: 'boolean' }, ['1'])]
          : columnsIn(table, ids).map((each) =>
              column(`${index.id}_${each.id}`, `${each.name}_if`, each.type, [{ column: each.id }])
            )
      const added = columns.map(({ id }) => id)
      const key = speech.facts.emptyInKey === 'apart' ? [...ids, ...added] : added
      return { column: columns, key: { id: index.id, name, columns: key } }
    })
  }

  private foreignKeyIndexes(
    table: Table,
    policy: ReturnType<typeof constraintNames>,
    labels: (ids: readonly string[]) => string[],
    own: readonly CatalogIndex[]
  ): CatalogIndex[] {
    if (!this.design.policy.indexForeignKeys) return []
    const { sameIndexTwice, references } = this.speech.facts
    const makesOwn = references.indexesComputed
    // One that is meant for some of the rows may have been made on all of them.
    const isThere = ({ pairs }: ForeignKey): boolean =>
      !sameIndexTwice &&
      own.some(
        ({ columns, descending }) =>
          !descending.includes(true) && columns.join(' ') === pairs.map(({ column }) => column).join(' ')
      )
    const isLeft = ({ pairs }: ForeignKey): boolean =>
      makesOwn && pairs.some(({ column }) => columnOf(table, column)?.computed !== undefined)
    const missing = unindexed(table).filter((each) => !isLeft(each) && !isThere(each))
    return missing.map((each) => {
      const ids = each.pairs.map((pair) => pair.column)
      return {
        id: `${each.id}_ix`,
        name: this.give(undefined, policy.index(table.name, labels(ids))),
        columns: ids,
        descending: ids.map(() => false),
        unique: false,
        where: undefined
      }
    })
  }
}

/** The pairs in the order of the key referred to, which some engines ask for. */
function inKeyOrder(design: Design, foreignKey: ForeignKey): ForeignKey['pairs'] {
  const parent = tableOf(design, foreignKey.table)
  const key = parent && keyOf(parent, foreignKey.key)
  // Of keys on the same columns the first is made.
  const made = key && keysOf(parent).find((each) => sameSet(each.columns, key.columns))
  const order = made?.columns ?? []
  return foreignKey.pairs.every((pair, at) => pair.refersTo === order[at])
    ? foreignKey.pairs
    : [...foreignKey.pairs].sort((a, b) => order.indexOf(a.refersTo) - order.indexOf(b.refersTo))
}

/** The table's columns that a kept expression names, by their ids. */
export const columnsNamedBy = (kept: string, table: Table): string[] => {
  const found = new Set<string>()
  for (const match of kept.matchAll(/\{([a-z0-9_]+)\}/g))
    if (columnOf(table, match[1] as string)) found.add(match[1] as string)
  return [...found]
}

/**
 * Unique keys that say something the primary key, or one before them, does not say already: an engine may
 * pass the others over without a word.
 */
function distinctUniques(table: Table): Key[] {
  return table.uniques.filter((key, at) => {
    const before = [...(table.primaryKey ? [table.primaryKey] : []), ...table.uniques.slice(0, at)]
    return !before.some((other) => sameSet(other.columns, key.columns))
  })
}

/** The foreign keys that no key or whole index, and no other foreign key's index, begins with. */
export function unindexed(table: Table): ForeignKey[] {
  const prefixes: string[][] = [
    ...[...(table.primaryKey ? [table.primaryKey] : []), ...table.uniques].map((key) => key.columns),
    ...table.indexes
      .filter((index) => index.where === undefined)
      .map((index) => index.columns.map(({ column }) => column))
  ]
  return table.foreignKeys.filter((foreignKey) => {
    const columns = foreignKey.pairs.map((pair) => pair.column)
    const covered = prefixes.some(
      (prefix) =>
        columns.length <= prefix.length &&
        columns.every((column) => prefix.slice(0, columns.length).includes(column))
    )
    if (!covered) prefixes.push(columns)
    return !covered
  })
}
