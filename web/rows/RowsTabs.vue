<script setup lang="ts">
/** The ways to look at rows and at what rules do to them. */
defineProps<{ here: 'rows' | 'rules' | 'reach' | 'rulings'; table?: string | undefined }>()
const tabs = [
  ['rows', 'rows'],
  ['rules', 'rules'],
  ['reach', 'reach'],
  ['rulings', 'rulings']
] as const
const AT_TABLE = new Set<string>(['rows', 'reach'])
</script>

<template>
  <nav class="tabs" aria-label="Rows, rules, reach and rulings">
    <RouterLink
      v-for="[name, words] in tabs"
      :key="name"
      :to="{ name, ...(table && AT_TABLE.has(name) ? { params: { table } } : {}) }"
      active-class=""
      :class="{ on: name === here }"
      :aria-current="name === here ? 'page' : undefined"
      >{{ words }}</RouterLink
    >
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 12px;
  margin-right: 14px;
  padding-right: 14px;
  border-right: 1px solid var(--line);
}
a {
  color: var(--quiet);
  text-decoration: none;
}
a:hover {
  color: var(--ink);
}
a.on {
  color: var(--ink);
  font-weight: 600;
}
</style>
