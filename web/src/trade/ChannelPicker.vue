<script setup lang="ts">
// Which channel's wave and spectrum are shown.
defineProps<{
  channels: readonly number[]
  /** What a channel, or a pair by its first, is called. */
  called: (channel: number) => string
}>()
const channel = defineModel<number | null>({ required: true })
</script>

<template>
  <div role="group" aria-label="Channel">
    <button v-for="c in channels" :key="c" :aria-pressed="c === channel" @click="channel = c">{{ called(c) }}</button>
  </div>
</template>

<style scoped>
button {
  font: 13px var(--mono);
  min-width: 26px;
  padding: 1px 7px;
  color: var(--ink-2);
  background: none;
  border: 1px solid var(--rule);
  cursor: pointer;
}
button[aria-pressed='true'] {
  color: var(--ink);
  border-color: var(--certified);
  background: var(--selected);
}
</style>
