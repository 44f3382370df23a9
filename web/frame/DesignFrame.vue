<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Design } from '../../core/design/model.ts'
import { deltaOf } from '../../core/version/delta.ts'
import { api } from '../api/client.ts'
import { useTrail } from '../bench/trail.ts'
import { tableOf } from '../../core/design/directory.ts'
import { useOpenFindings } from '../findings/useOpenFindings.ts'
import { useBrokenRulings } from '../rulings/useBrokenRulings.ts'
import { useDesign, type Done } from '../stores/design.ts'
import { useTabs, type Tab } from '../stores/tabs.ts'
import { useTheme } from '../stores/theme.ts'
import KeysHelp from './KeysHelp.vue'
import LookingBar from './LookingBar.vue'
import NoticeBar from './NoticeBar.vue'
import OpenDesigns from './OpenDesigns.vue'
import TableFinder from './TableFinder.vue'
import { isTyping, isUnbegun, useShortcuts } from './shortcuts.ts'

const props = defineProps<{ design: string }>()
const store = useDesign()
const theme = useTheme()
const router = useRouter()
const route = useRoute()
const tabs = useTabs()
const finder = ref<InstanceType<typeof TableFinder>>()

watch(
  () => props.design,
  (id) => void store.open(id),
  { immediate: true }
)
onBeforeUnmount(() => store.close())
watch(
  () => store.design?.name,
  (name) => {
    document.title = name ? `${name} · Patient Key` : 'Patient Key'
  }
)

watch(
  [() => route.fullPath, () => store.design?.name, () => props.design],
  ([path, name, id]) => {
    if (path.startsWith(`/d/${id}`)) tabs.visit(id, path, store.id === id ? name : undefined)
  },
  { immediate: true }
)
watch(
  () => store.failure,
  (failure) => {
    if (failure) tabs.close(props.design)
  }
)
const others = computed(() => tabs.tabs.filter((tab) => tab.id !== props.design))

function closeTab(id: string): void {
  const next = tabs.close(id)
  if (id === props.design) void router.push(next ? next.path : '/')
}
const goTo = (tab: Tab | undefined): void => {
  if (tab && tab.id !== props.design) void router.push(tab.path)
}

// The last version, to say how far the draft has come since.
const lastVersion = shallowRef<Design>()
watch(
  () => store.versions.at(-1)?.number,
  async (number) => {
    // Without the server the count of changes waits; the bar says that it is gone.
    lastVersion.value =
      number === undefined
        ? undefined
        : (await api.version(props.design, number).catch(() => undefined))?.design
  },
  { immediate: true }
)

// Counting waits for a pause in typing: it looks at the whole design.
const PAUSE = 150
const open = useOpenFindings(PAUSE)
const found = computed(() => open.value?.length ?? 0)
const changes = ref(0)
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  [() => store.draft, lastVersion],
  () => {
    clearTimeout(timer)
    timer = setTimeout(() => {
      changes.value = store.draft && lastVersion.value ? deltaOf(lastVersion.value, store.draft).length : 0
    }, PAUSE)
  },
  { immediate: true }
)

const standing = computed(() => {
  const number = store.versions.at(-1)?.number
  if (number === undefined) return 'draft, no version saved yet'
  if (changes.value === 0) return `as in version ${number}`
  return `draft · ${changes.value} ${changes.value === 1 ? 'change' : 'changes'} since version ${number}`
})

const name = computed({
  get: () => store.design?.name ?? '',
  set: (value: string) => {
    if (value.trim() && value.trim() !== store.design?.name)
      store.submit({ kind: 'design.rename', name: value.trim() })
  }
})

/** What was done out of sight is said. */
function tell(what: string, done: Done | undefined): void {
  const shown = route.name === 'bench' ? String(route.params.table ?? '') : undefined
  const isSeen = shown === undefined || (done?.touched.has(shown) ?? true)
  if (done && !isSeen) store.say(`${what}: ${done.label}.`)
}
const takeBack = (): void => tell('Taken back', store.undo())
const again = (): void => tell('Done again', store.redo())

const trail = useTrail()
type ScreenName = (typeof screens)[number]
/** These are entered at the table that one was at. */
const AT_TABLE: ReadonlySet<ScreenName> = new Set(['bench', 'ledger', 'rows'])
/** The screen that a place belongs to in the line at the top. */
const OF: Partial<Record<string, ScreenName>> = { rules: 'rows', reach: 'rows', rulings: 'rows' }
const current = computed(() => OF[String(route.name)] ?? route.name)
function placeOf(screen: ScreenName): { name: ScreenName; params?: { table: string } } {
  const table = trail.tables.at(-1)
  const isAtTable = AT_TABLE.has(screen) && table !== undefined
  const isThere = isAtTable && store.design !== undefined && tableOf(store.design, table) !== undefined
  return isThere ? { name: screen, params: { table } } : { name: screen }
}

useBrokenRulings()

const helping = ref(false)
const screens = ['bench', 'ledger', 'diagram', 'rows', 'versions', 'outputs', 'findings'] as const

useShortcuts((event) => {
  const command = event.ctrlKey || event.metaKey
  if (command && event.key.toLowerCase() === 'z' && !isTyping(event, 'changed')) {
    if (event.shiftKey) again()
    else takeBack()
    return true
  }
  if (command && event.key.toLowerCase() === 'y' && !isTyping(event, 'changed')) {
    again()
    return true
  }
  if (event.key === '/' && !command && (!isTyping(event) || isUnbegun(event))) {
    finder.value?.focus()
    return true
  }
  if (event.key === '?' && !command && !isTyping(event)) {
    helping.value = true
    return true
  }
  if (event.altKey && !command && (event.key === 'PageDown' || event.key === 'PageUp')) {
    goTo(tabs.beside(props.design, event.key === 'PageDown' ? 1 : -1))
    return true
  }
  const screen = event.altKey && !command ? screens[Number(event.key) - 1] : undefined
  if (screen) {
    void router.push(placeOf(screen))
    return true
  }
  return false
})
</script>

<template>
  <div class="frame">
    <header>
      <RouterLink to="/" class="home" aria-label="Shelf: all designs" title="Shelf: all designs">
        <svg width="24" height="12" viewBox="0 0 24 10" aria-hidden="true">
          <path d="M0.5 0.5H23.5V4V7.4H19.9V3.4H16.3V9.4H12.7V5.4H9.1V7.4H5.5V9.4H0.5Z" fill="var(--act)" />
        </svg>
      </RouterLink>
      <input
        v-model.lazy="name"
        class="name"
        aria-label="Name of the design"
        :size="Math.min(Math.max(name.length, 6), 30)"
        spellcheck="false"
        @keydown.enter="($event.target as HTMLInputElement).blur()" />
      <span class="quiet standing" :title="standing">{{ standing }}</span>
      <OpenDesigns v-if="others.length > 0" :others="others" @close="closeTab" />
      <TableFinder ref="finder" />
      <nav aria-label="Screens">
        <RouterLink
          v-for="(screen, at) in screens"
          :key="screen"
          :to="placeOf(screen)"
          :title="`Alt ${at + 1}`"
          active-class=""
          :class="{ on: current === screen }"
          :aria-current="current === screen ? 'page' : undefined"
          >{{ screen.charAt(0).toUpperCase() + screen.slice(1)
          }}<span v-if="screen === 'findings' && found > 0" class="found">{{ found }}</span></RouterLink
        >
      </nav>
      <div class="tools">
        <button
          class="tool"
          type="button"
          :disabled="!store.undoLabel"
          :title="store.undoLabel ? `Undo: ${store.undoLabel} (Ctrl Z)` : 'Nothing to undo'"
          @click="takeBack()">
          Undo
        </button>
        <button
          class="tool"
          type="button"
          :disabled="!store.redoLabel"
          :title="store.redoLabel ? `Redo: ${store.redoLabel} (Ctrl Shift Z)` : 'Nothing to redo'"
          @click="again()">
          Redo
        </button>
        <button
          v-if="others.length > 0"
          class="tool"
          type="button"
          :title="`Close ${store.design?.name ?? 'this design'}; it stays on the shelf`"
          @click="closeTab(design)">
          Close
        </button>
        <button class="tool" type="button" title="What can be pressed here (?)" @click="helping = true">
          Keys
        </button>
        <button class="tool" type="button" @click="theme.toggle()">
          {{ theme.dark ? 'Light' : 'Dark' }}
        </button>
      </div>
    </header>
    <LookingBar />
    <main>
      <RouterView v-if="store.design" />
      <p v-else-if="store.failure" class="failure">
        {{ store.failure }} <RouterLink to="/">Back to the shelf</RouterLink>
      </p>
    </main>
    <NoticeBar />
    <KeysHelp v-if="helping" :screen="String(route.name ?? '')" @close="helping = false" />
  </div>
</template>

<style scoped>
.frame {
  height: 100%;
  display: flex;
  flex-direction: column;
}
header {
  display: flex;
  align-items: center;
  padding: 0 20px;
  gap: 12px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
  min-width: 0;
  flex: 0 0 44px;
}
.home {
  display: flex;
  padding: 6px 0;
}
.name {
  font-weight: 700;
  font-size: 14px;
  border: 0;
  border-bottom: 1px solid transparent;
  background: none;
  padding: 2px 0;
  min-width: 80px;
  text-overflow: ellipsis;
  field-sizing: content;
  max-width: 280px;
  flex: 0 0 auto;
}
.name:hover {
  border-bottom-color: var(--line);
}
.standing {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  min-width: 40px;
  flex: 0 1 auto;
}
header > nav:not(.others) {
  display: flex;
  gap: 16px;
  margin-left: auto;
  align-self: stretch;
}
nav a {
  color: var(--quiet);
  text-decoration: none;
  display: flex;
  align-items: center;
  border-bottom: 2px solid transparent;
  border-top: 2px solid transparent;
}
nav a:hover {
  color: var(--ink);
}
nav a.on {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--act);
}
.found {
  margin-left: 5px;
  font-size: 12px;
  color: var(--emptied);
  font-weight: 600;
}
.tools {
  display: flex;
  gap: 10px;
  padding-left: 12px;
  border-left: 1px solid var(--hair);
}
.tool {
  border: 0;
  background: none;
  padding: 2px 0;
  cursor: pointer;
  color: var(--quiet);
}
.tool:hover:not(:disabled) {
  color: var(--ink);
}
.tool:disabled {
  opacity: 0.55;
  cursor: default;
}
@media (width < 1150px) {
  header {
    gap: 8px;
    padding: 0 12px;
  }
  .standing {
    display: none;
  }
  .tools,
  header > nav:not(.others) {
    gap: 9px;
  }
}
main {
  flex: 1;
  min-height: 0;
  position: relative;
  overflow: hidden;
}
.failure {
  padding: 40px;
  text-align: center;
}
</style>
