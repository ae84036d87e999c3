<script setup lang="ts">
// A bench as it is wired: who fills each role, which output goes to which input, what is still missing.
import { computed } from 'vue'
import { roleName, wiresLayout } from './benchRoles'
import type { Wired } from './benchRoles'

const props = defineProps<{ made: Wired }>()
const picture = computed(() => wiresLayout(props.made))
const through = computed(() => (props.made.volts_per_unit === 1 ? '' : `, ${props.made.volts_per_unit} : 1`))
const told = computed(
  () =>
    props.made.stations.map((one) => `${roleName(one.role)}: ${one.title}`).join('; ') +
    '. ' +
    props.made.wires.map((one) => `Channel ${one.channel} to input ${one.input}`).join(', '),
)
const short = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text)
</script>

<template>
  <svg :viewBox="`-2 0 ${picture.width + 4} ${picture.height}`" role="img" :aria-label="told">
    <!-- Source to amplifier; amplifier to loads and recorder, a line a channel. -->
    <path
      class="wire"
      :d="`M170 ${picture.amplifier.y + picture.amplifier.height / 2} H${picture.amplifier.x}`"
      marker-end="url(#tip)"
    />
    <defs>
      <marker
        id="tip"
        viewBox="0 0 8 8"
        refX="7"
        refY="4"
        markerUnits="userSpaceOnUse"
        markerWidth="9"
        markerHeight="9"
        orient="auto"
      >
        <path d="M0 0 L8 4 L0 8 z" class="tip" />
      </marker>
    </defs>
    <g v-for="line in picture.lines" :key="line.channel">
      <path class="wire" :d="`M${line.from} ${line.y} H${line.to - 44}`" />
      <text :x="line.from + 6" :y="line.y - 4" class="small">
        ch {{ line.channel }} → in {{ line.input }}{{ through }}
      </text>
    </g>
    <path
      v-if="picture.lines.length"
      class="wire"
      :d="`M436 ${picture.lines[0]!.y} V${picture.lines.at(-1)!.y} M436 ${picture.boxes[1]!.y + 23} V${picture.boxes[2]!.y + 23} M436 ${picture.boxes[1]!.y + 23} H480 M436 ${picture.boxes[2]!.y + 23} H480`"
    />
    <!-- Supply through the probe to the amplifier. -->
    <path
      class="feed"
      :d="`M${picture.boxes[3]!.x + 170} ${picture.boxes[3]!.y + 23} H${picture.boxes[4]!.x} M${picture.boxes[4]!.x + 85} ${picture.boxes[4]!.y} V${picture.amplifier.y + picture.amplifier.height}`"
      marker-end="url(#tip)"
    />
    <path
      class="watched"
      :d="`M${picture.boxes[5]!.x + 40} ${picture.boxes[5]!.y} V${picture.boxes[5]!.y - 22} H350 V${picture.amplifier.y + picture.amplifier.height}`"
    />
    <g>
      <rect v-bind="picture.amplifier" class="amplifier" />
      <text
        :x="picture.amplifier.x + 60"
        :y="picture.amplifier.y + picture.amplifier.height / 2 + 4"
        class="middle name"
      >
        Amplifier
      </text>
    </g>
    <g v-for="one in picture.boxes" :key="one.role">
      <rect :x="one.x" :y="one.y" :width="one.width" :height="one.height" class="box" :class="{ empty: !one.held }" />
      <text :x="one.x + 10" :y="one.y + 19" class="name">{{ roleName(one.role) }}</text>
      <text :x="one.x + 10" :y="one.y + 36" class="small">
        {{ one.held ? short(one.held.title || one.held.address, 24) : one.role === 'current' ? 'none' : 'nobody yet' }}
      </text>
    </g>
    <text v-if="picture.more > 0" :x="378" :y="picture.amplifier.y + picture.amplifier.height - 6" class="small">
      {{ picture.more }} more
    </text>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  max-width: 720px;
  height: auto;
}
.wire,
.feed {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.3;
}
.feed {
  stroke-width: 2.4;
}
.watched {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.2;
  stroke-dasharray: 2 4;
}
.tip {
  fill: var(--ink-2);
}
.box,
.amplifier {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.3;
}
.box.empty {
  stroke: var(--ink-2);
  stroke-dasharray: 4 4;
}
text {
  fill: var(--ink);
  font-size: 14px;
}
.name {
  font-weight: 600;
}
.small {
  font-size: 12px;
  fill: var(--ink-2);
}
.middle {
  text-anchor: middle;
}
</style>
