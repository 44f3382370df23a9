<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { isDialect, DIALECTS } from '../../core/dialect/index.ts'
import { outputsOf, OUTPUTS } from '../../core/definitions/outputs.ts'
import { type Output } from '../../core/definitions/output.ts'
import { counted } from '../../core/naming/words.ts'
import { writeDesignFile } from '../../core/design/file.ts'
import { templateOutput, type Version } from '../../core/design/model.ts'
import { api } from '../api/client.ts'
import { FONTS } from '../parts/picture.ts'
import { download } from '../parts/files.ts'
import CopyButton from '../parts/CopyButton.vue'
import SqlText from '../parts/SqlText.vue'
import { useDesign } from '../stores/design.ts'
import OutputGiven from './OutputGiven.vue'
import OutputNav from './OutputNav.vue'
import OutputSettings from './OutputSettings.vue'
import TemplateText from './TemplateText.vue'
import { useWritten } from './useWritten.ts'

const store = useDesign()
const route = useRoute()
const router = useRouter()
const outputs = computed(() => (store.design ? outputsOf(store.design) : OUTPUTS))
const output = computed(
  () => outputs.value.find((each) => each.name === route.params.output) ?? (outputs.value[0] as Output)
)
const dialect = computed(() => (isDialect(output.value.name) ? output.value.name : undefined))
const remarks = computed(() =>
  store.design && dialect.value
    ? [...new Set(DIALECTS[dialect.value].catalog(store.design).remarks.map(({ message }) => message))]
    : []
)

/** The versions that were saved last: what is looked at or drafted says which it is, and is held against the one before. */
const last = shallowRef<Version>()
const before = shallowRef<Version>()
watch(
  () => [
    store.id,
    store.looking?.number,
    store.versions.map(({ number, savedAt }) => `${number} ${savedAt}`).join()
  ],
  async () => {
    const { id, looking } = store
    const numbers = store.versions
      .map(({ number }) => number)
      .filter((number) => number <= (looking?.number ?? number))
    const [newest, older] = [numbers.at(-1), looking ? numbers.at(-2) : numbers.at(-1)]
    const load = (number: number | undefined): Promise<Version | undefined> =>
      number === undefined ? Promise.resolve(undefined) : api.version(id, number).catch(() => undefined)
    const [one, other] = await Promise.all([load(newest), load(older)])
    if (id !== store.id || looking !== store.looking) return
    last.value = one
    before.value = other
  },
  { immediate: true }
)

/** Whether the rows of the design are written too, where it is SQL. */
const rows = ref(false)
/** Whether the views of figures are written instead of the tables. */
const views = ref(false)
const { text, failure, changed, isOld, pack } = useWritten(
  computed(() => store.design),
  computed(() => output.value.name),
  computed(() => ({ rows: rows.value, views: views.value, fonts: FONTS })),
  computed(() => ({ last: last.value, before: before.value?.design }))
)
// A picture is shown as an image, so that nothing in a name can be anything but text.
const picture = computed(() =>
  output.value.kind === 'svg' && text.value ? `data:image/svg+xml;utf8,${encodeURIComponent(text.value)}` : ''
)
const version = computed(() => (store.looking ? `version ${store.looking.number}` : undefined))

/** The places where it is otherwise than before, gone through one by one. */
const isRead = computed(() => !['svg', 'page', 'json'].includes(output.value.kind))
const shown = ref<InstanceType<typeof SqlText>>()
const at = ref(-1)
watch([output, changed], () => (at.value = -1))
function showNext(): void {
  at.value = (at.value + 1) % changed.value.length
  shown.value?.show(changed.value[at.value]?.from ?? 0)
}

const template = computed(() =>
  store.design?.templates?.find(({ name }) => templateOutput(name) === output.value.name)
)
function removeTemplate(): void {
  const { name } = template.value ?? {}
  if (name === undefined) return
  if (store.submit({ kind: 'template.set', name, text: null })) return
  void router.push({ name: 'outputs', params: { output: 'shape' } })
}

/** What was typed as a setting and cannot be, in words. */
const refused = ref('')
watch(output, () => (refused.value = ''))

async function savePacked(which: { all: true } | { folder: string }, called: string): Promise<void> {
  const folder = await pack(which)
  if (folder) download(`${store.design?.name ?? 'design'} ${called}.zip`, folder, 'application/zip')
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
  if (output.value.files) return savePacked({ folder: output.value.name }, output.value.title)
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
    <OutputNav :outputs="outputs" :shown="output.name" />
    <div class="bar">
      <OutputSettings :output="output" @refused="refused = $event" />
      <div class="controls">
        <label v-if="dialect"
          ><input v-model="rows" type="checkbox" :disabled="views" /> with the design’s rows</label
        >
        <label v-if="dialect && (store.design?.figures ?? []).length > 0"
          ><input v-model="views" type="checkbox" /> only views of figures</label
        >
        <span class="quiet">{{
          version ? `of ${version}, as it was saved` : 'of the draft, as it stands'
        }}</span>
        <CopyButton class="button" :text="text">Copy</CopyButton>
        <button type="button" class="button" :disabled="text === ''" @click="save">
          {{ output.files ? 'Download (zip)' : 'Download' }}
        </button>
      </div>
    </div>
    <div class="bar">
      <OutputGiven
        v-if="output.kind !== 'json'"
        :output="output"
        @pack-all="savePacked({ all: true }, 'for the application')" />
      <p v-if="isRead && changed.length > 0 && before" class="since" role="status">
        <span class="quiet"
          >{{ counted(changed.length, 'place') }} otherwise than in version {{ before.number }}, marked
          below</span
        >
        <button type="button" class="link" @click="showNext">
          {{ at < 0 ? 'show the first' : `${at + 1} of ${changed.length}: show the next` }}
        </button>
      </p>
    </div>
    <ul
      v-if="remarks.length > 0"
      class="remarks"
      tabindex="0"
      :aria-label="`What ${output.title} cannot say`">
      <li v-for="message in remarks" :key="message">{{ message }}</li>
    </ul>
    <p v-if="refused || (failure && !template)" role="alert" class="remarks">{{ refused || failure }}</p>
    <div class="sheets" :class="{ two: template }">
      <div v-if="template" class="page">
        <p class="head">
          <span class="quiet"
            >The template, in the language of Liquid, over what stands in
            <RouterLink :to="{ name: 'outputs', params: { output: 'shape' } }">Shape (JSON)</RouterLink></span
          >
          <button type="button" class="link" @click="removeTemplate">remove it</button>
        </p>
        <TemplateText
          :key="template.name"
          :name="template.name"
          :text="template.text"
          @take="store.submit({ kind: 'template.set', name: template.name, text: $event })" />
      </div>
      <div class="page">
        <!-- Where a template is typed nothing may move: what is amiss stands in the place of what it gives. -->
        <p v-if="template && failure" role="alert" class="remarks">{{ failure }}</p>
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
          ref="shown"
          :text="text"
          :highlight="output.kind === 'sql'"
          :marked="isRead ? changed : []"
          :label="`${output.title} of ${store.design?.name ?? 'the design'}`" />
      </div>
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
  align-items: baseline;
  gap: 4px 22px;
}
.controls {
  display: flex;
  align-items: center;
  gap: 10px;
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
.since {
  margin: 0 0 0 auto;
  display: flex;
  gap: 10px;
}
.sheets {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: minmax(0, 1fr) / minmax(0, 1fr);
  gap: 10px;
}
.sheets.two {
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
}
.sheets.two > :first-child {
  display: flex;
  flex-direction: column;
}
.head {
  margin: 0;
  padding: 6px 14px;
  display: flex;
  justify-content: space-between;
  gap: 12px;
  border-bottom: 1px solid var(--line);
}
.page {
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
