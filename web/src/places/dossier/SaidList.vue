<script setup lang="ts">
// What is said of something, label by label; in columns where there is room.
import type { SaidView } from '../../api/types'

defineProps<{ said: readonly SaidView[] }>()
/** What is longer than this has a line of its own. */
const LONG = 60
</script>

<template>
  <dl class="said">
    <div v-for="one in said" :key="one.label" :class="{ long: one.words.length > LONG }">
      <dt>{{ one.label }}</dt>
      <dd>{{ one.words }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.said {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: 4px 28px;
  margin: 8px 0 0;
  font-size: 14px;
}
.said > div {
  display: grid;
  grid-template-columns: 116px 1fr;
  gap: 10px;
}
/* Those stand below the short ones, wherever they came. */
.said > .long {
  grid-column: 1 / -1;
  order: 1;
}
dt {
  color: var(--ink-2);
}
dt::first-letter {
  text-transform: uppercase;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
