<script setup lang="ts">
// What was found of a bench, or of an interface, one look a line.
import type { LookedView } from '../../api/types'

defineProps<{ looks: readonly LookedView[] }>()
</script>

<template>
  <ol class="looks">
    <li v-for="(one, at) in looks" :key="at" :class="{ danger: !one.passed }">
      <span class="mark" aria-hidden="true">{{ one.passed ? '✓' : '✕' }}</span>
      <span class="at">{{ one.at }}</span>
      <span class="found mono">{{ one.found }}</span>
      <span class="visually-hidden">{{ one.passed ? 'passed' : 'failed' }}</span>
    </li>
  </ol>
</template>

<style scoped>
.looks {
  list-style: none;
  margin: 8px 0;
  padding: 0;
  max-width: 860px;
}
.looks li {
  display: grid;
  grid-template-columns: 22px minmax(120px, 4fr) 8fr;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}
.found {
  font-size: 14px;
}
.danger {
  color: var(--danger);
}
</style>
