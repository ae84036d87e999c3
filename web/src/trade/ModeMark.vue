<script setup lang="ts">
// A mode as its own line: certified solid, uncertified hatched, burst a thin line with an end tick, a proof held up to a mark.
import { useId } from 'vue'
import type { Mode } from '../api/types'
import { MODE_WORDS } from './format'

defineProps<{
  mode: Mode
  /** The mode stands in words beside it. */
  named?: boolean
}>()
const hatch = useId()
</script>

<template>
  <svg
    width="20"
    height="10"
    class="mode"
    :data-mode="mode"
    :role="named ? undefined : 'img'"
    :aria-label="named ? undefined : MODE_WORDS[mode]"
    :aria-hidden="named || undefined"
  >
    <defs v-if="mode === 'uncertified'">
      <pattern :id="hatch" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" x2="0" y1="0" y2="4" stroke="currentColor" stroke-width="2.4" />
      </pattern>
    </defs>
    <rect v-if="mode === 'certified'" y="1" width="20" height="8" fill="currentColor" />
    <rect
      v-else-if="mode === 'uncertified'"
      x="0.5"
      y="1.5"
      width="19"
      height="7"
      :fill="`url(#${hatch})`"
      stroke="currentColor"
    />
    <path
      v-else-if="mode === 'proof'"
      d="M0.9 1V9M0.9 5H14M19.1 1V9M11 1.5L14.5 5L11 8.5"
      fill="none"
      stroke="currentColor"
      stroke-width="1.8"
    />
    <path v-else d="M0 5H18.5M18.5 0.5V9.5" stroke="currentColor" stroke-width="1.8" />
  </svg>
</template>

<style scoped>
.mode {
  flex: none;
  vertical-align: -1px;
}
[data-mode='certified'],
[data-mode='proof'] {
  color: var(--certified);
}
[data-mode='uncertified'] {
  color: var(--uncertified);
}
[data-mode='burst'] {
  color: var(--burst);
}
</style>
