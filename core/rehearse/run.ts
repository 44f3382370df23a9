import { columnOf, columnsIn, tableOf } from '../design/directory.ts'
import { evaluate } from '../design/evaluate.ts'
import { textOfKey } from '../design/key-text.ts'
import type { Action, Design, Row, Table } from '../design/model.ts'
import { compareKeys, orderKey, type OrderKey } from '../design/order.ts'
import { fits } from '../design/value.ts'
import { sorted } from '../design/sorted.ts'
import { filledRow, valueByDefault, type Counters } from '../design/filled.ts'
import { finish, STRETCH, type Paused } from '../design/paused.ts'
import { Agenda, type LookTask, type RowTask, type SettleTask, type TurnTask } from './agenda.ts'
import type { ReferenceRule, Rulebook } from './rules.ts'
import { Stage, textOfReference, textOfReferred, type RowLink } from './stage.ts'
import type { Effect, TrialRefusal, Rehearsed, Trial, TrialStatement } from './trial.ts'

/**
 * Works out what statements do to a design's rows, on an engine that holds them to the rulebook: which rows go, which
 * are emptied, set to a default or changed with them, in which order, and what is refused. The rows must break no rule
 * themselves. The actions and when each reference is looked at: ISO/IEC 9075-2, 4.18.3 and 11.8; in which order an
 * engine does so: ActionFacts.
 */
export const rehearse = (design: Design, rules: Rulebook, trial: Trial): Rehearsed =>
  finish(rehearsePaused(design, rules, trial))

/** The same, with stops. */
export function* rehearsePaused(design: Design, rules: Rulebook, trial: Trial): Paused<Rehearsed> {
  const run = new Run(design, rules, trial)
  const refusals: TrialRefusal[] = []
  for (const [at, statement] of trial.statements.entries()) {
    const refusal = yield* run.statement(statement, at)
    if (refusal) refusals.push(refusal)
    if (refusal && trial.together) break
  }
  if (trial.together && refusals.length === 0) {
    const refusal = yield* run.end(Math.max(trial.statements.length - 1, 0))
    if (refusal) refusals.push(refusal)
  }
  if (trial.together && refusals.length > 0) run.takeBack()
  let changed: Rehearsed['changed'] | undefined
  let rows: Rehearsed['rows'] | undefined
  return {
    effects: run.effects,
    refusals,
    named: run.named,
    get changed() {
      return (changed ??= run.changed())
    },
    // Most ask what happens, and not for a hundred thousand rows that are as they were.
    get rows() {
      return (rows ??= run.rows())
    }
  }
}

type Where = Pick<TrialRefusal, 'when' | 'statement'>

/** What stops a statement. */
class Stopped extends Error {
  constructor(readonly refusal: Omit<TrialRefusal, 'when' | 'statement'>) {
    super(refusal.kind)
  }
}

const NONE: readonly never[] = []

class Run {
  readonly effects: Effect[] = []
  readonly named: (readonly Row[])[] = []
  private readonly stage: Stage
  private readonly agenda: Agenda
  private readonly counters: Counters = new Map()
  private looksAtStatementEnd: LookTask[] = []
  private looksAtEnd: LookTask[] = []
  /** Rows that are each to have one that refers to them, by what they are referred to by. */
  private minimums: { rule: ReferenceRule; text: string; effect: number }[] = []
  private statementAt = 0

  constructor(
    private readonly design: Design,
    private readonly rules: Rulebook,
    private readonly trial: Trial
  ) {
    this.stage = new Stage(design)
    this.agenda = new Agenda(rules.acts.runs === 'behind the statement')
  }

  /** Carries a statement out; where it is refused, everything is as it was before it. */
  *statement(statement: TrialStatement, at: number): Paused<TrialRefusal | undefined> {
    const first = this.effects.length
    this.statementAt = at
    this.looksAtStatementEnd = []
    this.agenda.clear()
    const refused =
      (yield* this.stopped({ when: 'at once', statement: at }, this.carryOut(statement))) ??
      (yield* this.stopped(
        { when: 'at the end of the statement', statement: at },
        this.lookAtStatementEnd()
      )) ??
      (this.trial.together ? undefined : yield* this.end(at))
    if (refused) this.takeBack(first)
    if (refused && !this.trial.together) this.forgetTheEnd()
    return refused
  }

  /** The end of a transaction. */
  *end(statement: number): Paused<TrialRefusal | undefined> {
    return yield* this.stopped({ when: 'at the end of the transaction', statement }, this.lookAtEnd())
  }

  /** What waited for the end has its turn as it came; of one change a reference is looked at first. */
  private *lookAtEnd(): Paused<void> {
    const [looks, minimums] = [this.looksAtEnd, this.minimums]
    this.forgetTheEnd()
    let next = 0
    const holdUpTo = (effect: number): void => {
      for (let held = minimums[next]; held && held.effect < effect; held = minimums[++next]) this.hold(held)
    }
    for (const [at, task] of looks.entries()) {
      if (at % STRETCH === STRETCH - 1) yield
      holdUpTo(task.effect)
      this.look(task)
    }
    holdUpTo(Infinity)
  }

  private forgetTheEnd(): void {
    this.looksAtEnd = []
    this.minimums = []
  }

  /** Makes rows again what they were before an effect and all that came after it. */
  takeBack(first = 0): void {
    for (let at = this.effects.length - 1; at >= first; at--) {
      const { table, place, before } = this.effects[at] as Effect
      this.stage.put(table, place, before)
    }
  }

  changed(): Rehearsed['changed'] {
    return this.stage.changed()
  }

  rows(): Rehearsed['rows'] {
    return this.stage.changedTables()
  }

  private *stopped(where: Where, work: Paused<void>): Paused<TrialRefusal | undefined> {
    try {
      yield* work
      return undefined
    } catch (error) {
      if (error instanceof Stopped) return { ...error.refusal, ...where }
      throw error
    }
  }

  private *carryOut(statement: TrialStatement): Paused<void> {
    const table = tableOf(this.design, statement.table)
    if (!table) return
    const tasks = yield* this.tasksOf(statement, table)
    this.named.push(
      tasks.flatMap(({ what, place, values }): Row[] => {
        const row = what === 'inserted' ? values : this.stage.row(table.id, place)
        return row ? [row] : []
      })
    )
    if (this.rules.acts.runs === 'behind the statement') for (const task of tasks) this.change(task)
    else this.agenda.add(tasks)
    yield* this.workOff()
  }

  private *tasksOf(statement: TrialStatement, table: Table): Paused<RowTask[]> {
    const task = { kind: 'row' as const, table, values: undefined, cause: undefined, step: 0 }
    switch (statement.kind) {
      case 'delete':
        return (yield* this.inOrder(table, statement.rows)).map((place) => ({
          ...task,
          what: 'deleted',
          place
        }))
      case 'update':
        return (yield* this.inOrder(table, statement.rows)).map((place) => ({
          ...task,
          what: 'changed',
          place,
          values: statement.values
        }))
      case 'insert': {
        const first = this.stage.next(table.id)
        return statement.rows.map((row, at) => ({
          ...task,
          what: 'inserted',
          place: first + at,
          values: filledRow(this.design, table, row, this.counters, this.trial.now)
        }))
      }
    }
  }

  /** The places of rows in the order in which the engine comes to them. */
  private *inOrder(table: Table, places: readonly number[]): Paused<readonly number[]> {
    if (places.length < 2 || this.rules.acts.rows === 'as put in') return places
    const key = columnsIn(table, table.primaryKey?.columns ?? [])
    const keyed: { place: number; keys: OrderKey[] }[] = []
    for (const place of places) {
      const row = this.stage.row(table.id, place)
      keyed.push({ place, keys: key.map(({ id, type }) => orderKey(row?.[id] ?? null, type)) })
      if (keyed.length % STRETCH === 0) yield
    }
    const ordered = yield* sorted(keyed, (one, other) => {
      for (let at = 0; at < key.length; at++) {
        const difference = compareKeys(one.keys[at] as OrderKey, other.keys[at] as OrderKey)
        if (difference !== 0) return difference
      }
      return one.place - other.place
    })
    return ordered.map(({ place }) => place)
  }

  private *workOff(): Paused<void> {
    let done = 0
    for (let task = this.agenda.take(); task; task = this.agenda.take()) {
      if (task.kind === 'row') this.change(task)
      else if (task.kind === 'turn') yield* this.turn(task)
      else if (task.kind === 'settle') this.settle(task)
      else this.look(task)
      if (++done % STRETCH === 0) yield
    }
  }

  /** Changes a row, and sees to what leans on it. */
  private change(task: RowTask): void {
    const { table, place, what, values, cause, step } = task
    const before = this.stage.row(table.id, place)
    if (what !== 'inserted' && !before) return
    const after = values && { ...before, ...values }
    const effect = this.effects.length
    if (after) this.judge(task, before, after)
    const turns = before ? this.turnsAfter(table, before, after, effect, step) : NONE
    // Where the engine looks with the row, one whose key changes is neither here nor there until all that is done.
    const isBetween = before && after && turns.length > 0 && this.rules.acts.looks === 'with the row'
    if (after && !isBetween) this.judgeApart(task, before, after)
    const { statementAt: statement } = this
    this.effects.push({ kind: what, table: table.id, place, before, after, statement, step, cause })
    this.noteMinimums(table, before, after, effect)
    if (isBetween) {
      this.stage.put(table.id, place, undefined)
      return this.agenda.add([...turns, { kind: 'settle', task, before, after, effect }])
    }
    this.stage.put(table.id, place, after)
    this.agenda.add(turns, this.looksAfter(table, before, after, effect))
  }

  private settle({ task, before, after, effect }: SettleTask): void {
    const { table, place } = task
    this.judgeApart(task, before, after)
    this.stage.put(table.id, place, after)
    this.agenda.add(this.looksAfter(table, before, after, effect))
  }

  /** Whether the row may be as it is to become, by what the table says of its rows. */
  private judge(task: RowTask, before: Row | undefined, after: Row): void {
    const { table, place, values = {}, cause } = task
    const stop = (kind: TrialRefusal['kind'], of: string, rows: readonly number[] = [place]): never => {
      throw new Stopped({ kind, table: table.id, rows, of, ...(cause && { effect: cause.effect }) })
    }
    const changed = (id: string): boolean => !before || id in values
    for (const { id, type } of table.columns)
      if (changed(id) && !fits(after[id] ?? null, type, this.design.enums)) stop('value', id)
    for (const { id } of this.rules.required(table.id))
      if (changed(id) && (after[id] ?? null) === null) stop('required', id)
    if (!cause || this.rules.acts.checksActions)
      for (const { id, condition } of this.rules.checks(table.id))
        if (evaluate(condition, table, after) === false) stop('check', id)
  }

  /** Whether the row is apart from all others, in what is to tell rows apart. */
  private judgeApart({ table, place, cause }: RowTask, before: Row | undefined, after: Row): void {
    for (const { id, columns, where, way } of this.rules.apart(table.id)) {
      const text = textOfKey(table, columns, after)
      const isAsBefore = before && where === undefined && text === textOfKey(table, columns, before)
      if (text === undefined || isAsBefore) continue
      const isIn = (row: Row | undefined): boolean =>
        row !== undefined && (where === undefined || evaluate(where, table, row) === true)
      if (!isIn(after)) continue
      const others = this.stage.find(table.id, way, text).filter((other) => other !== place)
      const rows = others.filter((other) => isIn(this.stage.row(table.id, other)))
      if (rows.length > 0)
        throw new Stopped({
          kind: 'key',
          table: table.id,
          rows,
          of: id,
          ...(cause && { effect: cause.effect })
        })
    }
  }

  /** The references whose turn comes when a row is gone or has another key. */
  private turnsAfter(
    table: Table,
    before: Row,
    after: Row | undefined,
    effect: number,
    step: number
  ): readonly TurnTask[] {
    const rules = this.rules.to(table.id)
    if (rules.length === 0) return NONE
    const turns: TurnTask[] = []
    for (const rule of rules) {
      const text = textOfReferred(rule.link, before)
      const isAsBefore = after !== undefined && textOfReferred(rule.link, after) === text
      if (text === undefined || isAsBefore) continue
      turns.push({ kind: 'turn', rule, on: after ? 'update' : 'delete', before, after, effect, step })
    }
    return turns
  }

  /** What a row refers to from now on. */
  private looksAfter(
    table: Table,
    before: Row | undefined,
    after: Row | undefined,
    effect: number
  ): readonly LookTask[] {
    if (!after) return NONE
    const because = this.effects[effect]?.cause?.foreignKey
    const isKeptAnew = this.rules.acts.looks === 'with the row' && before && isMoved(table, before, after)
    return this.rules.of(table.id).flatMap((rule): LookTask[] => {
      const text = textOfReference(rule.link, after)
      const isAsBefore = before && textOfReference(rule.link, before) === text
      if (text === undefined || (isAsBefore && !isKeptAnew)) return []
      // What was changed along with the key that it follows leads there.
      const follows = because === rule.id && this.effects[effect]?.kind === 'changed'
      if (follows && this.rules.acts.looks !== 'at the end') return []
      return this.looking({ kind: 'look', rule, text, effect, because: 'refers' })
    })
  }

  private *turn({ rule, on, before, after, effect, step }: TurnTask): Paused<void> {
    const text = textOfReferred(rule.link, before) as string
    const action = this.actionOf(rule, on)
    const found = yield* this.inOrder(rule.child, this.stage.find(rule.child.id, rule.link.toOwn, text))
    const places = this.withThoseGoing(rule, action, found, text, effect)
    const { acts } = this.rules
    const look: LookTask = { kind: 'look', rule, text, effect, because: 'gone' }
    if (action === 'RESTRICT') {
      if (places.length > 0) this.refuse(look, places)
      return
    }
    if (action === 'NO ACTION') {
      if (places.length > 0) for (const due of this.looking(look)) this.look(due)
      return
    }
    const tasks = places.map((place) => this.taskOf(rule, action, place, after, effect, step))
    for (const task of tasks) this.bound(task)
    if (acts.runs === 'behind the statement') for (const task of tasks) this.change(task)
    else this.agenda.add(tasks)
    // Where the default is what stood there before, nothing has changed.
    if (action === 'SET DEFAULT' && places.length > 0)
      for (const due of acts.looks === 'at the end' ? this.looking(look) : [look]) this.look(due)
  }

  /** RESTRICT waits for nothing, unless everything does; where nothing is ever waited for, NO ACTION is the same. */
  private actionOf(rule: ReferenceRule, on: 'delete' | 'update'): Action {
    const action = on === 'delete' ? rule.onDelete : rule.onUpdate
    if (action === 'NO ACTION' && this.rules.acts.looks === 'with the row') return 'RESTRICT'
    return action === 'RESTRICT' && this.isAllDeferred() ? 'NO ACTION' : action
  }

  private isAllDeferred(): boolean {
    const { deferring = false, together } = this.trial
    return deferring && together && this.rules.acts.defers === 'all'
  }

  /**
   * Rows on the way to this one that are neither here nor there yet: where the engine looks with the row, they are still
   * found in the index of the reference, unless that is the one that the row itself is kept in and it is kept elsewhere
   * from now on. Those that are being deleted stand in nothing's way but RESTRICT's.
   */
  private withThoseGoing(
    rule: ReferenceRule,
    action: Action,
    found: readonly number[],
    text: string,
    effect: number
  ): readonly number[] {
    if (this.rules.acts.looks !== 'with the row') return found
    const { child, link } = rule
    const isByKey = this.isLookedAtByKey(rule)
    const going: number[] = []
    for (let at: number | undefined = effect; at !== undefined; at = this.effects[at]?.cause?.effect) {
      const { kind, table, place, before, after } = this.effects[at] as Effect
      if (table !== child.id || before === undefined) continue
      const isKeptElsewhere = isByKey && (after === undefined || isMoved(child, before, after))
      const isGoing = !isKeptElsewhere && (kind !== 'deleted' || action === 'RESTRICT')
      if (isGoing && textOfReference(link, before) === text) going.push(place)
    }
    return [...found, ...going]
  }

  private taskOf(
    rule: ReferenceRule,
    action: 'CASCADE' | 'SET NULL' | 'SET DEFAULT',
    place: number,
    after: Row | undefined,
    effect: number,
    step: number
  ): RowTask {
    const { child, link } = rule
    const cause = { effect, foreignKey: rule.id }
    if (action === 'CASCADE' && !after)
      return { kind: 'row', what: 'deleted', table: child, place, values: undefined, cause, step: step + 1 }
    const values: Row = {}
    for (const [at, id] of link.own.entries())
      if (action === 'SET NULL') values[id] = null
      else if (action === 'SET DEFAULT') values[id] = valueByDefault(columnOf(child, id), this.trial.now)
      else values[id] = after?.[link.its[at] as string] ?? null
    const what = { CASCADE: 'changed', 'SET NULL': 'emptied', 'SET DEFAULT': 'defaulted' } as const
    return { kind: 'row', what: what[action], table: child, place, values, cause, step: step + 1 }
  }

  /** Some engines go no further than so many steps, or not through the same table again. */
  private bound(task: RowTask): void {
    const { deepest, changesAgain } = this.rules.acts
    if (deepest !== undefined && task.step > deepest) this.refuseTask('depth', task)
    if (changesAgain || task.what === 'deleted') return
    for (let at = task.cause?.effect; at !== undefined; at = this.effects[at]?.cause?.effect) {
      const above = this.effects[at]
      if (above?.table === task.table.id && above.kind !== 'deleted') this.refuseTask('again', task)
    }
  }

  private refuseTask(kind: TrialRefusal['kind'], { table, place, cause }: RowTask): never {
    const by = cause && { of: cause.foreignKey, effect: cause.effect }
    throw new Stopped({ kind, table: table.id, rows: [place], ...by })
  }

  /** A look that is due now, or none where it has to wait. */
  private looking(task: LookTask): LookTask[] {
    if (this.isDeferred(task.rule)) this.looksAtEnd.push(task)
    else if (this.rules.acts.looks === 'at the end') this.looksAtStatementEnd.push(task)
    else return [task]
    return []
  }

  private isDeferred({ deferrable }: ReferenceRule): boolean {
    if (deferrable === 'deferred') return true
    if (!this.trial.deferring || !this.trial.together) return false
    return deferrable !== undefined || this.isAllDeferred()
  }

  private *lookAtStatementEnd(): Paused<void> {
    for (const [at, task] of this.looksAtStatementEnd.entries()) {
      if (at % STRETCH === STRETCH - 1) yield
      this.look(task)
    }
  }

  private look(task: LookTask): void {
    const { child, parent, link } = task.rule
    const places = this.stage.find(child.id, link.toOwn, task.text)
    const there = this.stage.find(parent.id, link.toIts, task.text)
    const own = this.effects[task.effect]
    // Where a row is kept by what it refers by, that is looked at before the row is there, unless it was there as such.
    const isEarly = task.because === 'refers' && child === parent && this.isLookedAtByKey(task.rule)
    const isFound = !isEarly || (own !== undefined && isReferredAsBefore(link, own))
    const leads = isFound ? there : there.filter((place) => place !== own?.place)
    if (places.length > 0 && leads.length === 0) this.refuse(task, places)
  }

  /** Whether the engine, looking with the row, does so in the index that the row itself is kept in. */
  private isLookedAtByKey({ child, link }: ReferenceRule): boolean {
    const isBeginning = link.own.every((id, at) => child.primaryKey?.columns[at] === id)
    return this.rules.acts.looks === 'with the row' && isBeginning
  }

  private refuse({ rule, effect, because }: LookTask, rows: readonly number[]): never {
    const kind = because === 'gone' ? 'reference' : 'nothing'
    throw new Stopped({ kind, table: rule.child.id, rows, of: rule.id, effect })
  }

  private noteMinimums(table: Table, before: Row | undefined, after: Row | undefined, effect: number): void {
    if (!this.rules.holdsMinimums) return
    const note = (rule: ReferenceRule, text: string | undefined): void => {
      if (rule.atLeastOne && text !== undefined) this.minimums.push({ rule, text, effect })
    }
    if (before) for (const rule of this.rules.of(table.id)) note(rule, textOfReference(rule.link, before))
    if (after) for (const rule of this.rules.to(table.id)) note(rule, textOfReferred(rule.link, after))
  }

  private hold({ rule, text, effect }: { rule: ReferenceRule; text: string; effect: number }): void {
    const { child, parent, link } = rule
    const rows = this.stage.find(parent.id, link.toIts, text)
    if (rows.length === 0 || this.stage.find(child.id, link.toOwn, text).length > 0) return
    throw new Stopped({ kind: 'minimum', table: parent.id, rows, of: rule.id, effect })
  }
}

/** Whether a row was there before, and is referred to by a link as it was. */
const isReferredAsBefore = (link: RowLink, { before, after }: Effect): boolean =>
  before !== undefined && after !== undefined && textOfReferred(link, before) === textOfReferred(link, after)

/** Whether a row has another primary key, by which some engines keep it: it is in all of their indexes anew. */
const isMoved = (table: Table, before: Row, after: Row): boolean =>
  textOfKey(table, table.primaryKey?.columns ?? [], before) !==
  textOfKey(table, table.primaryKey?.columns ?? [], after)
