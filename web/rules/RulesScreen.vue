<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { fullName, referencesTo } from '../../core/design/directory.ts'
import { tableMarks } from '../../core/diagram/mark.ts'
import { isAsProposed, proposeRule } from '../../core/relate/rules.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { counted } from '../../core/naming/words.ts'
import KeyMark from '../parts/KeyMark.vue'
import RowsTabs from '../rows/RowsTabs.vue'
import { useDesign } from '../stores/design.ts'
import { useTrail } from '../bench/trail.ts'
import RuleRow from './RuleRow.vue'
import UsualCard from './UsualCard.vue'

/** All rules of the design on one page: under each table what happens to what refers to it. */
const store = useDesign()
const router = useRouter()
const trail = useTrail()

const sections = computed(() => {
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
const total = computed(() => sections.value.reduce((sum, { relations }) => sum + relations.length, 0))
/** What does not do what is proposed for it. */
const others = computed((): Operation[] => {
  const design = store.design
  if (!design) return []
  return sections.value.flatMap(({ relations }) =>
    relations.flatMap(({ child, foreignKey }): Operation[] => {
      const proposed = proposeRule(design, child, foreignKey)
      if (isAsProposed(foreignKey, proposed)) return []
      const { onDelete } = proposed
      const { id, onUpdate } = foreignKey
      return [{ kind: 'foreignKey.setActions', table: child.id, foreignKey: id, onDelete, onUpdate }]
    })
  )
})
function takeAll(): void {
  store.submit({ kind: 'batch', label: 'take the usual rules everywhere', operations: others.value })
}
/** Whether it is being said what is usual. */
const saying = ref(false)
const walk = (table: string): void => void router.push({ name: 'bench', params: { table } })
</script>

<template>
  <div class="screen">
    <div class="bar">
      <RowsTabs here="rules" :table="trail.tables.at(-1)" />
      <span class="quiet"
        >{{ counted(total, 'reference') }}: what becomes of a row when the one that it refers to goes or gets
        another key</span
      >
      <button type="button" class="link all" @click="saying = true">what is usual here</button>
      <button v-if="others.length > 0" type="button" class="link" @click="takeAll">
        take what is usual in all {{ others.length }} that are otherwise
      </button>
    </div>
    <UsualCard v-if="saying" @close="saying = false" />
    <div class="scroll" tabindex="0" role="region" aria-label="All rules">
      <table v-if="sections.length > 0">
        <thead>
          <tr>
            <th scope="col">what refers</th>
            <th scope="col">when it is deleted</th>
            <th scope="col">when its key changes</th>
            <th scope="col">looked at</th>
            <th scope="col"><span class="visually-hidden">what is said of it</span></th>
          </tr>
        </thead>
        <tbody v-for="{ parent, relations } in sections" :key="parent.id">
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
.all {
  margin-left: auto;
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
