<script setup lang="ts">
import { computed } from 'vue'
import { tableOf } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import type { RowsView } from '../../core/rows/shown.ts'
import { useDesign } from '../stores/design.ts'
import AskCard from './AskCard.vue'
import ColumnsCard from './ColumnsCard.vue'
import ConnectCard from './ConnectCard.vue'
import FigureCard from './FigureCard.vue'
import GenerateCard from './GenerateCard.vue'
import ImportCard from './ImportCard.vue'
import OrphansCard from './OrphansCard.vue'
import PairsCard from './PairsCard.vue'
import type { Work } from './work.ts'

/** The card on which work on a table's rows is put together, whichever it is. */
const props = defineProps<{
  work: Work
  table: Table
  /** The row that is chosen, by its place. */
  place: number | undefined
  view: RowsView
}>()
const emit = defineEmits<{ close: []; turn: [to: Work]; view: [next: Partial<RowsView>] }>()
const store = useDesign()

const figure = computed(() =>
  props.work.kind === 'figure' ? store.design?.figures?.find(({ id }) => id === idOf(props.work)) : undefined
)
const idOf = (work: Work): string | undefined => (work.kind === 'figure' ? work.id : undefined)
const junction = computed(() =>
  store.design && props.work.kind === 'pairs' ? tableOf(store.design, props.work.junction) : undefined
)
</script>

<template>
  <ColumnsCard
    v-if="work.kind === 'columns'"
    :table="table"
    :view="view"
    @change="(next) => emit('view', next)"
    @figure="(id) => emit('turn', { kind: 'figure', id })"
    @close="emit('close')" />
  <AskCard
    v-else-if="work.kind === 'ask' && place !== undefined"
    :table="table"
    :place="place"
    :over="work.over"
    @close="emit('close')" />
  <FigureCard
    v-else-if="work.kind === 'figure'"
    :table="table"
    :figure="figure"
    :over="work.over"
    @close="emit('close')" />
  <PairsCard
    v-else-if="work.kind === 'pairs' && junction"
    :junction="junction"
    :at="work.place === undefined ? undefined : { table: table.id, place: work.place }"
    @close="emit('close')" />
  <OrphansCard v-else-if="work.kind === 'orphans'" :table="table" @close="emit('close')" />
  <ConnectCard v-else-if="work.kind === 'connect'" :table="table" @close="emit('close')" />
  <ImportCard v-else-if="work.kind === 'import'" :table="table" @close="emit('close')" />
  <GenerateCard v-else-if="work.kind === 'generate'" :table="table" @close="emit('close')" />
</template>
