<script setup lang="ts">
import { computed } from 'vue'
import type { Finding } from '../../core/check/finding.ts'
import { leavingOut } from '../../core/check/leaving-out.ts'
import { useDesign } from '../stores/design.ts'

/** What a check found, beside the line concerned, with what would mend it. */
const props = defineProps<{ finding: Finding }>()
const store = useDesign()

const MARK = { refused: '⊘', wrong: '!', doubtful: '?' }
const WORD = { refused: 'an engine refuses this', wrong: 'this is wrong', doubtful: 'this is doubtful' }

const other = computed(() => store.design && leavingOut(store.design, props.finding))

function mend(fix: Finding['fix']): void {
  if (fix) store.submit(fix.operation, fix.label.charAt(0).toLowerCase() + fix.label.slice(1))
}
</script>

<template>
  <p class="finding" :class="finding.severity">
    <span class="mark" :title="WORD[finding.severity]" aria-hidden="true">{{ MARK[finding.severity] }}</span>
    <span class="visually-hidden">{{ WORD[finding.severity] }}: </span>
    <span class="words"
      >{{ finding.message }}
      <button v-if="finding.fix" type="button" class="link" tabindex="-1" @click="mend(finding.fix)">
        {{ finding.fix.label }} <kbd>F</kbd>
      </button>
      <button v-if="other" type="button" class="link other" tabindex="-1" @click="mend(other)">
        {{ other.label }}
      </button></span
    >
  </p>
</template>

<style scoped>
.finding {
  display: flex;
  gap: 8px;
  align-items: baseline;
  font-size: 12px;
  color: var(--ink);
  padding: 0 0 4px;
  overflow-wrap: anywhere;
}
/* The key stands where it would act: at the line that the keyboard is at. */
kbd {
  display: none;
}
:global(.line:focus .finding kbd),
:global(.sheet:not(:has(.line:focus .finding kbd)) .of-table .finding kbd) {
  display: inline;
}
.words {
  min-width: 0;
}
.link + .other {
  margin-left: 10px;
}
.mark {
  flex: none;
  font-weight: 700;
  color: var(--emptied);
  width: 10px;
  text-align: center;
}
.wrong .mark,
.refused .mark {
  color: var(--deleted);
}
</style>
