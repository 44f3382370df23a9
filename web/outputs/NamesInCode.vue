<script setup lang="ts">
import { computed, ref } from 'vue'
import { byId } from '../../core/design/by-id.ts'
import { shapeOf } from '../../core/definitions/shape.ts'
import { TYPESCRIPT } from '../../core/definitions/typescript-names.ts'
import DraftField from '../parts/DraftField.vue'
import WorkCard from '../parts/WorkCard.vue'
import { useDesign } from '../stores/design.ts'

/** What tables, columns and directions are called in code, table by table; each language writes it in its own letters. */
const emit = defineEmits<{ close: [] }>()
const store = useDesign()

const shape = computed(() => (store.design ? shapeOf(store.design, TYPESCRIPT) : undefined))
const chosen = ref(shape.value?.entities[0]?.id ?? '')
const entity = computed(() => byId(shape.value?.entities ?? []).get(chosen.value))
const isOwn = (id: string): boolean => store.design?.codeNames?.[id] !== undefined

/** Empty is as in the database again. */
function call(of: string, typed: string): void {
  const name = typed.trim()
  store.submit({ kind: 'code.setName', of, name: name === '' ? null : name })
}

/** A direction is kept with its reference, together with the one that comes back. */
function callEnd(reference: string, holds: boolean, typed: string): void {
  const table = store.design?.tables.find(({ foreignKeys }) => foreignKeys.some(({ id }) => id === reference))
  const key = table?.foreignKeys.find(({ id }) => id === reference)
  if (!table || !key) return
  const side = holds ? 'child' : 'parent'
  const { [side]: _, ...other } = key.accessors ?? {}
  const name = typed.trim()
  const accessors = name === '' ? other : { ...other, [side]: name }
  store.submit({
    kind: 'foreignKey.setAccessors',
    table: table.id,
    foreignKey: reference,
    accessors: Object.keys(accessors).length > 0 ? accessors : null
  })
}
</script>

<template>
  <WorkCard title="Names in code" :width="640" @close="emit('close')">
    <p class="quiet">
      As TypeScript writes them; every language writes the same words in its own letters. Leave one empty and
      it is called as in the database again.
    </p>
    <p v-if="shape && entity" class="of">
      <select v-model="chosen" class="choice" aria-label="Which table">
        <option v-for="each in shape.entities" :key="each.id" :value="each.id">{{ each.table }}</option>
      </select>
      <span class="quiet">a row of it is a</span>
      <DraftField
        :key="`${entity.id} ${entity.type}`"
        class="lined mono"
        :class="{ own: isOwn(entity.id) }"
        :value="entity.type"
        :aria-label="`What a row of ${entity.table} is called in code`"
        spellcheck="false"
        @take="call(entity.id, $event)" />
    </p>
    <div v-if="entity" class="names">
      <template v-for="field in entity.fields" :key="`${field.id} ${field.name}`">
        <span class="mono">{{ field.column }}</span>
        <DraftField
          class="lined mono"
          :class="{ own: isOwn(field.id) }"
          :value="field.name"
          :aria-label="`What ${field.column} is called in code`"
          spellcheck="false"
          @take="call(field.id, $event)" />
      </template>
      <template v-for="end in entity.ends" :key="`${end.reference} ${end.holds} ${end.name}`">
        <span>{{ end.says }}</span>
        <DraftField
          class="lined mono"
          :value="end.name"
          :aria-label="`What is called in code: ${end.says}`"
          spellcheck="false"
          @take="callEnd(end.reference, end.holds, $event)" />
      </template>
    </div>
    <ul v-if="shape && shape.remarks.length > 0" class="quiet">
      <li v-for="remark in shape.remarks" :key="remark">{{ remark }}</li>
    </ul>
    <template #acts>
      <button type="button" class="button main" @click="emit('close')">Done</button>
    </template>
  </WorkCard>
</template>

<style scoped>
p {
  margin: 0;
}
.of {
  display: flex;
  align-items: baseline;
  gap: 10px;
}
.names {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 240px;
  align-items: baseline;
  gap: 4px 14px;
  max-height: 48vh;
  overflow: auto;
  padding-right: 4px;
}
.names > span {
  overflow-wrap: anywhere;
}
.own {
  color: var(--act);
}
ul {
  margin: 0;
  padding-left: 18px;
  max-height: 72px;
  overflow: auto;
}
</style>
