<script setup lang="ts">
// How a load stands, as a shape with its word; the colour only repeats what shape and word say.
import { STANDING_WORDS } from './words'
import type { Standing } from './words'

defineProps<{ standing: Standing; bare?: boolean; word?: string }>()
</script>

<template>
  <span class="mark-word standing" :data-standing="standing" :title="bare ? STANDING_WORDS[standing] : undefined">
    <svg
      viewBox="-7 -7 14 14"
      width="14"
      height="14"
      :role="bare ? 'img' : undefined"
      :aria-label="bare ? STANDING_WORDS[standing] : undefined"
      :aria-hidden="!bare"
    >
      <path v-if="standing === 'backed'" d="M-5.5 0.5L-1.5 4.5L5.5 -4" class="line" />
      <g v-else-if="standing === 'look_again'">
        <path d="M-6 0C-3 -4.6 3 -4.6 6 0C3 4.6 -3 4.6 -6 0Z" class="line thin" />
        <circle r="2" class="full" />
      </g>
      <path v-else-if="standing === 'short'" d="M-5.5 -5H5.5L0 5.5Z" class="full" />
      <g v-else-if="standing === 'still_printed'">
        <path d="M-4.5 -6H2L4.5 -3.5V6H-4.5Z" class="line thin" />
        <path d="M-6 5L6 -5" class="line" />
      </g>
      <path v-else-if="standing === 'sent_back'" d="M5 4.5V1H-4.5M-1.5 -3L-5 1L-1.5 5" class="line" />
      <path v-else-if="standing === 'to_sign'" d="M-6 5.5H6M-4.5 2L3.5 -6L5.5 -4L-2.5 3.5Z" class="line thin" />
      <path v-else-if="standing === 'to_publish'" d="M-6 5.5H6M0 3V-6M-4 -2L0 -6L4 -2" class="line thin" />
      <path v-else-if="standing === 'draft'" d="M-5 -4.5H5M-5 0H5M-5 4.5H1" class="line thin" />
      <g v-else-if="standing === 'not_printed'">
        <path d="M-4.5 -6H2L4.5 -3.5V6H-4.5Z" class="line thin dashed" />
      </g>
      <path v-else-if="standing === 'unrated'" d="M-4.5 -6H2L4.5 -3.5V6H-4.5ZM-2 1.5H2" class="line thin" />
      <circle v-else r="1.5" class="full" />
    </svg>
    <span v-if="!bare">{{ word ?? STANDING_WORDS[standing] }}</span>
  </span>
</template>

<style scoped src="./mark.css"></style>
<style scoped>
.mark-word .thin {
  stroke-width: 1.5;
}
.standing[data-standing='backed'] {
  color: var(--certified);
}
.standing[data-standing='short'],
.standing[data-standing='still_printed'] {
  color: var(--danger);
}
.standing[data-standing='look_again'],
.standing[data-standing='sent_back'] {
  color: var(--doubt);
}
.standing[data-standing='to_sign'],
.standing[data-standing='to_publish'],
.standing[data-standing='draft'] {
  color: var(--ink);
}
</style>
