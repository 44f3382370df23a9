import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { dialectsOf } from '../../core/dialect/index.ts'
import type { Dialect } from '../../core/dialect/dialect.ts'
import type { Design, Row, TableId } from '../../core/design/model.ts'
import type { Paused } from '../../core/design/paused.ts'
import { keepTrial } from '../../core/rehearse/keep.ts'
import { rulebookOf } from '../../core/rehearse/rules.ts'
import { isSameEnd } from '../../core/rehearse/same-end.ts'
import { rehearsePaused } from '../../core/rehearse/run.ts'
import { placeInSound, soundRows, soundWithout } from '../../core/rehearse/sound-rows.ts'
import { designAfter, orphansIn, type Orphans } from '../../core/rehearse/orphans.ts'
import type { Rehearsed, Trial, TrialStatement } from '../../core/rehearse/trial.ts'
import { soon } from '../rows/slices.ts'
import { useDesign } from './design.ts'
import { useUnfinished } from './unfinished.ts'

/** What a trial comes to on one engine. */
export interface Outcome {
  /** The dialect's name; with what is said of the connection, where that is not as usual. */
  name: string
  title: string
  dialect: Dialect
  rehearsed: Rehearsed
  /** How many rows something becomes of. */
  touched: number
  /** What is left that refers to nothing, on a connection that holds rows to no reference. */
  orphans: readonly Orphans[]
  /** The rows as they are left, where some refer to nothing. */
  after: Design | undefined
}

/** What a trial comes to on each engine, with stops. */
function* workOf(
  design: Design,
  dialects: readonly Dialect[],
  trial: Trial
): Paused<{ outcomes: Outcome[]; differs: boolean }> {
  const outcomes: Outcome[] = []
  for (const dialect of dialects) {
    const { name, title, facts } = dialect
    const rules = rulebookOf(design, dialect)
    yield
    const rehearsed = yield* rehearsePaused(design, rules, trial)
    outcomes.push({
      name,
      title,
      dialect,
      rehearsed,
      touched: touchedIn(rehearsed),
      orphans: [],
      after: undefined
    })
    yield
    if (facts.actions.heldOnRequest) outcomes.push(yield* unheld(design, dialect, trial))
  }
  const [first, ...others] = outcomes.filter(({ after }) => after === undefined)
  let differs = false
  for (const { rehearsed } of others) {
    differs ||= first !== undefined && !isSameEnd(design, first.rehearsed, rehearsed)
    yield
  }
  return { outcomes, differs }
}

/** The same on a connection that has not asked for references to be held. */
function* unheld(design: Design, dialect: Dialect, trial: Trial): Paused<Outcome> {
  const rehearsed = yield* rehearsePaused(design, rulebookOf(design, dialect, { enforced: false }), trial)
  yield
  const after = designAfter(design, rehearsed)
  yield
  return {
    name: `${dialect.name}, not asked`,
    title: `${dialect.title}, not asked to`,
    dialect,
    rehearsed,
    touched: touchedIn(rehearsed),
    orphans: yield* orphansIn(after),
    after
  }
}

/** How many rows something becomes of, or would. */
function touchedIn({ effects }: Rehearsed): number {
  const byTable = new Map<TableId, Set<number>>()
  for (const { table, place } of effects) {
    const places = byTable.get(table) ?? new Set()
    byTable.set(table, places.add(place))
  }
  return [...byTable.values()].reduce((sum, { size }) => sum + size, 0)
}

/** What is being tried on the rows of the open design, and what it comes to on each engine that it is written for. */
export const useRehearsal = defineStore('rehearsal', () => {
  const store = useDesign()
  const unfinished = useUnfinished()
  const statements = shallowRef<readonly TrialStatement[]>([])
  const together = ref(true)
  const deferring = ref(false)
  const chosen = ref<string>()

  const sound = computed(() => {
    const unfit = unfinished.rowsWaiting
    if (!store.design) return undefined
    return unfit.size === 0 ? soundRows(store.design) : soundWithout(store.design, unfit)
  })
  const isOpen = computed(() => statements.value.length > 0)
  const dialects = computed(() => (store.design ? dialectsOf(store.design) : []))
  const outcomes = shallowRef<readonly Outcome[]>([])
  /** Whether engines that the design is written for, as they are asked to be, do different things. */
  const differs = ref(false)
  /** Whether what is tried is still being worked out: what stands in `outcomes` is of before. */
  const isWorking = ref(false)
  let asked = 0

  function workOut(): void {
    const number = ++asked
    const design = isOpen.value ? sound.value?.design : undefined
    isWorking.value = design !== undefined
    if (!design) return void (outcomes.value = [])
    const trial = { statements: statements.value, together: together.value, deferring: deferring.value }
    const isWanted = (): boolean => number === asked
    soon(workOf(design, dialects.value, trial), isWanted, (found) => {
      outcomes.value = found.outcomes
      differs.value = found.differs
      isWorking.value = false
    })
  }
  // Whether rows are sound is asked only where something is tried.
  const tried = computed(() =>
    isOpen.value ? [sound.value, statements.value, together.value, deferring.value] : undefined
  )
  watch(tried, workOut)

  /** The one that is shown: the one chosen, else the first that the design is written for. */
  const shown = computed(() => outcomes.value.find(({ name }) => name === chosen.value) ?? outcomes.value[0])

  // What is tried is of one design, and of rows as they are.
  watch([() => store.design?.id, () => store.looking], () => putBack())

  /** Adds a statement on rows of the whole design; says why where a row breaks a rule itself. */
  function attempt(statement: TrialStatement): string | undefined {
    const from = sound.value
    if (!from) return undefined
    if (statement.kind === 'insert') return void (statements.value = [...statements.value, statement])
    const rows = statement.rows.flatMap((place) => placeInSound(from, statement.table, place) ?? [])
    if (rows.length < statement.rows.length)
      return 'That row breaks a rule itself, so that no engine would have it: put it right first.'
    statements.value = [...statements.value, { ...statement, rows }]
    return undefined
  }

  const tryDelete = (table: TableId, rows: readonly number[]): string | undefined =>
    attempt({ kind: 'delete', table, rows })
  const tryChange = (table: TableId, row: number, values: Row): string | undefined =>
    attempt({ kind: 'update', table, rows: [row], values })
  const tryInsert = (table: TableId, row: Row): string | undefined =>
    attempt({ kind: 'insert', table, rows: [row] })

  /** Tries what a trial says, on the sound rows, instead of what was tried. */
  function tryAll(trial: Trial): void {
    statements.value = trial.statements
    together.value = trial.together
    deferring.value = trial.deferring ?? false
  }

  function putBack(): void {
    statements.value = []
  }

  /** Keeps what is shown, as one step that can be undone. */
  function keep(label: string): void {
    const [design, from, outcome] = [store.design, sound.value, shown.value]
    if (isWorking.value) return
    const operation = design && from && outcome && keepTrial(design, from, outcome.rehearsed, label)
    statements.value = []
    if (operation) store.submit(operation, label)
  }

  return {
    statements,
    together,
    deferring,
    chosen,
    sound,
    dialects,
    isOpen,
    outcomes,
    differs,
    isWorking,
    shown,
    tryDelete,
    tryChange,
    tryInsert,
    tryAll,
    putBack,
    keep,
    without: (at: number) => {
      statements.value = statements.value.filter((_, each) => each !== at)
    }
  }
})
