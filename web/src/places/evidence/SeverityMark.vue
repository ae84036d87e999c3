<script setup lang="ts">
// A finding in small: its severity by shape, its code for those who know it, its sentence in the tip.
import type { FindingView } from '../../api/types'

defineProps<{ finding: FindingView }>()
</script>

<template>
  <span class="mark" :data-severity="finding.severity" :title="`${finding.message} ${finding.advice}`">
    <svg width="12" height="12" viewBox="0 0 12 12" role="img" :aria-label="`${finding.severity}: ${finding.message}`">
      <path
        v-if="finding.severity === 'invalid'"
        d="M2 2L10 10M10 2L2 10"
        fill="none"
        stroke="currentColor"
        stroke-width="2"
      />
      <path
        v-else-if="finding.severity === 'doubt'"
        d="M6 1.5L11 10.5H1Z"
        fill="none"
        stroke="currentColor"
        stroke-width="1.6"
      />
      <circle v-else cx="6" cy="6" r="2.2" fill="currentColor" />
    </svg>
    <span class="code">{{ finding.code.replaceAll('-', ' ') }}</span>
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  gap: 4px;
  align-items: center;
  margin-right: 8px;
  color: var(--ink-2);
  font-size: 13px;
  white-space: nowrap;
}
[data-severity='doubt'] {
  color: var(--doubt);
}
[data-severity='invalid'] {
  color: var(--danger);
}
</style>
