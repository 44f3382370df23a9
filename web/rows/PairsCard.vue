<script setup lang="ts">
import { computed, ref } from 'vue'
import { tableOf } from '../../core/design/directory.ts'
import { readExpression } from '../../core/design/expressions.ts'
import type { ForeignKey, Table } from '../../core/design/model.ts'
import type { Dialect } from '../../core/dialect/dialect.ts'
import { addRows } from '../../core/edit/row.ts'
import { counted } from '../../core/naming/words.ts'
import { junctionSides } from '../../core/relate/junction.ts'
import { rowLabel } from '../../core/relate/label.ts'
import {
  junctionsOf,
  MOST_PAIRS,
  missingPairs,
  pairsSql,
  type PairQuestion,
  type PairSide
} from '../../core/rows/pairs.ts'
import SqlFor from '../parts/SqlFor.vue'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** The pairs that a junction lacks, by what each side is to be, before they are put in. */
const props = defineProps<{ junction: Table; at?: { table: string; place: number } | undefined }>()
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

/** How many rows are offered to choose from, and how many pairs are named. */
const OFFERED = 500
const NAMED = 6

interface Asked {
  key: ForeignKey
  table: Table
  /** One row, by its place; else all. */
  only: string
  where: string
  /** `junction by far place`: only those that another junction pairs with that row. */
  has: string
}
const asked = ref<Asked[]>(
  junctionSides(props.junction)
    .slice(0, 2)
    .flatMap((key) => {
      const table = store.design && tableOf(store.design, key.table)
      const only = props.at && props.at.table === table?.id ? String(props.at.place) : ''
      return table ? [{ key, table, only, where: '', has: '' }] : []
    })
)

const label = (table: Table, place: number): string => {
  const row = table.rows[place]
  return store.design && row ? rowLabel(store.design, table, row) : ''
}
/** What rows of a side can be asked to have, through another junction. */
function having({ table }: Asked): { value: string; words: string }[] {
  const { design } = store
  if (!design) return []
  return junctionsOf(design, table)
    .filter(({ junction }) => junction.id !== props.junction.id)
    .flatMap(({ junction, by, far, to }) =>
      to.rows.slice(0, OFFERED).map((_, place) => ({
        value: JSON.stringify({ junction: junction.id, by: by.id, far: far.id, place }),
        words: `${to.name} ${label(to, place)}`
      }))
    )
}

const flaws = computed(() =>
  asked.value.map(({ table, where }) => {
    if (where.trim() === '' || !store.design) return ''
    const read = readExpression(where, { columns: table.columns, enums: store.design.enums })
    return read.ok ? '' : read.message
  })
)
const question = computed((): PairQuestion | undefined => {
  const sides = asked.value.map(({ key, table, only, where, has }): PairSide => {
    const read =
      where.trim() === ''
        ? undefined
        : readExpression(where, { columns: table.columns, enums: store.design?.enums ?? [] })
    return {
      foreignKey: key.id,
      ...(only !== '' && { places: [Number(only)] }),
      ...(read?.ok && { where: read.value }),
      ...(has !== '' && { has: JSON.parse(has) as NonNullable<PairSide['has']> })
    }
  })
  const [one, other] = sides
  if (!one || !other || flaws.value.some((flaw) => flaw !== '')) return undefined
  return { junction: props.junction.id, sides: [one, other] }
})
const pairs = computed(() =>
  store.design && question.value ? missingPairs(store.design, question.value) : undefined
)
const named = computed(() =>
  (pairs.value?.rows ?? [])
    .slice(0, NAMED)
    .map((row) => (store.design ? rowLabel(store.design, props.junction, row) : ''))
)
const sql = (dialect: Dialect): string =>
  store.design && question.value ? pairsSql(store.design, question.value, dialect) : ''

function put(): void {
  const rows = pairs.value?.rows ?? []
  const what = `fill ${counted(rows.length, 'pair')} of ${props.junction.name}`
  if (store.submit(addRows(props.junction, rows), what)) return
  emit('close')
}
</script>

<template>
  <WorkCard :title="`Missing pairs of ${junction.name}`" @close="emit('close')">
    <div v-for="(side, at) in asked" :key="side.key.id" class="side">
      <h2>{{ at === 0 ? 'each' : 'with each' }} {{ side.table.name }}</h2>
      <label
        >that is
        <select v-model="side.only" class="choice">
          <option value="">any of {{ counted(side.table.rows.length, side.table.name) }}</option>
          <option v-for="(_, place) in side.table.rows.slice(0, OFFERED)" :key="place" :value="String(place)">
            {{ label(side.table, place) }}
          </option>
        </select></label
      >
      <label v-if="having(side).length > 0"
        >and has
        <select v-model="side.has" class="choice">
          <option value="">anything</option>
          <option v-for="each in having(side)" :key="each.value" :value="each.value">
            {{ each.words }}
          </option>
        </select></label
      >
      <label class="where"
        >where
        <input v-model="side.where" class="lined mono" placeholder="a condition on it" spellcheck="false"
      /></label>
      <p v-if="flaws[at]" class="effect-deleted" role="alert">{{ flaws[at] }}</p>
    </div>
    <p v-if="pairs" role="status">
      <b>{{ counted(pairs.rows.length, 'pair') }}</b> would be put in;
      {{ pairs.there.toLocaleString('en-GB') }} of {{ pairs.wanted.toLocaleString('en-GB') }} are there
      already.
      <template v-if="pairs.rows.length >= MOST_PAIRS">No more than so many at a time.</template>
    </p>
    <ul v-if="named.length > 0">
      <li v-for="(each, at) in named" :key="at">{{ each }}</li>
      <li v-if="pairs && pairs.rows.length > named.length" class="quiet">
        and {{ (pairs.rows.length - named.length).toLocaleString('en-GB') }} more
      </li>
    </ul>
    <SqlFor v-if="question" :write="sql" />
    <template #acts>
      <button type="button" class="button main" :disabled="!pairs || pairs.rows.length === 0" @click="put">
        Put {{ pairs ? counted(pairs.rows.length, 'pair') : 'them' }} in
      </button>
      <button type="button" class="button" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
    </template>
  </WorkCard>
</template>

<style scoped>
h2 {
  font-weight: 600;
  flex: 0 0 150px;
}
.side {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
}
.side > p {
  flex-basis: 100%;
}
.where {
  flex: 1;
  display: flex;
  gap: 6px;
}
.where input {
  flex: 1;
}
ul {
  margin: 0;
  padding-left: 18px;
}
</style>
