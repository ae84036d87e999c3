<script setup lang="ts">
// What went wrong, and what to do, in one place and one look.
import { computed } from 'vue'
import { problemOf } from './problem'

const props = defineProps<{ error: unknown }>()
const text = computed(() => problemOf(props.error))
</script>

<template>
  <p class="problem" role="alert">
    <strong>{{ text.what }}</strong> {{ text.todo }}
  </p>
</template>

<style scoped>
.problem {
  margin: 8px 0 0;
  padding: 8px 12px;
  border-left: 3px solid var(--danger);
  background: var(--sheet);
}
</style>
