<script setup lang="ts">
// A verdict as a shape, with its word beside it unless `bare`; the colour only repeats what shape and word say.
import { computed } from 'vue'
import type { VerdictKind } from '../api/types'
import { VERDICT_WORDS } from './format'

const SHORTER: Partial<Record<VerdictKind, string>> = {
  backed_above_rated_voltage_only: 'Above rated V only',
  too_close: 'Too close',
  backed_at_one_tone_only: 'At one tone only',
}

const props = defineProps<{
  kind: VerdictKind
  /** Which way it goes, where that is more than the kind says. */
  outcome?: 'passes' | 'open' | 'fails'
  bare?: boolean
  short?: boolean
  doubted?: boolean
  /** It rests on a simulated bench. */
  simulated?: boolean
}>()
/** Not measured as claimed, and yet decided. */
const passes = computed(() => props.kind === 'backed_above_rated_voltage_only' && props.outcome === 'passes')
const word = computed(
  () =>
    ((props.short && SHORTER[props.kind]) || VERDICT_WORDS[props.kind]) +
    (passes.value ? ', passes all the same' : '') +
    (props.doubted ? ', in doubt' : '') +
    (props.simulated ? ', simulated' : ''),
)
</script>

<template>
  <span class="verdict" :data-kind="kind" :title="bare ? word : undefined">
    <svg
      viewBox="-6 -6 12 12"
      width="12"
      height="12"
      role="img"
      :aria-label="bare ? word : undefined"
      :aria-hidden="!bare"
    >
      <circle v-if="kind === 'backed'" r="4.6" fill="currentColor" />
      <g v-else-if="kind === 'backed_at_one_tone_only'">
        <circle r="4.2" fill="none" stroke="currentColor" stroke-width="1.4" />
        <rect x="-1.6" y="-4" width="3.2" height="8" fill="currentColor" />
      </g>
      <path v-else-if="kind === 'short'" d="M-5 -4H5L0 5Z" fill="currentColor" />
      <path
        v-else-if="kind === 'too_close'"
        d="M0 -5L5 0L0 5L-5 0Z"
        fill="none"
        stroke="currentColor"
        stroke-width="1.8"
      />
      <g v-else-if="kind === 'backed_above_rated_voltage_only'" fill="none" stroke="currentColor" stroke-width="1.8">
        <path :fill="passes ? 'currentColor' : 'none'" d="M-4.5 1.5L0 -3.5L4.5 1.5M-4.5 4.8H4.5" />
      </g>
      <path
        v-else-if="kind === 'estimated'"
        d="M-5 1.5C-3 -2.5 -1.5 -2.5 0 0S3 2.5 5 -1.5"
        fill="none"
        stroke="currentColor"
        stroke-width="1.8"
      />
      <path v-else-if="kind === 'conflicts'" d="M-4 -4L4 4M4 -4L-4 4" stroke="currentColor" stroke-width="1.8" />
      <circle v-else r="4" fill="none" stroke="currentColor" stroke-width="1.3" stroke-dasharray="2 2" />
    </svg>
    <span v-if="doubted && bare" class="doubted" aria-hidden="true">?</span>
    <span v-if="!bare">{{ word }}</span>
  </span>
</template>

<style scoped>
.verdict {
  display: inline-flex;
  align-items: baseline;
  gap: 6px;
  white-space: nowrap;
}
.doubted {
  margin-left: -6px;
  font: 600 12px/1 var(--mono);
  color: var(--doubt);
  transform: translateY(-4px);
}
.verdict svg {
  flex: none;
  transform: translateY(1px);
}
.verdict[data-kind='backed'],
.verdict[data-kind='backed_at_one_tone_only'] {
  color: var(--certified);
}
.verdict[data-kind='short'],
.verdict[data-kind='conflicts'] {
  color: var(--danger);
}
.verdict[data-kind='too_close'],
.verdict[data-kind='backed_above_rated_voltage_only'],
.verdict[data-kind='estimated'] {
  color: var(--doubt);
}
.verdict[data-kind='no_evidence'] {
  color: var(--ink-2);
}
</style>
