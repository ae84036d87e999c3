<script setup lang="ts">
// How a bench is wired: which channels or bridged pair go to which load, where source, supply, fuse and clamp sit.
// Drawn from the plan alone. Connections that are read now are in ink, companions are quiet.
import { computed } from 'vue'
import type { ConnectionView } from '../api/types'
import { channelNames, ohms } from './format'

const props = defineProps<{
  connections: readonly ConnectionView[]
  /** What each load is made of, in the order of the connections; empty where the bench has nothing. */
  boxes: readonly string[]
  /** First channels of the connections that are read now; all where not given. */
  read?: readonly number[]
  supply: string
}>()

const ROW = 46
const TOP = 26
const AMP = { left: 262, right: 372 }
const BOX = { left: 500, right: 676 }

const channels = computed(() => props.connections.flatMap((link) => link.channels).sort((a, b) => a - b))
const height = computed(() => Math.max(208, TOP + channels.value.length * ROW + 14))
/** Where a channel's terminals are: + above −. */
const terminals = (channel: number) => {
  const y = TOP + channels.value.indexOf(channel) * ROW + 12
  return { plus: y, minus: y + 18 }
}
const bridged = computed(() => props.connections.some((link) => link.channels.length > 1))
const loads = computed(() =>
  props.connections.map((link, index) => {
    const first = terminals(link.channels[0]!)
    const last = terminals(link.channels.at(-1)!)
    const made = props.boxes[index] ?? ''
    return {
      key: link.channels.join('-'),
      read: !props.read || props.read.includes(link.channels[0]!),
      plus: first.plus,
      minus: last.minus,
      middle: (first.plus + last.minus) / 2,
      ohms: ohms(link.ohms),
      made: made.endsWith('box') ? '' : made || 'no box makes this',
      pair: link.channels.length > 1,
    }
  }),
)
const label = computed(
  () =>
    'Wiring: ' +
    props.connections
      .map((link) => {
        const what = link.channels.length > 1 ? 'channels' : 'channel'
        const how = link.channels.length > 1 ? ' bridged' : ''
        return `${what} ${channelNames(link.channels)}${how} into ${ohms(link.ohms)}`
      })
      .join(', ') +
    `; supply ${props.supply}, the clamp around its positive lead`,
)
</script>

<template>
  <figure class="wiring">
    <svg :viewBox="`0 0 690 ${height}`" role="img" :aria-label="label">
      <!-- the source, into every channel's input -->
      <rect x="20" y="26" width="118" height="34" class="box" />
      <text x="79" y="48" class="mid">Source</text>
      <path :d="`M138 43H${AMP.left}`" class="signal" />
      <text x="200" y="36" class="mid small">{{ bridged ? 'one input per pair' : 'every input' }}</text>

      <!-- the supply: fuse and clamp in its positive lead -->
      <rect x="20" :y="height - 92" width="118" height="66" class="box" />
      <text x="79" :y="height - 64" class="mid">Supply</text>
      <text x="79" :y="height - 44" class="mid small">{{ supply }}</text>
      <path :d="`M138 ${height - 76}H160M184 ${height - 76}H${AMP.left}`" class="lead plus" />
      <rect x="160" :y="height - 82" width="24" height="12" class="fuse" />
      <text x="172" :y="height - 88" class="mid small">fuse</text>
      <circle cx="218" :cy="height - 76" r="11" class="clamp" />
      <text x="218" :y="height - 92" class="mid small">clamp</text>
      <path :d="`M138 ${height - 40}H${AMP.left}`" class="lead" />
      <text :x="AMP.left - 8" :y="height - 80" class="end small">+</text>
      <text :x="AMP.left - 8" :y="height - 44" class="end small">−</text>

      <!-- the amplifier and its terminals -->
      <rect :x="AMP.left" y="10" :width="AMP.right - AMP.left" :height="height - 20" class="amp" />
      <text :x="AMP.left + 10" y="30" class="small">Amplifier</text>
      <g v-for="channel in channels" :key="channel">
        <text :x="AMP.right - 26" :y="terminals(channel).plus + 14" class="end">{{ channel }}</text>
        <circle :cx="AMP.right" :cy="terminals(channel).plus" r="4" class="terminal" />
        <circle :cx="AMP.right" :cy="terminals(channel).minus" r="4" class="terminal" />
        <text :x="AMP.right - 8" :y="terminals(channel).plus + 4" class="end small">+</text>
        <text :x="AMP.right - 8" :y="terminals(channel).minus + 4" class="end small">−</text>
      </g>

      <!-- the loads -->
      <g v-for="load in loads" :key="load.key" :class="{ companion: !load.read }">
        <path :d="`M${AMP.right} ${load.plus}H${BOX.left}`" class="wire plus" />
        <path :d="`M${AMP.right} ${load.minus}H${BOX.left}`" class="wire" />
        <rect
          :x="BOX.left"
          :y="load.plus - 8"
          :width="BOX.right - BOX.left"
          :height="load.minus - load.plus + 16"
          class="box"
        />
        <text :x="BOX.left + 14" :y="load.middle + (load.made && load.pair ? -2 : 5)" class="ohms">
          {{ load.ohms }}
        </text>
        <text
          v-if="load.made"
          :x="load.pair ? BOX.left + 14 : BOX.left + 66"
          :y="load.pair ? load.middle + 16 : load.middle + 5"
          class="small"
        >
          {{ load.made }}
        </text>
        <text v-if="load.pair" x="436" :y="load.middle + 5" class="mid small">bridge switch on</text>
        <text v-if="!load.read" :x="BOX.right - 10" :y="load.middle + 5" class="end small">driven, not read</text>
      </g>
    </svg>
    <figcaption v-if="bridged" class="warn">
      Bridged outputs are not ground-referenced: an earthed oscilloscope probe shorts them. Use a differential probe.
    </figcaption>
  </figure>
</template>

<style scoped>
.wiring {
  margin: 0;
}
svg {
  display: block;
  width: 100%;
  max-width: 690px;
  height: auto;
  font-family: var(--text);
  font-size: 14px;
}
text {
  fill: var(--ink);
}
.mid {
  text-anchor: middle;
}
.end {
  text-anchor: end;
}
.small {
  font-size: 12px;
  fill: var(--ink-2);
}
.ohms {
  font-weight: 600;
}
.box,
.amp {
  fill: var(--sheet);
  stroke: var(--ink);
}
.amp {
  stroke-width: 1.8;
}
.terminal {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.4;
}
.wire,
.signal,
.lead {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
}
.wire.plus {
  stroke-width: 2.6;
}
.signal {
  stroke: var(--claim);
}
.lead,
.fuse,
.clamp {
  stroke: var(--supply);
}
.lead {
  stroke-width: 3;
}
.fuse {
  fill: var(--sheet);
  stroke-width: 1.8;
}
.clamp {
  fill: none;
  stroke-width: 3;
  stroke-dasharray: 58 12;
}
.companion .box,
.companion .wire {
  stroke: var(--rule-strong);
}
.companion .ohms {
  fill: var(--ink-2);
  font-weight: 400;
}
.warn {
  margin-top: 6px;
  padding: 6px 10px;
  background: var(--warn-ground);
  color: var(--warn-ink);
  font-size: 14px;
}
</style>
