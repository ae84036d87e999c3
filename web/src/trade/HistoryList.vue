<script setup lang="ts">
// The latest entries of the audit chain about something, the newest first.
import type { components } from '../api/generated'
import { moment } from './format'

defineProps<{ entries: components['schemas']['HistoryView'][]; most: number }>()
</script>

<template>
  <ol class="log">
    <li v-for="entry in entries.slice(-most).reverse()" :key="entry.hash">
      <span class="quiet">{{ moment(entry.at) }}</span> {{ entry.person }} {{ entry.action }}:
      <span class="quiet">{{ entry.detail }}</span>
    </li>
  </ol>
</template>

<style scoped>
.log {
  list-style: none;
  margin: 0;
  padding: 6px 0;
  font-size: 14px;
}
.log li {
  padding: 3px 0;
  overflow-wrap: anywhere;
}
</style>
