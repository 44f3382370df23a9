<script setup lang="ts">
import { ElPopover } from 'element-plus/es/components/popover/index.mjs'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import type { Tab } from '../stores/tabs.ts'

/** The other designs that are open: each by its whole name where there is room for all, else behind their number. */
const props = defineProps<{ others: readonly Tab[] }>()
const emit = defineEmits<{ close: [id: string] }>()

const width = ref(window.innerWidth)
const measure = (): void => {
  width.value = window.innerWidth
}
onMounted(() => window.addEventListener('resize', measure))
onBeforeUnmount(() => window.removeEventListener('resize', measure))

/** What the rest of the line needs, and a letter and what stands around a name (pixels). */
const [REST, LETTER, AROUND] = [1180, 7.2, 44]
const needed = computed(() => props.others.reduce((sum, { name }) => sum + name.length * LETTER + AROUND, 0))
const isRoom = computed(() => needed.value <= width.value - REST)

const open = ref(false)
const button = ref<HTMLElement>()
</script>

<template>
  <nav class="others" aria-label="Open designs">
    <template v-if="isRoom">
      <span v-for="tab in others" :key="tab.id" class="other">
        <RouterLink :to="tab.path" :title="`${tab.name} (Alt Page Down goes round)`" active-class="">{{
          tab.name || 'a design'
        }}</RouterLink>
        <button type="button" class="shut" :aria-label="`Close ${tab.name}`" @click="emit('close', tab.id)">
          ×
        </button>
      </span>
    </template>
    <template v-else>
      <button
        ref="button"
        type="button"
        class="more"
        aria-haspopup="true"
        :aria-expanded="open"
        title="Alt Page Down goes round"
        @click="open = !open"
        @keydown.esc="open = false">
        {{ others.length }} more open
      </button>
      <ElPopover
        v-if="open && button"
        :visible="open"
        :virtual-ref="button"
        virtual-triggering
        placement="bottom-start"
        width="auto"
        :show-arrow="false"
        :offset="4"
        popper-class="choice-list">
        <div class="list" @keydown.esc="open = false">
          <span v-for="tab in others" :key="tab.id" class="other">
            <RouterLink :to="tab.path" active-class="" @click="open = false">{{
              tab.name || 'a design'
            }}</RouterLink>
            <button
              type="button"
              class="shut"
              :aria-label="`Close ${tab.name}`"
              @click="emit('close', tab.id)">
              ×
            </button>
          </span>
        </div>
      </ElPopover>
    </template>
  </nav>
</template>

<style scoped>
.others {
  display: flex;
  gap: 10px;
  white-space: nowrap;
}
.other {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  padding: 2px 0;
}
.others > .other {
  border-left: 1px solid var(--hair);
  padding-left: 10px;
  gap: 2px;
}
.other a {
  color: var(--quiet);
  text-decoration: none;
}
.other a:hover {
  color: var(--ink);
}
.list {
  padding: 4px 10px;
}
.list a {
  color: var(--ink);
}
.shut,
.more {
  border: 0;
  background: none;
  padding: 2px 4px;
  cursor: pointer;
  color: var(--quiet);
}
.more {
  border-bottom: 1px dotted currentcolor;
  padding: 0;
}
.shut:hover,
.more:hover {
  color: var(--ink);
}
</style>
