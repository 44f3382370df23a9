<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Row, Table } from '../../core/design/model.ts'
import { counted } from '../../core/naming/words.ts'
import { useDesign } from '../stores/design.ts'
import { useRehearsal } from '../stores/rehearsal.ts'
import RowGrid from './RowGrid.vue'
import { useOrder } from './useOrder.ts'
import { useRowsView } from './useRowsView.ts'
import { useViolations } from './useViolations.ts'

/** The rows of the table in the middle, pulled up under the bench, so that a design is tried while it is made. */
const props = defineProps<{ table: Table }>()
const emit = defineEmits<{ close: []; out: [] }>()
const store = useDesign()
const rehearsal = useRehearsal()
const router = useRouter()

const table = computed(() => props.table)
const { view, shown, sortBy, groupBy } = useRowsView(table)
const { order, groups } = useOrder(table, ref(''), shown, view)
const violations = useViolations()
const grid = ref<InstanceType<typeof RowGrid>>()

/** What is tried is shown where there is room for it. */
function attempt(why: string | undefined): void {
  if (why) store.say(why)
  else void router.push({ name: 'rows', params: { table: props.table.id } })
}
const remove = (places: readonly number[]): void => attempt(rehearsal.tryDelete(props.table.id, places))
const rekey = (place: number, values: Row): void =>
  attempt(rehearsal.tryChange(props.table.id, place, values))
function out(to: 'left' | 'right' | 'up'): void {
  if (to === 'up') emit('out')
}

void nextTick(() => grid.value?.focus())
</script>

<template>
  <section class="strip" :aria-label="`Rows of ${table.name}, under the bench`" @keydown.esc="emit('close')">
    <div class="handle">
      <button type="button" class="link" aria-expanded="true" @click="emit('close')">
        put the rows away <kbd>W</kbd>
      </button>
      <span class="quiet">{{ counted(table.rows.length, 'row') }} of {{ table.name }}</span>
      <button v-if="!table.external" type="button" class="link" @click="grid?.add()">
        new row <kbd>Insert</kbd>
      </button>
      <RouterLink :to="{ name: 'rows', params: { table: table.id } }">from both sides</RouterLink>
    </div>
    <div class="page">
      <p v-if="table.external" class="quiet none">What rows {{ table.name }} has is another system’s.</p>
      <RowGrid
        v-else
        :key="table.id"
        ref="grid"
        :table="table"
        :shown="shown"
        :sort="view.sort"
        :order="order"
        :groups="groups"
        :grouped-by="view.group"
        :violations="violations"
        @remove="remove"
        @rekey="rekey"
        @sort="sortBy"
        @group="groupBy"
        @out="out" />
    </div>
  </section>
</template>

<style scoped>
.strip {
  background: var(--film);
  border-top: 1px solid var(--line);
}
.handle {
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 3px 20px;
  min-height: 26px;
}
.handle .link {
  border-bottom: 0;
  color: var(--quiet);
}
.page {
  height: 236px;
  display: flex;
  flex-direction: column;
  border-top: 1px solid var(--hair);
  background: var(--sheet);
}
.none {
  padding: 10px 20px;
}
</style>
