<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { Compared } from '../../core/diagram/compared.ts'
import { SIGNS, FATE_WORDS } from '../../core/diagram/fates.ts'
import { counted } from '../../core/naming/words.ts'

/** What is otherwise than in a version, beside the picture that shows it: a list to step through. */
const props = defineProps<{ compared: Compared; since: number }>()
const emit = defineEmits<{ visit: [table: string]; close: [] }>()
const at = ref(-1)
const list = ref<HTMLElement>()
const steps = computed(() => props.compared.steps)
watch(steps, () => (at.value = -1))

function go(to: number): void {
  const count = steps.value.length
  if (count === 0) return
  at.value = (to + count) % count
  const step = steps.value[at.value]
  if (step?.table) emit('visit', step.table)
  void nextTick(() => list.value?.querySelector('.here')?.scrollIntoView({ block: 'nearest' }))
}
defineExpose({ next: () => go(at.value + 1), back: () => go(at.value - 1) })
</script>

<template>
  <aside class="changes" aria-label="What is otherwise">
    <header>
      <strong>{{ counted(steps.length, 'change') }}</strong>
      <span class="quiet">since version {{ since }}</span>
      <span class="quiet"><kbd>,</kbd> <kbd>.</kbd></span>
      <button type="button" class="link" @click="emit('close')">done</button>
    </header>
    <ol ref="list">
      <li v-for="(step, index) in steps" :key="step.key">
        <button
          type="button"
          :class="[step.kind, { here: index === at }]"
          :aria-current="index === at"
          @click="go(index)">
          <span class="sign" aria-hidden="true">{{ step.kind === 'carried' ? '' : SIGNS[step.kind] }}</span>
          <span class="visually-hidden">{{ step.kind === 'carried' ? '' : FATE_WORDS[step.kind] }}: </span>
          {{ step.sentence }}
        </button>
      </li>
    </ol>
    <p v-if="steps.length === 0" class="quiet">Nothing: both are drawn alike.</p>
  </aside>
</template>

<style scoped>
.changes {
  position: absolute;
  top: 52px;
  right: 20px;
  bottom: 48px;
  width: 270px;
  display: flex;
  flex-direction: column;
  background: var(--sheet);
  border: 1px solid var(--line);
}
header {
  display: flex;
  align-items: baseline;
  gap: 8px;
  padding: 8px 10px;
  border-bottom: 1px solid var(--line);
}
header .link {
  margin-left: auto;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow: auto;
}
li button {
  display: block;
  width: 100%;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  padding: 4px 10px 4px 24px;
  text-align: left;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
  text-indent: -16px;
  overflow-wrap: anywhere;
}
li button.here {
  background: var(--chosen-tint);
  border-left-color: var(--chosen);
}
.sign {
  display: inline-block;
  width: 16px;
  text-indent: 0;
  font-weight: 700;
}
.added .sign {
  color: var(--added);
}
.removed .sign {
  color: var(--deleted);
}
.renamed .sign {
  color: var(--refused);
}
.changed .sign {
  color: var(--emptied);
}
p {
  padding: 8px 10px;
}
</style>
