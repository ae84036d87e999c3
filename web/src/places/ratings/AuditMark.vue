<script setup lang="ts">
// How a month of an audit stands, as a shape with its word.
import type { AuditView } from '../../api/types'
import { AUDIT_WORDS } from './words'

defineProps<{ state: AuditView['periods'][number]['state'] }>()
</script>

<template>
  <span class="mark-word audit" :data-state="state">
    <svg viewBox="-7 -7 14 14" width="14" height="14" aria-hidden="true">
      <path v-if="state === 'done'" d="M-5.5 0.5L-1.5 4.5L5.5 -4" class="line" />
      <path v-else-if="state === 'short'" d="M-5.5 -5H5.5L0 5.5Z" class="full" />
      <path v-else-if="state === 'late'" d="M-5 -6H5L-5 6H5Z" class="line" />
      <circle v-else r="4.6" class="line dashed" />
    </svg>
    {{ AUDIT_WORDS[state] }}
  </span>
</template>

<style scoped src="./mark.css"></style>
<style scoped>
.audit[data-state='done'] {
  color: var(--certified);
}
.audit[data-state='short'] {
  color: var(--danger);
}
.audit[data-state='late'] {
  color: var(--doubt);
}
</style>
