<script setup lang="ts">
import { computed, nextTick, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { allFindings, placeOfFinding, reasonFor } from '../../core/check/open.ts'
import type { Finding, Severity } from '../../core/check/finding.ts'
import { leavingOut } from '../../core/check/leaving-out.ts'
import { apply } from '../../core/edit/apply.ts'
import { foreseenWords } from '../../core/version/foresight.ts'
import { useDesign } from '../stores/design.ts'
import { useOpenFindings } from './useOpenFindings.ts'

/** All that is wrong or doubtful, the most serious first, each with what mends it. */
const store = useDesign()
const router = useRouter()

const found = useOpenFindings()
const open = computed(() => found.value ?? [])
const aside = computed(() =>
  store.design?.setAside === undefined || !found.value
    ? []
    : allFindings(store.design).filter((each) => store.design && reasonFor(store.design, each) !== undefined)
)
const GROUPS: { severity: Severity; says: string }[] = [
  { severity: 'refused', says: 'An engine refuses it' },
  { severity: 'wrong', says: 'Wrong' },
  { severity: 'doubtful', says: 'Doubtful' }
]
const groups = computed(() =>
  GROUPS.map((group) => ({
    ...group,
    found: open.value.filter(({ severity }) => severity === group.severity)
  })).filter(({ found }) => found.length > 0)
)

const keyOf = ({ rule, table, column, message }: Finding): string =>
  [rule, table, column ?? '', message].join(' ')
const place = (finding: Finding): string => (store.design ? placeOfFinding(store.design, finding) : '')
const reason = (finding: Finding): string => (store.design && reasonFor(store.design, finding)) ?? ''

/** The finding whose mend is looked at, and what that would change. */
const seen = shallowRef<Finding>()
const changes = computed((): string[] => {
  const fix = seen.value?.fix
  if (!store.design || !fix) return []
  const result = apply(store.design, fix.operation)
  if (!result.ok) return [result.refusal.message]
  const words = foreseenWords(store.design, result.design)
  return words.length > 0 ? words : ['No part of the schema changes by it.']
})

/** The finding that is being set aside. */
const setting = shallowRef<Finding>()
const why = ref('')
async function ask(finding: Finding): Promise<void> {
  setting.value = setting.value && keyOf(setting.value) === keyOf(finding) ? undefined : finding
  why.value = ''
  await nextTick()
  document.querySelector<HTMLInputElement>('.findings .why')?.focus()
}
function setAside(finding: Finding, said: string | null): void {
  const { rule, table, column } = finding
  if (said !== null && said.trim() === '') return
  store.submit({ kind: 'finding.setAside', rule, table, ...(column && { column }), reason: said })
  setting.value = undefined
}

/** That the design is not written for what a finding is about, where nobody has said what it is written for. */
const other = (finding: Finding): Finding['fix'] => store.design && leavingOut(store.design, finding)

function mend({ fix }: Pick<Finding, 'fix'>): void {
  if (fix) store.submit(fix.operation, fix.label.charAt(0).toLowerCase() + fix.label.slice(1))
  seen.value = undefined
}
const isSame = (one: Finding | undefined, other: Finding): boolean =>
  one !== undefined && keyOf(one) === keyOf(other)
const look = (finding: Finding): void => void (seen.value = isSame(seen.value, finding) ? undefined : finding)

function go({ table, column }: Finding): void {
  void router.push({ name: 'bench', params: { table }, query: column === undefined ? {} : { column } })
}
</script>

<template>
  <div class="findings">
    <h1>Findings</h1>
    <p v-if="!found" class="quiet" role="status">Looking through the design …</p>
    <p v-else-if="open.length === 0" class="quiet">
      Nothing is wrong or doubtful{{ aside.length > 0 ? ' but what was set aside' : '' }}.
    </p>
    <section v-for="group in groups" :key="group.severity">
      <h2 :class="group.severity">
        {{ group.says }} <span class="quiet">{{ group.found.length }}</span>
      </h2>
      <div v-for="finding in group.found" :key="keyOf(finding)" class="row">
        <button type="button" class="link place mono" @click="go(finding)">{{ place(finding) }}</button>
        <div class="says">
          <p>{{ finding.message }}</p>
          <p class="acts">
            <button
              v-if="finding.fix"
              type="button"
              class="link"
              :aria-expanded="isSame(seen, finding)"
              @click="look(finding)">
              {{ finding.fix.label }}…
            </button>
            <button v-if="other(finding)" type="button" class="link" @click="mend({ fix: other(finding) })">
              {{ other(finding)?.label }}
            </button>
            <button type="button" class="link quiet" @click="ask(finding)">let it stand…</button>
          </p>
          <div v-if="isSame(seen, finding)" class="more">
            <ul>
              <li v-for="sentence in changes" :key="sentence">{{ sentence }}</li>
            </ul>
            <button type="button" class="button main" @click="mend(finding)">{{ finding.fix?.label }}</button>
          </div>
          <form v-if="isSame(setting, finding)" class="more" @submit.prevent="setAside(finding, why)">
            <input
              v-model="why"
              class="field why"
              maxlength="300"
              :aria-label="`Why ${place(finding)} may stand as it is`"
              placeholder="Why it may stand as it is…"
              @keydown.esc="setting = undefined" />
            <button type="submit" class="button" :disabled="why.trim() === ''">
              Let it stand <kbd>Enter</kbd>
            </button>
          </form>
        </div>
      </div>
    </section>
    <section v-if="aside.length > 0">
      <h2 class="quiet">
        Set aside <span class="quiet">{{ aside.length }}</span>
      </h2>
      <div v-for="finding in aside" :key="keyOf(finding)" class="row">
        <button type="button" class="link place mono" @click="go(finding)">{{ place(finding) }}</button>
        <div class="says">
          <p class="quiet">{{ finding.message }}</p>
          <p>
            “{{ reason(finding) }}”
            <button type="button" class="link quiet" @click="setAside(finding, null)">
              take it up again
            </button>
          </p>
        </div>
      </div>
    </section>
  </div>
</template>

<style scoped>
.findings {
  height: 100%;
  overflow: auto;
  padding: 22px 20px 60px;
}
.findings > * {
  max-width: 1040px;
  margin-left: auto;
  margin-right: auto;
}
h1 {
  font-size: 20px;
  font-weight: 600;
  margin-bottom: 4px;
}
h2 {
  font-size: 13px;
  font-weight: 600;
  margin: 20px 0 2px;
  border-bottom: 1px solid var(--ink);
  padding-bottom: 3px;
}
h2.refused,
h2.wrong {
  color: var(--deleted);
}
h2.doubtful {
  color: var(--emptied);
}
h2 .quiet {
  font-weight: 400;
}
.row {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr);
  gap: 4px 20px;
  padding: 8px 0 7px;
  border-bottom: 1px solid var(--hair);
}
.place {
  text-align: left;
  font-size: 13px;
  justify-self: start;
  align-self: start;
  overflow-wrap: anywhere;
}
.says p {
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 18px;
  padding-top: 2px;
}
.link.quiet {
  color: var(--quiet);
}
.more {
  padding: 8px 0 4px 12px;
  border-left: 2px solid var(--line);
  margin-top: 6px;
}
.more ul {
  margin: 0 0 8px;
  padding-left: 18px;
}
form.more {
  display: flex;
  gap: 10px;
}
.why {
  flex: 1;
}
</style>
