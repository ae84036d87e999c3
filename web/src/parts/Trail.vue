<script setup lang="ts">
// Where you are: series / model / unit / campaign.
defineProps<{ steps: { name: string; to?: string }[] }>()
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
  gap: 8px;
  font-size: 14px;
  color: var(--ink-2);
  margin-bottom: 10px;
}
</style>
