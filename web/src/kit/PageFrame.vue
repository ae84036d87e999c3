<script setup lang="ts">
// What every page has: its title, where it stands, and what is shown while it loads, is empty, or cannot be had.
import { watchEffect } from 'vue'
import { useTitle } from './title'
import ProblemNote from './ProblemNote.vue'
import Trail from './Trail.vue'
import type { Step } from './title'

const props = defineProps<{
  /** What the tab of the browser says; empty while it is not known. */
  title: string
  trail?: readonly Step[]
  /** Nothing to show yet. */
  pending?: boolean
  error?: unknown
  /** There is nothing on record to show: the slot `empty` says what to do first. */
  empty?: boolean
}>()
const emit = defineEmits<{ retry: [] }>()
const tab = useTitle()
watchEffect(() => (tab.value = props.title))
</script>

<template>
  <Trail v-if="trail?.length" :steps="trail" />
  <slot name="head" />
  <div v-if="error" class="stuck">
    <ProblemNote :error="error" />
    <a-button @click="emit('retry')">Try again</a-button>
  </div>
  <p v-else-if="pending" class="quiet wait" role="status">Reading the records …</p>
  <div v-else-if="empty" class="nothing"><slot name="empty" /></div>
  <slot v-else />
</template>

<style scoped>
.stuck {
  display: flex;
  gap: 16px;
  align-items: center;
  margin: 12px 0;
}
.wait,
.nothing {
  padding: 40px 0;
}
</style>
