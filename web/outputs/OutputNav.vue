<script setup lang="ts">
import { nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'
import { OUTPUT_GROUPS, type Output } from '../../core/definitions/output.ts'
import { FIRST_TEMPLATE } from '../../core/definitions/template.ts'
import { templateOutput } from '../../core/design/model.ts'
import { inCase } from '../../core/naming/names.ts'
import { useDesign } from '../stores/design.ts'

/** All outputs, by whom they are for; those that the application is given have a tick. New templates begin here. */
defineProps<{ outputs: readonly Output[]; shown: string }>()
const store = useDesign()
const router = useRouter()

/** The name of a template that is begun, while it is typed. */
const begun = ref<string>()
const field = ref<HTMLInputElement[]>()
async function begin(): Promise<void> {
  begun.value = ''
  await nextTick()
  field.value?.[0]?.focus()
}
/** Names of files take no other letters everywhere; a name that is there already is opened. */
function make(): void {
  const name = inCase(begun.value ?? '', 'lower_snake')
    .normalize('NFKD')
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^[^a-z]+|-+$/g, '')
    .slice(0, 40)
  begun.value = undefined
  if (name === '') return
  const isThere = store.design?.templates?.some((each) => each.name === name)
  const refused = isThere ? undefined : store.submit({ kind: 'template.set', name, text: FIRST_TEMPLATE })
  if (!refused) void router.push({ name: 'outputs', params: { output: templateOutput(name) } })
}
</script>

<template>
  <nav aria-label="Outputs">
    <div v-for="group in OUTPUT_GROUPS" :key="group" role="group" :aria-label="`For ${group}`">
      <span class="quiet">{{ group }}</span>
      <RouterLink
        v-for="each in outputs.filter((one) => one.group === group)"
        :key="each.name"
        :to="{ name: 'outputs', params: { output: each.name } }"
        :class="{ on: each.name === shown }"
        >{{ each.title
        }}<span
          v-if="store.design?.outputs?.[each.name]"
          class="is-given"
          title="The application is given it">
          ✓</span
        ></RouterLink
      >
      <template v-if="group === 'applications'">
        <input
          v-if="begun !== undefined"
          ref="field"
          v-model="begun"
          class="lined"
          placeholder="its name"
          aria-label="The name of a new template"
          spellcheck="false"
          @keydown.enter.prevent="make"
          @keydown.esc="begun = undefined"
          @blur="make" />
        <button v-else type="button" class="link" @click="begin">a template of your own…</button>
      </template>
    </div>
  </nav>
</template>

<style scoped>
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}
nav > div {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
}
.quiet {
  font-size: 12px;
  margin-right: 4px;
}
a {
  padding: 3px 6px;
  color: var(--quiet);
  text-decoration: none;
}
a.on {
  color: var(--ink);
  font-weight: 600;
  box-shadow: inset 0 -2px 0 var(--act);
}
.is-given {
  color: var(--act);
}
.link {
  margin-left: 6px;
}
.lined {
  width: 140px;
  margin-left: 6px;
}
</style>
