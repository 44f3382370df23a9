<script setup lang="ts">
import { computed } from 'vue'
import { copiedApart, sayCopiedApart } from '../../core/version/later.ts'
import { keepersOf } from '../../core/definitions/keepers.ts'
import { columnOf, fullName } from '../../core/design/directory.ts'
import type { Column, Copied, Table } from '../../core/design/model.ts'
import ChoiceMenu, { type Option } from '../parts/ChoiceMenu.vue'
import { useDesign } from '../stores/design.ts'
import { RENEWERS, wordsOf } from './kept.ts'

/** What a column is copied from, or that it is renewed with each change, and what sees to that. */
const props = defineProps<{ table: Table; column: Column }>()
const store = useDesign()

const where = computed(() => ({ table: props.table.id, column: props.column.id }))
const copied = computed(() => props.column.copied)
const source = computed(() => {
  const { design } = store
  const key = props.table.foreignKeys.find(({ id }) => id === copied.value?.foreignKey)
  const from = key && design?.tables.find(({ id }) => id === key.table)
  const column = from && copied.value && columnOf(from, copied.value.column)
  return design && from && column ? `${fullName(design, from)}.${column.name}` : ''
})

/** How each engine sees to it, where the database is to. */
const engines = computed(() => {
  const isAsked = props.column.renewed === 'database' || copied.value?.byTrigger
  if (!store.design || !isAsked) return ''
  const { inColumn, byTrigger, byNothing } = keepersOf(store.design, props.table, props.column.id)
  const said: [readonly string[], string][] = [
    [inColumn, 'the column itself'],
    [byTrigger, 'a trigger'],
    [byNothing, 'nothing']
  ]
  return said.flatMap(([list, words]) => (list.length > 0 ? `${words} in ${list.join(', ')}` : [])).join('; ')
})

const WHEN: Option<'once' | 'again'>[] = [
  { value: 'once', words: 'when a row is made' },
  { value: 'again', words: 'when a row is made, and again when it refers to another' }
]
const OTHERWISE: Option<'free' | 'fixed'>[] = [
  { value: 'free', words: 'unless something else is said' },
  { value: 'fixed', words: 'and can be nothing else' }
]
const COPIERS: Option<'trigger' | 'application'>[] = [
  { value: 'trigger', words: 'the database sees to it', term: 'trigger' },
  { value: 'application', words: 'whatever writes the row sees to it', term: 'nothing is written' }
]
/** What it would cost to look it up instead. */
const price = computed(() =>
  store.design && copied.value
    ? sayCopiedApart(copiedApart(store.design, props.table, props.column), props.table.name)
    : ''
)

const when = computed(() => (copied.value?.again ? 'again' : 'once'))
const otherwise = computed(() => (copied.value?.fixed ? 'fixed' : 'free'))
const copier = computed(() => (copied.value?.byTrigger ? 'trigger' : 'application'))

function copy(how: Pick<Partial<Record<keyof Copied, boolean>>, 'again' | 'fixed' | 'byTrigger'>): void {
  if (!copied.value) return
  const { foreignKey, column } = copied.value
  const now = { ...copied.value, ...how }
  store.submit({
    kind: 'column.copy',
    ...where.value,
    copied: {
      foreignKey,
      column,
      ...(now.again && { again: true as const }),
      ...(now.fixed && { fixed: true as const }),
      ...(now.byTrigger && { byTrigger: true as const })
    }
  })
}
</script>

<template>
  <p v-if="column.renewed">
    <span class="mono">{{ column.name }}</span> becomes the present moment with each change of its row;
    <ChoiceMenu
      :value="column.renewed"
      :words="wordsOf(RENEWERS, column.renewed)"
      :options="RENEWERS"
      :label="`What renews ${column.name} of ${table.name}`"
      @choose="store.submit({ kind: 'column.renew', ...where, renewed: $event })" /><template v-if="engines"
      >: {{ engines }}</template
    >.
  </p>
  <p v-else-if="copied && source">
    <span class="mono">{{ column.name }}</span> is copied from <span class="mono">{{ source }}</span>
    {{ ' ' }}
    <ChoiceMenu
      :value="when"
      :words="wordsOf(WHEN, when)"
      :options="WHEN"
      :label="`When ${column.name} of ${table.name} is copied`"
      @choose="copy({ again: $event === 'again' })" />,
    <ChoiceMenu
      :value="otherwise"
      :words="wordsOf(OTHERWISE, otherwise)"
      :options="OTHERWISE"
      :label="`Whether ${column.name} of ${table.name} can be something else`"
      @choose="copy({ fixed: $event === 'fixed' })" />;
    <ChoiceMenu
      :value="copier"
      :words="wordsOf(COPIERS, copier)"
      :options="COPIERS"
      :label="`What copies ${column.name} of ${table.name}`"
      @choose="copy({ byTrigger: $event === 'trigger' })" /><template v-if="engines">: {{ engines }}</template
    >. {{ price }}
  </p>
</template>
