<script setup lang="ts">
import { computed } from 'vue'
import { columnOf } from '../../core/design/directory.ts'
import type { ForeignKey, Row, Table } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { counted } from '../../core/naming/words.ts'
import { isJunction } from '../../core/relate/junction.ts'
import { labelBeside, rowLabel } from '../../core/relate/label.ts'
import KeyMark from '../parts/KeyMark.vue'
import { useDesign } from '../stores/design.ts'

/** Rows of a table beside the one in the middle: those that the chosen row refers to, or that refer to it. */
const props = defineProps<{
  table: Table
  foreignKey: ForeignKey
  /** The table that the reference stands on. */
  child: Table
  places: readonly number[]
  side: 'one' | 'many'
  far?: readonly { table: Table; places: readonly number[] }[]
  note?: string
  isLost?: boolean
}>()
const emit = defineEmits<{
  walk: [table: string, place: number | undefined]
  fill: []
  figure: []
  ask: []
}>()
const store = useDesign()

/** How many rows a card shows. */
const MOST = 8

const marks = computed(() => (store.design ? tableMarks(store.design, props.table) : []))
const by = computed(() =>
  props.foreignKey.pairs.map(({ column }) => columnOf(props.child, column)?.name ?? '').join(', ')
)
const shown = computed(() =>
  props.places.slice(0, MOST).map((place) => ({ place, label: label(props.table, props.table.rows[place]) }))
)
const more = computed(() => props.places.length - shown.value.length)
const count = computed(() => {
  if (props.side === 'one') return props.note ?? ''
  if (props.places.length === 0) return counted(0, props.table.name)
  const far = (props.far ?? []).map(({ table, places }) => counted(places.length, table.name))
  return [
    counted(props.places.length, props.table.name),
    ...(far.length > 0 ? [`of ${far.join(', ')}`] : [])
  ].join(' ')
})

function label(table: Table, row: Row | undefined): string {
  if (!store.design || !row) return ''
  return props.side === 'many'
    ? labelBeside(store.design, table, row, props.foreignKey.id)
    : rowLabel(store.design, table, row)
}
</script>

<template>
  <article
    class="card"
    :class="{ junction: isJunction(table), external: table.external }"
    tabindex="-1"
    :aria-label="`${table.name}: ${count || shown.map((each) => each.label).join(', ') || 'nothing'}`"
    @keydown.enter.self.prevent="emit('walk', table.id, places[0])">
    <div class="inside">
      <h3>
        <KeyMark v-for="mark in marks" :key="mark.key" :mark="mark" />
        <button
          type="button"
          class="to"
          tabindex="-1"
          :title="`Bring ${table.name} to the middle (Enter)`"
          @click="emit('walk', table.id, places[0])">
          {{ table.name }}
        </button>
        <span class="by mono" :title="`by ${by}`">{{ by }}</span>
      </h3>
      <p v-if="count" class="count">
        {{ count }}
        <span v-if="side === 'many'" class="more">
          <button
            v-if="far && far.length > 0"
            type="button"
            class="link"
            tabindex="-1"
            :aria-label="`Missing pairs of ${table.name}`"
            @click="emit('fill')">
            missing pairs
          </button>
          <button
            type="button"
            class="link"
            tabindex="-1"
            :aria-label="`Figure over ${table.name}`"
            @click="emit('figure')">
            figure
          </button>
          <button
            type="button"
            class="link"
            tabindex="-1"
            :aria-label="`Ask about ${table.name}`"
            @click="emit('ask')">
            ask
          </button>
        </span>
      </p>
      <p v-if="isLost" class="effect-deleted">what it says leads nowhere</p>
      <p v-else-if="table.external" class="quiet">its rows are another system’s</p>
      <p v-else-if="places.length === 0 && side === 'one'" class="quiet">nothing</p>
      <ul v-if="shown.length > 0">
        <li v-for="each in shown" :key="each.place">
          <button
            type="button"
            class="row"
            tabindex="-1"
            :title="each.label"
            @click="emit('walk', table.id, each.place)">
            {{ each.label }}
          </button>
        </li>
        <li v-if="more > 0" class="quiet">and {{ more.toLocaleString('en-GB') }} more</li>
      </ul>
    </div>
  </article>
</template>

<style scoped>
.card {
  background: var(--line);
  padding: 1px;
  position: relative;
  flex: none;
}
.inside {
  background: var(--sheet);
  padding: 7px 11px 8px;
}
.card:focus {
  outline: none;
  background: var(--chosen);
}
.card:focus .inside {
  background: var(--chosen-tint);
}
.card.junction,
.card.junction .inside {
  clip-path: polygon(11px 0, 100% 0, 100% 100%, 11px 100%, 0 calc(100% - 11px), 0 11px);
}
.card.junction .inside {
  padding-left: 15px;
}
.card.external {
  background: none;
  border: 1.5px dotted var(--quiet);
  padding: 0;
}
h3 {
  display: flex;
  align-items: center;
  gap: 7px;
  font-weight: 600;
}
.to {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font-weight: 600;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.to:hover,
.row:hover {
  color: var(--act);
}
.by {
  margin-left: auto;
  flex-shrink: 8;
  font-size: 11px;
  color: var(--quiet);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
.count {
  color: var(--quiet);
  position: relative;
}
.more {
  position: absolute;
  right: 0;
  padding-left: 12px;
  display: flex;
  gap: 12px;
  background: var(--sheet);
  opacity: 0;
}
.card:hover .more,
.card:focus-within .more {
  opacity: 1;
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}
li {
  border-top: 1px solid var(--hair);
}
.row {
  border: 0;
  background: none;
  padding: 2px 0;
  cursor: pointer;
  text-align: left;
  width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  display: block;
}
</style>
