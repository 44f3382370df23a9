<script setup lang="ts">
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { formOfBackup } from '../../core/design/backup.ts'
import { BOUNDS } from '../../core/bounds.ts'
import { decodeText } from '../../core/design/json.ts'
import { isTyping, useShortcuts } from '../frame/shortcuts.ts'
import { api, type Restored, type Summary } from '../api/client.ts'
import { useOutgoing } from '../stores/outgoing.ts'
import { download } from '../parts/files.ts'
import { useTheme } from '../stores/theme.ts'
import DesignDrawing from './DesignDrawing.vue'

const router = useRouter()
const theme = useTheme()
const outgoing = useOutgoing()
const designs = ref<Summary[]>()
const failure = ref('')
/** What the server found amiss when it was started. */
const notices = ref<string[]>([])
/** What has just been done, where nothing else shows it. */
const done = ref('')
const name = ref('')
const removing = ref('')
const fileField = ref<HTMLInputElement>()
const page = useTemplateRef('page')

/** Drawings are made for the first so many: each is a layout of its own. */
const DRAWN = 12

async function load(): Promise<void> {
  try {
    const answer = await api.designs()
    designs.value = answer.designs
    notices.value = answer.notices
    failure.value = ''
  } catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
    setTimeout(() => void load(), 2000)
  }
}
onMounted(async () => {
  await load()
  await nextTick()
  // The keyboard goes to the design changed last, or to where the first one gets its name.
  if (document.activeElement === document.body)
    page.value?.querySelector<HTMLElement>(designs.value?.length ? 'li a' : '#new-name')?.focus()
})
document.title = 'Patient Key'

/** Those that are called so, by what is typed; all while nothing is. */
const shown = computed(() => {
  const typed = name.value.trim().toLowerCase()
  return (designs.value ?? []).filter((design) => design.name.toLowerCase().includes(typed))
})
/** Typing names a design wherever the keyboard is. */
useShortcuts((event) => {
  const isLetter = event.key.length === 1 && event.key !== ' '
  if (!isLetter || event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return false
  name.value += event.key
  page.value?.querySelector<HTMLInputElement>('#new-name')?.focus()
  return true
})
const toFirst = (): void => page.value?.querySelector<HTMLElement>('li a')?.focus()

async function make(body: { name: string } | { file: string }): Promise<void> {
  try {
    const { design } = await api.create(body)
    await router.push({ name: 'bench', params: { design: design.id } })
  } catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
}

function makeEmpty(): void {
  if (name.value.trim()) void make({ name: name.value.trim() })
}

async function takeFile(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  if (file) await take(file)
  field.value = ''
}

async function take(file: File): Promise<void> {
  // Of a backup, which may be long, no more than its beginning is read here.
  if (formOfBackup(await file.slice(0, 4096).text())) return restore(file)
  if (file.size > BOUNDS.file) {
    failure.value = `${file.name} is longer than ${BOUNDS.file.toLocaleString('en-GB')} bytes, which is more than is read.`
    return
  }
  const text = decodeText(new Uint8Array(await file.arrayBuffer()))
  if (!text.ok) failure.value = `${file.name} cannot be read: ${text.message}.`
  else await make({ file: text.value })
}

async function restore(file: File): Promise<void> {
  try {
    const restored = await api.restore(file)
    await load()
    done.value = sayRestored(restored)
  } catch (error) {
    failure.value = `${file.name} was not restored. ${error instanceof Error ? error.message : String(error)}`
  }
}

function sayRestored({ came, already, beside }: Restored): string {
  const parts = [
    ...(came.length > 0
      ? [`${came.length === 1 ? 'One design was' : `${came.length} designs were`} taken in.`]
      : []),
    ...(beside.length > 0
      ? [`Changed here since, and so taken in beside what is here: ${beside.join('; ')}.`]
      : []),
    ...(already.length > 0
      ? [
          `Here already as ${already.length === 1 ? 'it was: one design' : `they were: ${already.length} designs`}.`
        ]
      : [])
  ]
  return parts.join(' ') || 'There is no design in that backup.'
}

/** Makes a design of what is sound of a damaged one, and opens it. */
async function salvage(id: string): Promise<void> {
  try {
    const { design } = await api.salvage(id)
    await router.push({ name: 'bench', params: { design: design.id } })
  } catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
}

async function remove(id: string): Promise<void> {
  if (removing.value !== id) return void (removing.value = id)
  removing.value = ''
  await api.remove(id).catch((error: Error) => {
    failure.value = error.message
  })
  await load()
}

/** What is on its way to a design, in words; nothing where nothing is. */
function onItsWay(id: string): string {
  const standing = outgoing.standing.get(id)
  if (!standing) return ''
  const count = standing.waiting === 1 ? 'One change is' : `${standing.waiting} changes are`
  // Where the shelf itself could not be had, why is said already.
  const why = failure.value === '' ? standing.why : ''
  return `${count} on the way to the server. ${why}`.trim()
}
/** Those that are sent to designs which are not on the shelf (yet). */
const elsewhere = computed(() => {
  const known = new Set((designs.value ?? []).map(({ id }) => id))
  return [...outgoing.standing].filter(([id]) => !known.has(id))
})
const saveAside = (): void =>
  download('changes that were not taken.json', asideText.value, 'application/json')
const asideText = computed(() => `${JSON.stringify(outgoing.aside, null, 2)}\n`)
const asideCount = computed(() =>
  outgoing.aside.length === 1 ? 'One change' : `${outgoing.aside.length} changes`
)

const day = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'long',
  hour: '2-digit',
  minute: '2-digit'
})
</script>

<template>
  <div class="shelf">
    <header>
      <svg width="34" height="15" viewBox="0 0 24 10" aria-hidden="true">
        <path d="M0.5 0.5H23.5V4V7.4H19.9V3.4H16.3V9.4H12.7V5.4H9.1V7.4H5.5V9.4H0.5Z" fill="var(--act)" />
      </svg>
      <h1>Patient Key</h1>
      <span class="quiet">designs of databases, and their way into use</span>
      <button class="button" type="button" @click="theme.toggle()">
        {{ theme.dark ? 'Light' : 'Dark' }}
      </button>
    </header>
    <main ref="page">
      <p v-for="notice in notices" :key="notice" class="failure" role="alert">{{ notice }}</p>
      <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
      <p v-if="done" class="done" role="status">
        {{ done }} <button type="button" class="link" @click="done = ''">Understood</button>
      </p>
      <p v-if="outgoing.aside.length > 0" class="failure" role="alert">
        {{ asideCount }} could not be taken by the server, or not be understood:
        {{ outgoing.aside[0]?.why }}
        <button type="button" class="link" @click="saveAside">Save to a file</button>
        <button type="button" class="link next" @click="outgoing.forgetAside()">Forget</button>
      </p>
      <p v-for="[id, standing] in elsewhere" :key="id" class="done" role="status">
        {{ standing.name || 'A design that is not here' }}: {{ onItsWay(id) }}
      </p>
      <form class="new" @submit.prevent="makeEmpty">
        <label for="new-name">Start a design</label>
        <input
          id="new-name"
          v-model="name"
          class="field"
          placeholder="Its name…"
          maxlength="128"
          spellcheck="false"
          autocomplete="off"
          @keydown.esc="name = ''"
          @keydown.down.prevent="toFirst" />
        <button class="button main" type="submit" :disabled="name.trim() === ''">
          Start empty <kbd>Enter</kbd>
        </button>
        <button class="button" type="button" @click="fileField?.click()">
          From a design file or a backup…
        </button>
        <input
          ref="fileField"
          type="file"
          accept=".json,.jsonl,application/json"
          class="visually-hidden"
          aria-label="A design file or a backup"
          tabindex="-1"
          @change="takeFile" />
        <a v-if="designs && designs.length > 0" class="button save" href="/api/backup" download
          >Back up all</a
        >
      </form>
      <p v-if="name.trim() !== '' && designs && designs.length > 0" class="quiet found" role="status">
        <template v-if="shown.length === 0">None on the shelf is called so.</template>
        <template v-else
          >{{ shown.length }} on the shelf {{ shown.length === 1 ? 'is' : 'are' }} called so:
          <kbd>↓</kbd> goes there.</template
        >
      </p>
      <ul v-if="designs && designs.length > 0">
        <li v-for="(design, at) in shown" :key="design.id">
          <div v-if="design.damage" class="sheet damaged">
            <h2>{{ design.name }}</h2>
            <p class="what">{{ design.damage }}</p>
            <p class="quiet">It stays as it is, and keeps no other design from being used.</p>
            <button type="button" class="button" @click="salvage(design.id)">
              Make a design of what is sound
            </button>
          </div>
          <RouterLink v-else :to="{ name: 'bench', params: { design: design.id } }" class="sheet">
            <div class="drawing">
              <DesignDrawing v-if="at < DRAWN && design.tables > 0" :id="design.id" /><span
                v-else
                class="quiet"
                >{{ design.tables === 0 ? 'no tables yet' : `${design.tables} tables` }}</span
              >
            </div>
            <h2>{{ design.name }}</h2>
            <p>
              {{ design.versions > 0 ? `version ${design.versions}` : 'no version yet'
              }}<template v-if="design.lastNote"> · {{ design.lastNote }}</template>
            </p>
            <p v-if="onItsWay(design.id)" class="way" role="status">{{ onItsWay(design.id) }}</p>
            <p class="quiet">
              {{ design.tables }} {{ design.tables === 1 ? 'table' : 'tables' }} · changed
              {{ day.format(new Date(design.changedAt)) }}
            </p>
          </RouterLink>
          <button type="button" class="link remove" @click="remove(design.id)" @blur="removing = ''">
            {{ removing === design.id ? `Remove ${design.name} and its versions for good` : 'remove' }}
          </button>
        </li>
      </ul>
      <p v-else-if="designs" class="quiet empty">
        Nothing on the shelf. Name a design above and press Enter, or bring a design file.
      </p>
    </main>
  </div>
</template>

<style scoped>
.found {
  margin: -8px 0 12px;
}
.shelf {
  height: 100%;
  overflow: auto;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 0 28px;
  height: 56px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 17px;
  font-weight: 700;
}
header .button {
  margin-left: auto;
}
main {
  max-width: 1180px;
  margin: 0 auto;
  padding: 22px 28px 60px;
}
.new {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 22px;
}
.new label {
  font-weight: 600;
}
.new .field {
  flex: 0 1 320px;
  padding: 5px 10px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(330px, 1fr));
  gap: 22px;
}
li {
  position: relative;
}
.sheet {
  display: block;
  /* As high as the highest beside it. */
  height: 100%;
  background: var(--sheet);
  border: 1px solid var(--line);
  padding: 14px 16px 12px;
  text-decoration: none;
  color: inherit;
}
.sheet:hover {
  border-color: var(--ink);
  box-shadow: var(--shadow);
}
.drawing {
  height: 170px;
  background: var(--tint);
  margin: -4px -6px 12px;
  padding: 8px;
  display: grid;
  place-items: center;
  overflow: hidden;
}
.drawing > :deep(svg) {
  height: 154px;
}
h2 {
  font-size: 15px;
  font-weight: 600;
  overflow-wrap: anywhere;
  padding-right: 60px;
}
.remove {
  position: absolute;
  right: 16px;
  bottom: 14px;
  line-height: 1.45;
  color: var(--quiet);
  font-size: 12px;
  background: var(--sheet);
  border-bottom: 0;
}
.remove:hover {
  color: var(--deleted);
}
.failure {
  background: var(--chosen-tint);
  box-shadow: inset 3px 0 0 var(--deleted);
  padding: 8px 14px;
  margin-bottom: 16px;
}
.done {
  background: var(--tint);
  box-shadow: inset 3px 0 0 var(--act);
  padding: 8px 14px;
  margin-bottom: 16px;
}
.next {
  margin-left: 14px;
}
.way {
  color: var(--emptied);
}
.save {
  margin-left: auto;
  text-decoration: none;
}
.damaged {
  box-shadow: inset 3px 0 0 var(--deleted);
  min-height: 262px;
  cursor: default;
}
.damaged .what {
  margin: 8px 0;
  color: var(--deleted);
  overflow-wrap: anywhere;
}
.damaged .button {
  margin-top: 12px;
}
.empty {
  padding: 60px 0;
  text-align: center;
}
</style>
