<script setup lang="ts">
// Where you are: series / model / unit / campaign.
import type { Step } from './title'

defineProps<{ steps: readonly Step[] }>()
</script>

<template>
  <nav class="trail" aria-label="You are here">
    <template v-for="(step, index) in steps" :key="index">
      <span v-if="index" aria-hidden="true">/</span>
      <RouterLink v-if="step.to" :to="step.to">{{ step.name }}</RouterLink>
      <span v-else aria-current="page">{{ step.name }}</span>
    </template>
  </nav>
</template>

<style scoped>
.trail {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 8px;
  font-size: 14px;
  color: var(--ink-2);
  margin-bottom: 10px;
}
</style>
