<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Ruling } from '../../core/design/model.ts'
import { counted } from '../../core/naming/words.ts'
import { judgeAll, sayBroken, sayStatements, sayVerdict, trialOf } from '../../core/rehearse/ruling.ts'
import { useTrail } from '../bench/trail.ts'
import DraftField from '../parts/DraftField.vue'
import RowsTabs from '../rows/RowsTabs.vue'
import { useDesign } from '../stores/design.ts'
import { useRehearsal } from '../stores/rehearsal.ts'

/** The rulings of the design, and how it stands to each of them on every engine that it is written for. */
const store = useDesign()
const rehearsal = useRehearsal()
const trail = useTrail()
const router = useRouter()

const lines = computed(() => {
  const { design } = store
  if (!design) return []
  return judgeAll(design).map((judgement) => ({
    ruling: judgement.ruling,
    broken: sayBroken(design, judgement),
    isUntried: judgement.untried !== undefined,
    does: sayStatements(design, judgement.ruling) ?? '',
    verdict: sayVerdict(design, judgement.ruling)
  }))
})
const brokenCount = computed(() => lines.value.filter(({ broken }) => broken !== undefined).length)

function rename(ruling: Ruling, says: string): void {
  if (says.trim() !== '' && says.trim() !== ruling.says)
    store.submit({ kind: 'ruling.change', ruling: { ...ruling, says: says.trim() } })
}
/** Shows what comes of it, where it can be tried. */
function show(ruling: Ruling): void {
  const from = rehearsal.sound
  const trial = from && trialOf(from.design, ruling)
  if (!trial?.ok) return store.say(trial?.message ?? '')
  rehearsal.tryAll(trial.value)
  void router.push({ name: 'rows', params: { table: ruling.statements[0]?.table ?? '' } })
}
</script>

<template>
  <div class="screen">
    <div class="bar">
      <RowsTabs here="rulings" :table="trail.tables.at(-1)" />
      <span class="quiet" role="status"
        >{{ counted(lines.length, 'ruling') }}: changes of rows that must come out so, whatever becomes of the
        design<template v-if="brokenCount > 0">; </template
        ><b v-if="brokenCount > 0" class="effect-deleted"
          >{{ counted(brokenCount, 'ruling') }} not kept to</b
        ></span
      >
    </div>
    <div v-if="lines.length === 0" class="empty quiet">
      <p>
        A ruling holds a change of rows to what must come of it: that a patient with admissions is not
        deleted, that an admission takes its notes along.
      </p>
      <p>
        Try something in the rows (<kbd>Del</kbd> on a row), and make it a ruling. Every edit, dialect and
        proof is held to it from then on.
      </p>
    </div>
    <ul v-else class="page" aria-label="Rulings">
      <li
        v-for="line in lines"
        :key="line.ruling.id"
        :class="{ broken: line.broken, untried: line.isUntried }">
        <span class="mark" :class="line.broken ? 'effect-deleted' : 'good'">{{
          line.broken === undefined ? 'kept' : line.isUntried ? 'cannot be tried' : 'broken'
        }}</span>
        <div class="what">
          <DraftField
            class="says lined"
            :value="line.ruling.says"
            :aria-label="`What the ruling says: ${line.ruling.says}`"
            @take="(text: string) => rename(line.ruling, text)" />
          <p class="quiet">
            {{ line.does === '' ? '' : `${line.does}: ` }}<b>{{ line.verdict }}</b>
          </p>
          <p v-if="line.broken" class="effect-deleted">{{ line.broken }}</p>
        </div>
        <button type="button" class="link" :disabled="line.isUntried" @click="show(line.ruling)">
          see it happen
        </button>
        <button
          type="button"
          class="link"
          :aria-label="`Remove the ruling ${line.ruling.says}`"
          @click="store.submit({ kind: 'ruling.remove', ruling: line.ruling.id })">
          remove
        </button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.screen {
  height: 100%;
  display: grid;
  grid-template-rows: 34px minmax(0, 1fr);
}
.bar {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 20px;
  white-space: nowrap;
  overflow: hidden;
}
.page {
  list-style: none;
  margin: 20px 20px 16px;
  padding: 0;
  overflow: auto;
  background: var(--sheet);
  border: 1px solid var(--line);
  align-self: start;
  max-height: calc(100% - 36px);
}
.page li {
  display: flex;
  gap: 18px;
  align-items: baseline;
  padding: 9px 14px;
  border-bottom: 1px solid var(--hair);
}
.page li.broken {
  box-shadow: inset 3px 0 0 var(--deleted);
}
.page li.untried {
  box-shadow: inset 3px 0 0 var(--emptied);
}
.mark {
  flex: 0 0 92px;
  font-weight: 600;
}
.good {
  color: var(--added);
}
.what {
  flex: 1;
  min-width: 0;
}
.says {
  font-weight: 600;
  width: 100%;
}
.says:not(:hover, :focus) {
  border-bottom-color: transparent;
}
.empty {
  padding: 10vh 20px 0;
  text-align: center;
  line-height: 1.9;
}
</style>
