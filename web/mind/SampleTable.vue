<script setup lang="ts">
import type { SampleRows } from '../../core/version/foresight.ts'

/** Some rows of a table, before or after. */
defineProps<{ sample: SampleRows | undefined; none: string }>()
</script>

<template>
  <p v-if="!sample" class="quiet none">{{ none }}</p>
  <table v-else>
    <caption>
      {{
        sample.table
      }}
    </caption>
    <thead>
      <tr>
        <th v-for="column in sample.columns" :key="column" scope="col">{{ column }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, at) in sample.rows" :key="at">
        <td v-for="(value, column) in row" :key="column" :title="value">{{ value }}</td>
      </tr>
      <tr v-if="sample.rows.length === 0">
        <td :colspan="sample.columns.length" class="quiet">no rows</td>
      </tr>
      <tr v-else-if="sample.more > 0">
        <td :colspan="sample.columns.length" class="quiet">and {{ sample.more }} more</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  border-collapse: collapse;
  font: 12px var(--mono);
  width: 100%;
  table-layout: fixed;
}
caption {
  text-align: left;
  font: 600 13px var(--sans);
  padding-bottom: 2px;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--quiet);
  border-bottom: 1px solid var(--ink);
  padding: 1px 8px 1px 0;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
td {
  padding: 1px 8px 1px 0;
  border-bottom: 1px solid var(--hair);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.none {
  font-size: 12px;
}
</style>
