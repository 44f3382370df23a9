<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { useRoute } from 'vue-router'
import { isDialect, DIALECTS } from '../../core/dialect/index.ts'
import { OUTPUT_GROUPS, OUTPUTS } from '../../core/definitions/outputs.ts'
import { counted } from '../../core/naming/words.ts'
import { writeDesignFile } from '../../core/design/file.ts'
import { api } from '../api/client.ts'
import { FONTS } from '../parts/picture.ts'
import { download } from '../parts/files.ts'
import CopyButton from '../parts/CopyButton.vue'
import DraftField from '../parts/DraftField.vue'
import SqlText from '../parts/SqlText.vue'
import { useDesign } from '../stores/design.ts'
import { useWritten } from './useWritten.ts'

const store = useDesign()
const route = useRoute()
const output = computed(
  () => OUTPUTS.find((each) => each.name === route.params.output) ?? (OUTPUTS[0] as (typeof OUTPUTS)[number])
)
const dialect = computed(() => (isDialect(output.value.name) ? output.value.name : undefined))
const remarks = computed(() =>
  store.design && dialect.value
    ? [...new Set(DIALECTS[dialect.value].catalog(store.design).remarks.map(({ message }) => message))]
    : []
)

/** Whether the rows of the design are written too, where it is SQL. */
const rows = ref(false)
/** Whether the views of figures are written instead of the tables. */
const views = ref(false)
const { text, failure, isOld, packAll } = useWritten(
  computed(() => store.design),
  computed(() => output.value.name),
  computed(() => ({ rows: rows.value, views: views.value, fonts: FONTS }))
)
// A picture is shown as an image, so that nothing in a name can be anything but text.
const picture = computed(() =>
  output.value.kind === 'svg' && text.value ? `data:image/svg+xml;utf8,${encodeURIComponent(text.value)}` : ''
)
const version = computed(() => (store.looking ? `version ${store.looking.number}` : undefined))

/** Where the output is written in an application's tree, where that is given it. */
const place = computed(() => store.design?.outputs?.[output.value.name])
const givenCount = computed(() => Object.keys(store.design?.outputs ?? {}).length)
function give(to: string | null): boolean {
  const refusal = store.submit({ kind: 'design.setOutput', output: output.value.name, to })
  return refusal === undefined
}
/** Takes a place over; one that cannot be stays as it was typed, to be put right. */
function moveTo(typed: string, field: HTMLInputElement): void {
  if (!give(typed.trim() === '' ? null : typed.trim())) void nextTick(() => field.focus())
}
async function saveAll(): Promise<void> {
  const folder = await packAll()
  if (folder) download(`${store.design?.name ?? 'design'} for the application.zip`, folder, 'application/zip')
}

const TYPES = {
  sql: 'text/plain',
  svg: 'image/svg+xml',
  page: 'text/html',
  text: 'text/plain',
  code: 'text/plain',
  json: 'application/json'
} as const
async function save(): Promise<void> {
  let content = text.value
  if (output.value.kind === 'json' && store.design) {
    // The file goes with every saved version.
    const saved = store.versions.filter(({ number }) => number <= (store.looking?.number ?? Infinity))
    const versions = await Promise.all(saved.map((version) => api.version(store.id, version.number)))
    content = writeDesignFile(store.design, versions)
  }
  download(
    [store.design?.name ?? 'design', ...(version.value ? [version.value] : []), output.value.file].join(' '),
    content,
    TYPES[output.value.kind]
  )
}
</script>

<template>
  <div class="outputs">
    <div class="bar">
      <nav aria-label="Outputs">
        <div v-for="group in OUTPUT_GROUPS" :key="group" role="group" :aria-label="`For ${group}`">
          <span class="quiet">{{ group }}</span>
          <RouterLink
            v-for="each in OUTPUTS.filter((one) => one.group === group)"
            :key="each.name"
            :to="{ name: 'outputs', params: { output: each.name } }"
            :class="{ on: each.name === output.name }"
            >{{ each.title
            }}<span
              v-if="store.design?.outputs?.[each.name]"
              class="is-given"
              title="The application is given it">
              ✓</span
            ></RouterLink
          >
        </div>
      </nav>
      <div class="controls">
        <label v-if="output.kind === 'sql'"
          ><input v-model="rows" type="checkbox" :disabled="views" /> with the design’s rows</label
        >
        <label v-if="output.kind === 'sql' && (store.design?.figures ?? []).length > 0"
          ><input v-model="views" type="checkbox" /> only views of figures</label
        >
        <span class="quiet">{{
          version ? `of ${version}, as it was saved` : 'of the draft, as it stands'
        }}</span>
        <CopyButton class="button" :text="text">Copy</CopyButton>
        <button type="button" class="button" :disabled="text === ''" @click="save">Download</button>
      </div>
    </div>
    <div v-if="output.kind !== 'json'" class="given">
      <label
        ><input
          type="checkbox"
          :checked="place !== undefined"
          @change="give(place === undefined ? output.file : null)" />
        the application is given this<template v-if="place !== undefined">, as</template></label
      >
      <DraftField
        v-if="place !== undefined"
        :key="output.name"
        class="lined mono"
        :value="place"
        :aria-label="`Where ${output.title} is written in the application’s tree`"
        spellcheck="false"
        @take="moveTo" />
      <template v-if="givenCount > 0">
        <span class="quiet"
          >{{ counted(givenCount, 'file') }} in all;
          <span class="mono">patient-key write DESIGN -o DIR</span> keeps them in step</span
        >
        <button type="button" class="link" @click="saveAll">all as a folder (zip)</button>
      </template>
    </div>
    <ul
      v-if="remarks.length > 0"
      class="remarks"
      tabindex="0"
      :aria-label="`What ${output.title} cannot say`">
      <li v-for="message in remarks" :key="message">{{ message }}</li>
    </ul>
    <p v-if="failure" role="alert" class="remarks">{{ failure }}</p>
    <div class="page">
      <img v-if="picture" :src="picture" :alt="`Diagram of ${store.design?.name ?? 'the design'}`" />
      <p v-else-if="isOld && text === ''" class="quiet" role="status">Being written…</p>
      <div v-else-if="output.kind === 'page'" class="alone">
        <p>
          A page for people without this program: the diagram to move about in and search, and every table,
          column, key, relationship and rule in words beside it. It stands alone, with its fonts, and asks
          nothing of any other address.
        </p>
        <p>
          <button type="button" class="button main" @click="save">Download the page</button>
          <span class="quiet"> {{ Math.ceil(text.length / 1024).toLocaleString('en-GB') }} KB</span>
        </p>
      </div>
      <SqlText
        v-else
        :text="text"
        :highlight="dialect !== undefined"
        :label="`${output.title} of ${store.design?.name ?? 'the design'}`" />
    </div>
  </div>
</template>

<style scoped>
.outputs {
  height: 100%;
  display: flex;
  flex-direction: column;
  padding: 12px 20px 16px;
  gap: 10px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 10px;
}
.controls {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-left: auto;
}
.given {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 10px;
}
.given .lined {
  width: 230px;
}
.given .quiet {
  margin-left: auto;
}
.alone .quiet {
  margin-left: 8px;
}
.alone {
  max-width: 560px;
  padding: 18px 20px;
  display: grid;
  gap: 12px;
}
.bar nav {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  flex: 1 1 560px;
  min-width: 0;
}
.bar nav > div {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
}
.bar nav .quiet {
  font-size: 12px;
  margin-right: 4px;
}
.bar nav a {
  padding: 3px 6px;
  color: var(--quiet);
  text-decoration: none;
}
.is-given {
  color: var(--act);
}
.bar nav a.on {
  color: var(--ink);
  font-weight: 600;
  box-shadow: inset 0 -2px 0 var(--act);
}
.remarks {
  margin: 0;
  padding: 6px 14px 6px 28px;
  background: var(--chosen-tint);
  box-shadow: inset 3px 0 0 var(--chosen);
  /* Many tables have many; the text stays in view. */
  flex: none;
  max-height: 28%;
  overflow: auto;
}
.page {
  flex: 1;
  min-height: 0;
  background: var(--sheet);
  border: 1px solid var(--line);
  overflow: auto;
}
.page img {
  display: block;
  margin: 0 auto;
  max-width: 100%;
}
</style>
