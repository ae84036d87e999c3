<script setup lang="ts">
// What the server is at work on for everybody, as the demo that is still being conducted.
import { useNow } from '../../api/now'

const { data: now } = useNow()
</script>

<template>
  <p v-if="now?.work" class="work" role="status">
    <template v-if="now.work.problem">{{ now.work.problem }}</template>
    <template v-else>
      {{ now.work.what }}: <span class="mono">{{ now.work.done }}</span> of <span class="mono">{{ now.work.of }}</span>
      {{ now.work.things }}.
      <progress :value="now.work.done" :max="now.work.of" :aria-label="now.work.what" />
      <span class="quiet">{{ now.work.note }}</span>
    </template>
  </p>
</template>

<style scoped>
.work {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 8px;
  margin-bottom: 12px;
  padding: 8px 12px;
  background: var(--sheet);
  border-left: 3px solid var(--certified);
}
progress {
  width: 180px;
  height: 6px;
  accent-color: var(--certified);
}
</style>
