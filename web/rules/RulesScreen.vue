<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { fold, fullName, referencesTo } from '../../core/design/directory.ts'
import type { Table } from '../../core/design/model.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { isAsProposed, proposeRule } from '../../core/relate/rules.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { counted } from '../../core/naming/words.ts'
import KeyMark from '../parts/KeyMark.vue'
import RowsTabs from '../rows/RowsTabs.vue'
import { useDesign } from '../stores/design.ts'
import { useTrail } from '../bench/trail.ts'
import type { Relation } from '../bench/useRelation.ts'
import RuleRow from './RuleRow.vue'
import UsualCard from './UsualCard.vue'

/** All rules of the design on one page: under each table what happens to what refers to it. */
const store = useDesign()
const router = useRouter()
const trail = useTrail()

interface Section {
  parent: Table
  relations: Relation[]
}
const sections = computed((): Section[] => {
  const design = store.design
  if (!design) return []
  return design.tables.flatMap((parent) => {
    const relations = referencesTo(design, parent.id).map(({ table: child, foreignKey }) => ({
      child,
      parent,
      foreignKey
    }))
    return relations.length > 0 ? [{ parent, relations }] : []
  })
})
const relationsOf = (list: readonly Section[]): Relation[] => list.flatMap(({ relations }) => relations)
const total = computed(() => relationsOf(sections.value).length)

/** What makes a relation do as is proposed for it; nothing where it does. */
function takingUsual({ child, foreignKey }: Relation): Operation | undefined {
  if (!store.design) return undefined
  const proposed = proposeRule(store.design, child, foreignKey)
  if (isAsProposed(foreignKey, proposed)) return undefined
  const { onDelete } = proposed
  const { id, onUpdate } = foreignKey
  return { kind: 'foreignKey.setActions', table: child.id, foreignKey: id, onDelete, onUpdate }
}

const typed = ref('')
const isOnlyOthers = ref(false)
/** Those whose tables are called as was typed, or that are otherwise than usual, where only they are asked for. */
const looked = computed((): Section[] => {
  const wanted = fold(typed.value.trim())
  if (wanted === '' && !isOnlyOthers.value) return sections.value
  const isNamed = (table: Table): boolean => fold(table.name).includes(wanted)
  const isLookedFor = (each: Relation): boolean =>
    (isNamed(each.parent) || isNamed(each.child)) && (!isOnlyOthers.value || takingUsual(each) !== undefined)
  return sections.value.flatMap(({ parent, relations }) => {
    const left = relations.filter(isLookedFor)
    return left.length > 0 ? [{ parent, relations: left }] : []
  })
})
const isPart = computed(() => looked.value !== sections.value)
/** What takes the usual in those that are shown. */
const others = computed(() => relationsOf(looked.value).flatMap((each) => takingUsual(each) ?? []))
const takes = computed(() => {
  if (others.value.length === 1) return 'take the usual in the one that is otherwise'
  return `take the usual in ${isPart.value ? 'these' : 'all'} ${others.value.length} that are otherwise`
})
function takeAll(): void {
  const label = isPart.value
    ? `take ${counted(others.value.length, 'usual rule')}`
    : 'take the usual rules everywhere'
  store.submit({ kind: 'batch', label, operations: others.value })
}
const said = computed(() => {
  const left = relationsOf(looked.value).length
  const count =
    left < total.value ? `${left} of ${counted(total.value, 'reference')}` : counted(left, 'reference')
  return `${count}: what becomes of what refers to a row`
})
/** Whether it is being said what is usual. */
const saying = ref(false)
const walk = (table: string): void => void router.push({ name: 'bench', params: { table } })
</script>

<template>
  <div class="screen">
    <div class="bar">
      <RowsTabs here="rules" :table="trail.tables.at(-1)" />
      <span class="quiet said">{{ said }}</span>
      <input
        v-model="typed"
        class="lined filter"
        placeholder="only tables with…"
        aria-label="Only tables with" />
      <label v-if="others.length > 0 || isOnlyOthers">
        <input v-model="isOnlyOthers" type="checkbox" /> only otherwise
      </label>
      <button type="button" class="link" @click="saying = true">what is usual here</button>
      <button v-if="others.length > 0" type="button" class="link" @click="takeAll">
        {{ takes }}
      </button>
    </div>
    <UsualCard v-if="saying" @close="saying = false" />
    <div class="scroll" tabindex="0" role="region" aria-label="All rules">
      <table v-if="looked.length > 0">
        <thead>
          <tr>
            <th scope="col">what refers</th>
            <th scope="col">when it is deleted</th>
            <th scope="col">when its key changes</th>
            <th scope="col">looked at</th>
            <th scope="col"><span class="visually-hidden">what is said of it</span></th>
          </tr>
        </thead>
        <tbody v-for="{ parent, relations } in looked" :key="parent.id">
          <tr class="parent">
            <th colspan="5" scope="rowgroup">
              <KeyMark
                v-for="mark in store.design ? tableMarks(store.design, parent).slice(0, 1) : []"
                :key="mark.key"
                :mark="mark" />
              <span>{{ store.design ? fullName(store.design, parent) : parent.name }}</span>
              <RouterLink
                v-if="!parent.external"
                :to="{ name: 'reach', params: { table: parent.id } }"
                class="reach"
                >what deleting one can reach</RouterLink
              >
            </th>
          </tr>
          <RuleRow
            v-for="relation in relations"
            :key="relation.foreignKey.id"
            :relation="relation"
            @walk="walk" />
        </tbody>
      </table>
      <p v-else-if="total > 0" class="quiet none">No reference is of that kind.</p>
      <p v-else class="quiet none">No table refers to another yet. Relate two on the bench: press R there.</p>
    </div>
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
.said {
  overflow: hidden;
  text-overflow: ellipsis;
}
.filter {
  margin-left: auto;
  flex: 0 0 130px;
  width: 130px;
}
.scroll {
  overflow: auto;
  padding: 4px 20px 30px;
}
table {
  width: 100%;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-collapse: collapse;
  table-layout: fixed;
}
thead th {
  text-align: left;
  font-size: 12px;
  font-weight: 400;
  color: var(--quiet);
  padding: 6px 14px 6px 0;
  border-bottom: 1px solid var(--ink);
  position: sticky;
  top: -4px;
  background: var(--sheet);
  z-index: 1;
}
thead th:first-child {
  padding-left: 14px;
  width: 18%;
}
thead th:nth-child(4) {
  width: 16%;
}
.parent th {
  text-align: left;
  padding: 14px 14px 5px;
  border-bottom: 1px solid var(--line);
  font-weight: 700;
}
.parent th > * {
  display: inline-block;
  vertical-align: middle;
  margin-right: 8px;
}
.reach {
  font-weight: 400;
  float: right;
  margin-right: 0;
}
.none {
  padding: 12vh 0 0;
  text-align: center;
}
</style>
