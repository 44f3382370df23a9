<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import type { Output } from '../../core/definitions/output.ts'
import { chosen, type Setting } from '../../core/definitions/settings.ts'
import DraftField from '../parts/DraftField.vue'
import PickOne from '../parts/PickOne.vue'
import NamesInCode from './NamesInCode.vue'
import { useDesign } from '../stores/design.ts'

/** What is chosen of an output. */
const props = defineProps<{ output: Output }>()
const emit = defineEmits<{ refused: [why: string] }>()
const store = useDesign()
const isNaming = ref(false)

/** So few choices are all seen; of more, the one that holds. */
const FEW = 2
const settings = computed(() => {
  const { design } = store
  if (!design) return []
  const isOne = (props.output.settings ?? []).map((setting) => ({
    setting,
    value: chosen(design, props.output.name, setting),
    words: Object.fromEntries((setting.choices ?? []).map(({ value, title }) => [value, title]))
  }))
  return isOne
})
function choose(setting: Setting, to: string): void {
  const { design } = store
  if (!design) return
  const output = props.output.name
  const isUsual = to === setting.usual(design)
  store.submit({ kind: 'design.setOutputSetting', output, setting: setting.name, to: isUsual ? null : to })
}
/** Takes a text over; one that cannot be stays as it was typed, to be put right. */
function write(setting: Setting, typed: string, field: HTMLInputElement): void {
  const text = typed.trim()
  const flaw = text === '' ? undefined : setting.flaw?.(text)
  emit('refused', flaw === undefined ? '' : `“${text}” cannot be the ${setting.title}: ${flaw}.`)
  if (flaw !== undefined) return void nextTick(() => field.focus())
  const usual = store.design ? setting.usual(store.design) : ''
  choose(setting, text === '' ? usual : text)
}
</script>

<template>
  <div class="settings">
    <span v-for="{ setting, value, words } in settings" :key="setting.name" class="setting">
      <span class="quiet">{{ setting.title }}</span>
      <PickOne
        v-if="setting.choices && setting.choices.length <= FEW"
        :value="value"
        :options="setting.choices.map((each) => each.value)"
        :words="words"
        :label="setting.title"
        @pick="choose(setting, $event)" />
      <select
        v-else-if="setting.choices"
        class="choice"
        :value="value"
        :aria-label="setting.title"
        @change="choose(setting, ($event.target as HTMLSelectElement).value)">
        <option v-for="each in setting.choices" :key="each.value" :value="each.value">
          {{ each.title }}
        </option>
      </select>
      <DraftField
        v-else
        :key="`${output.name} ${setting.name}`"
        class="lined mono"
        :value="value"
        :aria-label="setting.title"
        spellcheck="false"
        @take="(text, field) => write(setting, text, field)" />
    </span>
    <button
      v-if="output.group === 'applications' && (store.design?.tables.length ?? 0) > 0"
      type="button"
      class="link"
      @click="isNaming = true">
      names in code…
    </button>
    <NamesInCode v-if="isNaming" @close="isNaming = false" />
  </div>
</template>

<style scoped>
.settings {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 22px;
}
.setting {
  display: inline-flex;
  align-items: baseline;
  gap: 8px;
}
.setting .lined {
  width: 170px;
}
</style>
