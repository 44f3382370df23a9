import { computed, type ComputedRef } from 'vue'
import {
  ACTIONS,
  type Action,
  type Deferrable,
  type ForeignKey,
  type Nature,
  type Table
} from '../../core/design/model.ts'
import { actionIn } from '../../core/dialect/dialect.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { accessorNames, rowName } from '../../core/relate/accessors.ts'
import { isJunction } from '../../core/relate/junction.ts'
import { natureOf, ruleFor } from '../../core/relate/nature.ts'
import { plural } from '../../core/naming/words.ts'
import { changeCardinality } from '../../core/relate/propose.ts'
import {
  cardinalitySentences,
  deleteWords,
  isSingle,
  readingOf,
  updateWords
} from '../../core/relate/reading.ts'
import type { Option } from '../parts/ChoiceMenu.vue'
import { useDesign } from '../stores/design.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Reading } from '../../core/relate/reading.ts'

/** How many of the other side a row of one side may have. */
export type HowMany = Reading['ofChild'] | Reading['ofParent']

/** When a reference is looked at. */
export type Moment = Deferrable | 'at once'

export interface Relation {
  child: Table
  parent: Table
  foreignKey: ForeignKey
}

/**
 * A relationship as sentences and the choices in them, wherever it is read: on a card of the bench or in
 * the ledger.
 */
export function useRelation(relation: ComputedRef<Relation>) {
  const store = useDesign()
  const reading = computed(() => readingOf(relation.value.child, relation.value.foreignKey))
  const sentences = computed(() =>
    cardinalitySentences(relation.value.child, relation.value.parent, reading.value)
  )
  const many = computed(() => !isSingle(reading.value))
  const onDelete = computed(() =>
    deleteWords(relation.value.foreignKey.onDelete, relation.value.child.name, many.value)
  )
  const onUpdate = computed(() =>
    updateWords(relation.value.foreignKey.onUpdate, relation.value.child.name, many.value)
  )

  // The list of them stays the very same while a design is edited, so that what is said here is not said
  // anew.
  const writtenFor = computed(() => store.design?.dialects ?? [])
  /** Without a word on what it is written for, a design is held to no dialect's limits. */
  const named = computed(() =>
    writtenFor.value.length > 0 ? dialectsOf({ dialects: writtenFor.value }) : []
  )

  /** How many of the other side a row of the child, or of the parent, may have. */
  function howMany(of: 'child' | 'parent'): Option<HowMany>[] {
    if (of === 'parent')
      return [
        { value: 'any number of', words: 'any number of' },
        { value: 'at least one', words: 'at least one', term: 'no key holds it' },
        { value: 'at most one', words: 'at most one', term: 'UNIQUE' },
        { value: 'exactly one', words: 'exactly one', term: 'UNIQUE, and no key holds it' }
      ]
    const inKey = reading.value.identifying ? `It is part of the key of ${relation.value.child.name}` : ''
    return [
      { value: 'exactly one', words: 'exactly one' },
      {
        value: 'at most one',
        words: 'at most one',
        ...(inKey && { why: `${inKey}, and a key is never empty.` })
      },
      {
        value: 'any number of',
        words: 'any number of',
        term: 'junction table',
        ...(inKey && { why: `${inKey}.` })
      }
    ]
  }

  /** False where the choice needs a junction, which is for the caller to open. */
  function chooseHowMany(of: 'child' | 'parent', value: HowMany): boolean {
    if (of === 'child' && value === 'any number of') return false
    if (of === 'parent') chooseOfParent(value)
    else
      store.submit(
        changeCardinality(relation.value.child, relation.value.foreignKey, {
          required: value === 'exactly one'
        })
      )
    return true
  }

  /** A minimum is held where that can be; where rows stand in the way, it may be said only. */
  function chooseOfParent(value: HowMany): void {
    const { child, parent, foreignKey } = relation.value
    const single = value === 'at most one' || value === 'exactly one'
    const isSome = value === 'at least one' || value === 'exactly one'
    const isAble =
      !parent.external &&
      !child.external &&
      dialectsOf({ dialects: writtenFor.value }).some(({ facts }) => facts.deferredTriggers)
    const change = (minimum: 'held' | 'said' | null): Operation => ({
      kind: 'batch',
      label: `change how many ${plural(child.name)} each ${parent.name} has`,
      operations: [
        ...(single === isSingle(reading.value) ? [] : [changeCardinality(child, foreignKey, { single })]),
        ...((foreignKey.atLeastOne ?? null) === minimum
          ? []
          : [{ kind: 'foreignKey.setMinimum' as const, table: child.id, foreignKey: foreignKey.id, minimum }])
      ]
    })
    const wanted = !isSome ? null : (foreignKey.atLeastOne ?? (isAble ? 'held' : 'said'))
    const instead = wanted === 'held' ? [{ label: 'Say it only', operation: change('said') }] : []
    store.submit(change(wanted), undefined, instead)
  }

  function actions(on: 'delete' | 'update'): Option<Action>[] {
    return ACTIONS.map((action) => {
      // A refusal is the same by either name.
      const refused = named.value.flatMap(({ facts }) => {
        const able = actionIn(facts, action, on)
        return able.can || action === 'RESTRICT' ? [] : [able.why]
      })
      const words = on === 'delete' ? deleteWords : updateWords
      return {
        value: action,
        words: words(action, relation.value.child.name, many.value).words,
        term: action,
        ...(refused[0] && { why: refused[0] })
      }
    })
  }

  function setActions(change: { onDelete?: Action; onUpdate?: Action }): void {
    const { child, foreignKey } = relation.value
    store.submit({
      kind: 'foreignKey.setActions',
      table: child.id,
      foreignKey: foreignKey.id,
      onDelete: change.onDelete ?? foreignKey.onDelete,
      onUpdate: change.onUpdate ?? foreignKey.onUpdate
    })
  }

  /** When it is looked at whether a row refers to something, for an engine that can wait. */
  const moment = computed(() => relation.value.foreignKey.deferrable ?? 'at once')
  const moments = computed((): Option<Moment>[] => {
    const isAble = dialectsOf({ dialects: writtenFor.value }).some(({ facts }) => facts.deferrable)
    const why = isAble ? {} : { why: 'None of the engines that this is written for can wait.' }
    return [
      { value: 'at once', words: 'with each statement', term: 'NOT DEFERRABLE' },
      { value: 'immediate', words: 'when a transaction asks for it, at its end', term: 'DEFERRABLE', ...why },
      { value: 'deferred', words: 'at the end of each transaction', term: 'INITIALLY DEFERRED', ...why }
    ]
  })
  function setMoment(wanted: Moment): void {
    const { child, foreignKey } = relation.value
    const deferrable = wanted === 'at once' ? null : wanted
    store.submit({ kind: 'foreignKey.setDeferrable', table: child.id, foreignKey: foreignKey.id, deferrable })
  }

  const nature = computed(() => natureOf(relation.value.child, relation.value.foreignKey))
  /** What a row of the child can be to the one that it refers to; a pair of a junction is a fact about both. */
  const natures = computed((): Option<Nature>[] => {
    const { child, parent } = relation.value
    return isJunction(child)
      ? []
      : [
          { value: 'part', words: `a part of its ${parent.name}`, term: 'goes with it' },
          { value: 'listed', words: 'a thing by itself', term: 'outlives it, or holds it back' }
        ]
  })
  /** The rule on delete follows from it. */
  function setNature(wanted: Nature): void {
    const { child, foreignKey } = relation.value
    const onDelete = ruleFor(wanted, reading.value.ofChild === 'exactly one')
    const at = { table: child.id, foreignKey: foreignKey.id }
    store.submit({
      kind: 'batch',
      label: `change what ${child.name} is to ${relation.value.parent.name}`,
      operations: [
        { kind: 'foreignKey.setNature', ...at, nature: wanted },
        { kind: 'foreignKey.setActions', ...at, onDelete, onUpdate: foreignKey.onUpdate }
      ]
    })
  }

  /** What a row of each side is called in code. */
  const rowNames = computed(() => {
    const { child, parent } = relation.value
    const { design } = store
    return design
      ? { child: rowName(design, child), parent: rowName(design, parent) }
      : { child: '', parent: '' }
  })

  /** What the direction from a row of the child, or of the parent, is called in code. */
  const accessors = computed(() =>
    store.design
      ? accessorNames(store.design, relation.value.child, relation.value.foreignKey)
      : { child: '', parent: '' }
  )
  function setAccessor(of: 'child' | 'parent', said: string): void {
    const { child, foreignKey } = relation.value
    const { [of]: _, ...others } = foreignKey.accessors ?? {}
    const accessors = said === '' ? others : { ...others, [of]: said }
    store.submit({ kind: 'foreignKey.setAccessors', table: child.id, foreignKey: foreignKey.id, accessors })
  }

  function setVerb(of: 'child' | 'parent', said: string): void {
    const { child, foreignKey } = relation.value
    store.submit({
      kind: 'foreignKey.setVerbs',
      table: child.id,
      foreignKey: foreignKey.id,
      verbs: { ...reading.value.verbs, [of]: said }
    })
  }

  function remove(): void {
    const { child, parent, foreignKey } = relation.value
    const columns = foreignKey.pairs.length === 1 ? 'Its column stays' : 'Its columns stay'
    if (!store.submit({ kind: 'foreignKey.remove', table: child.id, foreignKey: foreignKey.id }))
      store.say(
        `${child.name} no longer refers to ${parent.name}. ${columns}; Ctrl Z brings the relationship back.`
      )
  }

  return {
    reading,
    sentences,
    onDelete,
    onUpdate,
    howMany,
    chooseHowMany,
    actions,
    setActions,
    moment,
    moments,
    setMoment,
    nature,
    natures,
    setNature,
    rowNames,
    accessors,
    setAccessor,
    setVerb,
    remove
  }
}
