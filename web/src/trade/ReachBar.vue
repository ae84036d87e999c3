<script setup lang="ts">
// One load's reach: solid to the certified watts, a faint band of ± U at its end, hatched on to the uncertified, a
// thin line with an end tick to the burst, a notch at each claim with its verdict's shape above. `scale` is the watts
// at the right edge; bars of one chart share it.
import { computed, useId } from 'vue'
import type { ReachView } from '../api/types'
import { VERDICT_WORDS, reachInWords } from './format'
import VerdictMark from './VerdictMark.vue'

const props = defineProps<{ reach: ReachView; scale: number }>()
const at = (watts: number) => `${Math.min(100, (100 * watts) / props.scale)}%`
const words = computed(() => reachInWords(props.reach))
/** Burst and “maximum” figures are shown where they fit; far beyond the bar they would squeeze all the rest. */
const shown = computed(() =>
  props.reach.notches.filter((notch) => notch.kind === 'continuous' || notch.watts <= props.scale),
)
const hatch = useId()
/**
 * Shapes of claims that lie close together stand beside each other, in their order, around the middle of the crowd; their
 * notches stay where they are.
 */
const CLOSE = 0.05
const APART = 14
const stands = computed(() => {
  const byWatts = [...shown.value].sort((a, b) => a.watts - b.watts)
  const crowds: (typeof byWatts)[] = []
  for (const notch of byWatts) {
    const last = crowds.at(-1)?.at(-1)
    if (last && notch.watts - last.watts < CLOSE * props.scale) crowds.at(-1)!.push(notch)
    else crowds.push([notch])
  }
  return new Map(
    crowds.flatMap((crowd) => {
      const middle = (crowd[0]!.watts + crowd.at(-1)!.watts) / 2
      return crowd.map((notch, i) => [
        notch.claim_id,
        { left: at(middle), transform: `translateX(${(i - (crowd.length - 1) / 2) * APART}px)` },
      ])
    }),
  )
})
const certified = computed(() => props.reach.certified_watts ?? 0)
const spread = computed(() => props.reach.expanded_watts ?? 0)
</script>

<template>
  <div class="reach" role="img" :aria-label="words" :title="words">
    <svg width="100%" height="31" aria-hidden="true">
      <defs>
        <pattern :id="hatch" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" x2="0" y1="0" y2="5" stroke="var(--uncertified)" stroke-width="2.6" />
        </pattern>
      </defs>
      <line x1="0" x2="100%" y1="25.5" y2="25.5" class="ground" />
      <rect
        v-if="reach.uncertified_watts !== null && reach.uncertified_watts > certified"
        :x="at(certified)"
        y="14.5"
        height="9"
        :width="at(reach.uncertified_watts - certified)"
        :fill="`url(#${hatch})`"
        class="hatched"
      />
      <g v-if="reach.burst_watts !== null" class="burst">
        <line x1="0" :x2="at(reach.burst_watts)" y1="28.5" y2="28.5" />
        <line :x1="at(reach.burst_watts)" :x2="at(reach.burst_watts)" y1="25.5" y2="31" />
      </g>
      <template v-if="reach.certified_watts !== null">
        <rect x="0" y="14" height="10" :width="at(certified)" :class="reach.at_limit ? 'solid' : 'stopped'" />
        <rect :x="at(certified - spread)" y="11" height="14" :width="at(2 * spread)" class="band" />
        <line :x1="at(certified)" :x2="at(certified)" y1="12" y2="25" class="end" />
      </template>
      <line
        v-for="n in shown"
        :key="n.claim_id"
        :x1="at(n.watts)"
        :x2="at(n.watts)"
        y1="11"
        y2="27"
        class="notch"
        :data-kind="n.kind"
      />
    </svg>
    <span
      v-for="n in shown"
      :key="n.claim_id"
      class="shape"
      :style="stands.get(n.claim_id)"
      :title="`${n.watts} W – ${n.document}: ${VERDICT_WORDS[n.verdict]}${n.doubted ? ', in doubt' : ''}`"
    >
      <VerdictMark :kind="n.verdict" :doubted="n.doubted" bare />
    </span>
  </div>
</template>

<style scoped>
.reach {
  position: relative;
  height: 31px;
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
.hatched {
  stroke: var(--uncertified);
}
.burst line {
  stroke: var(--burst);
  stroke-width: 1.8;
}
.notch {
  stroke: var(--claim);
  stroke-width: 2.5;
}
.notch:not([data-kind='continuous']) {
  stroke-dasharray: 3 2;
}
.shape {
  position: absolute;
  top: -6px;
  margin-left: -6px;
  line-height: 1;
}
</style>
