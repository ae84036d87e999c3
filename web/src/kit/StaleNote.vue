<script setup lang="ts">
// Somebody changed it meanwhile: both texts side by side, and a person decides which holds.
import type { Apart } from './useEntry'

defineProps<{ differences: readonly Apart[] }>()
const emit = defineEmits<{ mine: []; theirs: [] }>()
</script>

<template>
  <section v-if="differences.length" class="stale" aria-label="Both texts">
    <table>
      <thead>
        <tr>
          <th scope="col">Field</th>
          <th scope="col">As you have it</th>
          <th scope="col">As it stands now</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in differences" :key="one.field">
          <th scope="row">{{ one.field }}</th>
          <td>{{ one.mine }}</td>
          <td>{{ one.theirs }}</td>
        </tr>
      </tbody>
    </table>
    <p class="acts">
      <a-button size="small" @click="emit('theirs')">Take it as it stands</a-button>
      <a-button size="small" @click="emit('mine')">Keep mine over it</a-button>
    </p>
  </section>
</template>

<style scoped>
.stale {
  margin: 12px 0;
  padding: 10px 12px;
  font-size: 14px;
  border: 1px solid var(--doubt);
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 3px 10px 3px 0;
  font-weight: 400;
  text-align: left;
  vertical-align: top;
  overflow-wrap: anywhere;
}
thead th {
  color: var(--ink-2);
}
.acts {
  display: flex;
  gap: 8px;
  margin: 8px 0 0;
}
</style>
