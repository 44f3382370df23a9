<script setup lang="ts">
import { computed, nextTick } from 'vue'
import type { Output } from '../../core/definitions/output.ts'
import { counted } from '../../core/naming/words.ts'
import DraftField from '../parts/DraftField.vue'
import { useDesign } from '../stores/design.ts'

/** Whether and where the application is given an output, and all that it is given. */
const props = defineProps<{ output: Output }>()
const emit = defineEmits<{ packAll: [] }>()
const store = useDesign()

/** Where the output is written in an application's tree, where that is given it. */
const place = computed(() => store.design?.outputs?.[props.output.name])
const givenCount = computed(() => Object.keys(store.design?.outputs ?? {}).length)
const give = (to: string | null): boolean =>
  store.submit({ kind: 'design.setOutput', output: props.output.name, to }) === undefined
function moveTo(typed: string, field: HTMLInputElement): void {
  if (!give(typed.trim() === '' ? null : typed.trim())) void nextTick(() => field.focus())
}
</script>

<template>
  <div class="given">
    <span class="to">
      <label
        ><input
          type="checkbox"
          :checked="place !== undefined"
          @change="give(place === undefined ? output.file : null)" />
        the application is given this<template v-if="place !== undefined"
          >, {{ output.files ? 'in' : 'as' }}</template
        ></label
      >
      <DraftField
        v-if="place !== undefined"
        :key="output.name"
        class="lined mono"
        :value="place"
        :aria-label="`Where ${output.title} is written in the application’s tree`"
        spellcheck="false"
        @take="moveTo" />
    </span>
    <span v-if="givenCount > 0" class="all">
      <span class="quiet" title="patient-key write DESIGN -o DIR keeps them in step with the design"
        >{{ counted(givenCount, 'output') }} in all</span
      >
      <button type="button" class="link" @click="emit('packAll')">as a folder (zip)</button>
    </span>
  </div>
</template>

<style scoped>
.given {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 22px;
}
.to,
.all {
  display: inline-flex;
  align-items: baseline;
  gap: 8px;
}
.to .lined {
  width: 230px;
}
</style>
