<script setup lang="ts">
// A load network as it is wired: every resistor with its value and what it takes of the wanted power.
import { computed } from 'vue'
import type { NetworkView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { watts } from '../../trade/format'
import { BOX, pictureOf } from './networkLayout'

const props = defineProps<{ network: NetworkView }>()
const picture = computed(() => pictureOf(props.network))
const name = computed(() => (props.network.kind === 'one' ? 'One resistor' : props.network.how))
</script>

<template>
  <figure>
    <svg
      :viewBox="`-1 -1 ${picture.width + 2} ${picture.height + 2}`"
      :width="picture.width"
      :height="picture.height"
      preserveAspectRatio="xMinYMid"
      role="img"
      :aria-label="name"
    >
      <line v-for="(w, i) in picture.wires" :key="i" v-bind="w" class="wire" />
      <g v-for="(r, i) in picture.resistors" :key="`r${i}`" :transform="`translate(${r.x} ${r.y})`">
        <rect :width="BOX.width" :height="BOX.height" class="box" />
        <text :x="BOX.width / 2" y="14">{{ r.network.ohms }} Ω</text>
        <text :x="BOX.width / 2" y="28" class="share">{{ watts(r.network.watts) }} W</text>
      </g>
    </svg>
    <figcaption>
      <strong>{{ figure(network.ohms, 3) }} Ω</strong> stands {{ figure(network.most_watts, 0) }} W
      <span class="quiet">{{ name }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  display: grid;
  grid-template-columns: 330px 1fr;
  align-items: center;
  gap: 20px;
  margin: 0;
  padding: 12px 0;
  border-bottom: 1px solid var(--rule);
}
svg {
  max-width: 100%;
}
.wire {
  stroke: var(--ink-2);
  stroke-width: 1.4;
}
.box {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.4;
}
text {
  font: 600 13px var(--mono);
  text-anchor: middle;
  fill: var(--ink);
}
.share {
  font-weight: 400;
  font-size: 12px;
  fill: var(--supply);
}
figcaption .quiet {
  display: block;
  font-size: 14px;
}
</style>
