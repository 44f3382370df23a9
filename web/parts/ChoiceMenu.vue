<script setup lang="ts" generic="T extends string">
import { ElPopover } from 'element-plus/es/components/popover/index.mjs'
import { ref } from 'vue'

/** A part of a sentence that can be changed in place: its words, and what else it could be. */
export interface Option<V> {
  value: V
  words: string
  /** The SQL term, small. */
  term?: string
  /** Why it cannot be chosen. */
  why?: string
}

const props = defineProps<{ value: T; words: string; options: Option<T>[]; label: string; tone?: string }>()
const emit = defineEmits<{ choose: [value: T] }>()

const open = ref(false)
const button = ref<HTMLElement>()
const list = ref<HTMLElement>()

async function show(): Promise<void> {
  open.value = true
  // The list is there when its frame is, some frames from now.
  for (let tries = 0; tries < 30 && open.value && !list.value?.contains(document.activeElement); tries++) {
    await new Promise((resolve) => requestAnimationFrame(resolve))
    const items = list.value?.querySelectorAll<HTMLElement>('[role=option]') ?? []
    items[
      Math.max(
        props.options.findIndex((option) => option.value === props.value),
        0
      )
    ]?.focus()
  }
}

function hide(): void {
  open.value = false
  button.value?.focus()
}

function choose(option: Option<T>): void {
  if (option.why) return
  hide()
  if (option.value !== props.value) emit('choose', option.value)
}

function move(event: KeyboardEvent, by: number): void {
  const items = [...(list.value?.querySelectorAll<HTMLElement>('[role=option]') ?? [])]
  const at = items.indexOf(event.target as HTMLElement)
  items[(at + by + items.length) % items.length]?.focus()
}
</script>

<template>
  <span
    ref="button"
    role="button"
    tabindex="0"
    class="choice"
    :class="tone"
    :aria-label="`${label}: ${words}`"
    aria-haspopup="listbox"
    :aria-expanded="open"
    @click.stop="open ? hide() : show()"
    @dblclick.stop
    @keydown.enter.stop.prevent="show"
    @keydown.space.stop.prevent="show"
    @keydown.down.stop.prevent="show"
    @keydown.esc="open = false"
    >{{ words }}</span
  >
  <!-- Made when it is asked for: a screen may hold hundreds of choices. -->
  <ElPopover
    v-if="open && button"
    :visible="open"
    :virtual-ref="button"
    virtual-triggering
    placement="bottom-start"
    width="auto"
    :show-arrow="false"
    :offset="4"
    :teleported="true"
    popper-class="choice-list">
    <div
      ref="list"
      role="listbox"
      :aria-label="label"
      @focusout="($event.relatedTarget && list?.contains($event.relatedTarget as Node)) || (open = false)">
      <div
        v-for="option in options"
        :key="option.value"
        role="option"
        tabindex="-1"
        class="option"
        :class="{ off: option.why }"
        :aria-selected="option.value === value"
        :aria-disabled="!!option.why"
        @click.stop="choose(option)"
        @keydown.enter.stop.prevent="choose(option)"
        @keydown.space.stop.prevent="choose(option)"
        @keydown.down.stop.prevent="move($event, 1)"
        @keydown.up.stop.prevent="move($event, -1)"
        @keydown.esc.stop.prevent="hide"
        @keydown.tab="open = false">
        <span class="tick" aria-hidden="true">{{ option.value === value ? '●' : '' }}</span>
        <span class="words">{{ option.words }}</span>
        <span v-if="option.term" class="term">{{ option.term }}</span>
        <span v-if="option.why" class="why">{{ option.why }}</span>
      </div>
    </div>
  </ElPopover>
</template>

<style scoped>
.choice {
  border-bottom: 1px dotted currentcolor;
  color: var(--act);
  cursor: pointer;
}
.choice.deleted {
  color: var(--deleted);
}
.choice.emptied,
.choice.defaulted {
  color: var(--emptied);
}
.choice.refused {
  color: var(--refused);
}
.option {
  display: grid;
  grid-template-columns: 10px 1fr auto;
  gap: 2px 8px;
  padding: 4px 10px 4px 6px;
  cursor: pointer;
  color: var(--ink);
}
.option:hover,
.option:focus-visible {
  background: var(--chosen-tint);
  outline: none;
  box-shadow: inset 2px 0 0 var(--chosen);
}
.option.off {
  color: var(--quiet);
  cursor: default;
}
.option[aria-selected='true'] .words {
  font-weight: 700;
}
.tick {
  color: var(--chosen);
  font-size: 8px;
  align-self: center;
}
.term {
  font: 11px var(--mono);
  color: var(--quiet);
  align-self: center;
}
.why {
  grid-column: 2 / 4;
  font-size: 12px;
  color: var(--quiet);
  max-width: 260px;
}
</style>
