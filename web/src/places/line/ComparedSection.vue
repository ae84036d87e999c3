<script setup lang="ts">
// Readings of a unit that do not go together, whatever campaign they are from.
import type { UnitView } from '../../api/types'

defineProps<{ comparisons: UnitView['comparisons'] }>()
</script>

<template>
  <section class="section">
    <header>
      <h2>Readings that do not go together</h2>
      <span class="quiet">of all campaigns, at like volts</span>
    </header>
    <ul>
      <li v-for="c in comparisons" :key="c.attempt_ids.join()">
        {{ c.message }}
        <span class="quiet">{{ c.advice }}</span>
        <span class="nowrap">
          <RouterLink v-for="id in c.attempt_ids" :key="id" :to="`/attempts/${id}`">attempt {{ id }}</RouterLink>
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 7px 0;
  border-bottom: 1px solid var(--rule);
  font-size: 14px;
}
li a {
  margin-left: 10px;
}
.nowrap {
  white-space: nowrap;
}
</style>
