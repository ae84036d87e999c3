<script setup lang="ts">
// What went wrong, and what to do, in one place and one look.
import { computed } from 'vue'
import { ApiError } from '../api/client'

const props = defineProps<{ error: unknown }>()
const text = computed(() =>
  props.error instanceof ApiError ? props.error.problem : { what: String(props.error), todo: '' },
)
</script>

<template>
  <p class="problem" role="alert">
    <strong>{{ text.what }}</strong> {{ text.todo }}
  </p>
</template>

<style scoped>
.problem {
  padding: 8px 12px;
  border-left: 3px solid var(--danger);
  background: var(--sheet);
}
</style>
