<script setup lang="ts">
// One load's reach: solid to the certified watts, a faint band of ± U at its end, a notch at each claim with its
// verdict's shape above. `scale` is the watts at the right edge; bars of one chart share it.
import { computed } from 'vue'
import type { ReachView } from '../api/types'
import { VERDICT_WORDS, reachInWords } from './format'
import VerdictMark from './VerdictMark.vue'

const props = defineProps<{ reach: ReachView; scale: number }>()
const at = (watts: number) => `${Math.min(100, (100 * watts) / props.scale)}%`
const words = computed(() => reachInWords(props.reach))
const shown = computed(() => props.reach.notches.filter((notch) => notch.kind === 'continuous'))
/** Shapes of claims that lie close together stand beside each other; their notches stay where they are. */
const CLOSE = 0.05
const nudges = computed(() => {
  const byWatts = [...shown.value].sort((a, b) => a.watts - b.watts)
  return new Map(
    byWatts.map((notch, index) => {
      const near = (other?: { watts: number }) => other && Math.abs(other.watts - notch.watts) < CLOSE * props.scale
      return [notch.claim_id, (near(byWatts[index - 1]) ? 7 : 0) - (near(byWatts[index + 1]) ? 7 : 0)]
    }),
  )
})
const certified = computed(() => props.reach.certified_watts ?? 0)
const spread = computed(() => props.reach.expanded_watts ?? 0)
</script>

<template>
  <div class="reach" role="img" :aria-label="words" :title="words">
    <svg width="100%" height="27" aria-hidden="true">
      <line x1="0" x2="100%" y1="25.5" y2="25.5" class="ground" />
      <template v-if="reach.certified_watts !== null">
        <rect x="0" y="14" height="10" :width="at(certified)" :class="reach.at_limit ? 'solid' : 'stopped'" />
        <rect :x="at(certified - spread)" y="11" height="14" :width="at(2 * spread)" class="band" />
        <line :x1="at(certified)" :x2="at(certified)" y1="12" y2="25" class="end" />
      </template>
      <line v-for="n in shown" :key="n.claim_id" :x1="at(n.watts)" :x2="at(n.watts)" y1="11" y2="28" class="notch" />
    </svg>
    <span
      v-for="n in shown"
      :key="n.claim_id"
      class="shape"
      :style="{ left: at(n.watts), transform: `translateX(${nudges.get(n.claim_id) ?? 0}px)` }"
      :title="`${n.watts} W – ${n.document}: ${VERDICT_WORDS[n.verdict]}`"
    >
      <VerdictMark :kind="n.verdict" bare />
    </span>
  </div>
</template>

<style scoped>
.reach {
  position: relative;
  height: 27px;
}
svg {
  display: block;
  overflow: visible;
}
.ground {
  stroke: var(--rule);
}
.solid {
  fill: var(--certified);
}
.stopped {
  fill: none;
  stroke: var(--certified);
  stroke-dasharray: 3 2;
}
.band {
  fill: var(--certified-band);
}
.end {
  stroke: var(--certified);
  stroke-width: 1.5;
}
.notch {
  stroke: var(--claim);
  stroke-width: 2.5;
}
.shape {
  position: absolute;
  top: -6px;
  margin-left: -6px;
  line-height: 1;
}
</style>
