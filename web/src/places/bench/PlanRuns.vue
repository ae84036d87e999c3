<script setup lang="ts">
// The planned runs, grouped by wiring: what each asks of the bench, why it is there, and what stands in its way.
import { nextTick, ref } from 'vue'
import type { PlannedRunView, PlanView, RunIn } from '../../api/types'
import { figure } from '../../kit/quantity'
import { hertz, minutes, place, watts, wiringInWords } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import RunEditor from './RunEditor.vue'

const props = defineProps<{ plan: PlanView }>()
const emit = defineEmits<{
  move: [index: number, by: 1 | -1]
  drop: [index: number]
  edit: [index: number, run: RunIn]
}>()
/** Whose conditions are being changed, if any; Ctrl+Enter takes them over first. */
const open = ref<number | null>(null)
const editor = ref<InstanceType<typeof RunEditor>[]>()
defineExpose({ finish: () => open.value === null || !!editor.value?.[0]?.done() })
const rows = ref<HTMLElement[]>([])

const startsWiring = (index: number) =>
  index === 0 || props.plan.runs[index - 1]!.wiring !== props.plan.runs[index]!.wiring
const hottest = (run: PlannedRunView) =>
  run.heat.reduce<PlannedRunView['heat'][number] | null>(
    (most, heat) => ((heat.celsius ?? 0) > (most?.celsius ?? -1) ? heat : most),
    null,
  )
const wired = (number: number) => props.plan.wirings.find((w) => w.number === number)
const inWords = (number: number) => wiringInWords(wired(number)?.connections ?? [])

async function keyed(event: KeyboardEvent, index: number) {
  if (event.target !== event.currentTarget) return
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (step) {
    event.preventDefault()
    if (event.altKey) emit('move', index, step)
    await nextTick()
    rows.value[index + step]?.focus()
  } else if (event.key === 'Delete') {
    emit('drop', index)
  } else if (event.key === 'Enter' || event.key === 'e') {
    event.preventDefault()
    open.value = open.value === index ? null : index
  }
}
</script>

<template>
  <div class="scrolls" role="region" aria-label="Planned runs" tabindex="-1">
    <table class="figures runs">
      <thead>
        <tr>
          <th scope="col" class="num">#</th>
          <th scope="col">Run</th>
          <th scope="col" class="num">Supply<br />V</th>
          <th scope="col" class="num">Expected<br />W</th>
          <th scope="col" class="num">Current<br />A</th>
          <th scope="col" class="num">Loaded<br />V</th>
          <th scope="col" class="num">Fuses<br />%</th>
          <th scope="col" class="num">Load<br />°C</th>
          <th scope="col" class="num">Time<br />min</th>
          <th scope="col">Why</th>
          <th scope="col"><span class="visually-hidden">Change</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="(run, index) in plan.runs" :key="index">
          <tr v-if="startsWiring(index)" class="wiring">
            <th colspan="11" scope="rowgroup">
              <strong>Wiring {{ run.wiring }}</strong> <span class="quiet">{{ inWords(run.wiring) }}</span>
            </th>
          </tr>
          <tr
            :ref="(row) => (rows[index] = row as HTMLElement)"
            class="run"
            tabindex="0"
            :class="{ cannot: run.obstacles.length }"
            @keydown="keyed($event, index)"
            @dblclick="open = open === index ? null : index"
          >
            <td class="num quiet">{{ index + 1 }}</td>
            <td class="what">
              <ModeMark :mode="run.spec.mode" />
              <strong>{{ place(run.spec) }}</strong>
              <span class="quiet">{{ run.spec.group }} {{ run.spec.burst || hertz(run.spec.tone_hz) }}</span>
            </td>
            <td class="num">{{ figure(run.spec.supply_volts, 1) }}</td>
            <td class="num" :title="run.basis">{{ watts(run.watts) }}</td>
            <td class="num">{{ figure(run.amps, 0) }}</td>
            <td
              class="num"
              :title="`${figure(run.cable_volts, 2)} V and ${watts(run.cable_watts)} W are lost in the cable`"
            >
              {{ figure(run.volts_loaded, 2) }}
            </td>
            <td
              class="num"
              :title="`${figure(run.fuse_stress_percent, 0)} % of the shortest time in which a fuse may open`"
            >
              {{ figure(run.fuse_percent, 0) }}
            </td>
            <td class="num" :title="hottest(run) ? `${watts(hottest(run)!.watts)} W in ${hottest(run)!.boxes}` : ''">
              {{ figure(hottest(run)?.celsius, 0) }}
            </td>
            <td class="num">{{ figure(run.minutes + run.cooling_minutes, 1) }}</td>
            <td class="why">
              <span v-if="run.exploratory" class="mark">not evidence</span>
              {{ run.reason }}
            </td>
            <td class="acts">
              <button :disabled="index === 0" :aria-label="`Move run ${index + 1} up`" @click="emit('move', index, -1)">
                ↑
              </button>
              <button
                :disabled="index === plan.runs.length - 1"
                :aria-label="`Move run ${index + 1} down`"
                @click="emit('move', index, 1)"
              >
                ↓
              </button>
              <button :aria-label="`Change run ${index + 1}`" @click="open = open === index ? null : index">
                Change
              </button>
              <button :aria-label="`Drop run ${index + 1}`" @click="emit('drop', index)">Drop</button>
            </td>
          </tr>
          <tr v-for="o in run.obstacles" :key="o.code" class="obstacle">
            <td />
            <td colspan="10"><strong>The bench cannot stand this:</strong> {{ o.what }}. {{ o.remedy }}</td>
          </tr>
          <tr v-if="open === index" class="details">
            <td />
            <td colspan="10">
              <RunEditor
                ref="editor"
                :defaults="plan.defaults"
                :spec="run.spec"
                :groups="plan.groups"
                act="Change the run"
                @done="(emit('edit', index, $event), (open = null))"
                @cancel="open = null"
              />
              <p class="quiet">
                {{ run.basis }} · cable {{ figure(run.cable_volts, 2) }} V, {{ watts(run.cable_watts) }} W · fuses at
                {{ figure(run.fuse_percent, 0) }} % of their rating, {{ figure(run.fuse_stress_percent, 0) }} % of the
                shortest time in which they may open ·
                <template v-for="(h, i) in run.heat" :key="i">
                  {{ i ? ', ' : '' }}{{ h.connection.channels.join('+') }}: {{ watts(h.watts) }} W in
                  {{ h.boxes || `${h.connection.ohms} Ω` }} to {{ figure(h.celsius, 0) }} °C
                </template>
                · run {{ minutes(run.minutes) }}, cooling {{ minutes(run.cooling_minutes) }}
              </p>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.runs td {
  padding-top: 4px;
  padding-bottom: 4px;
  vertical-align: middle;
}
.wiring th {
  padding-top: 12px;
  color: var(--ink);
  font-size: 14px;
}
.wiring .quiet {
  margin-left: 8px;
  font-weight: 400;
}
.what {
  white-space: nowrap;
}
.what strong {
  margin: 0 7px 0 8px;
}
.what .quiet {
  font-size: 13px;
}
.why {
  font-size: 13px;
  line-height: 1.25;
  max-width: 200px;
}
.mark {
  border: 1px solid var(--doubt);
  color: var(--doubt);
  padding: 0 4px;
  font-size: 12px;
  white-space: nowrap;
}
.acts {
  white-space: nowrap;
  text-align: right;
}
.acts button {
  font: inherit;
  font-size: 13px;
  color: var(--ink-2);
  background: none;
  border: none;
  padding: 2px 4px;
  min-width: 26px;
  min-height: 26px;
  cursor: pointer;
}
.acts button:hover:enabled {
  color: var(--ink);
  text-decoration: underline;
}
.acts button:disabled {
  opacity: 0.35;
  cursor: default;
}
.run:hover td,
.run:focus td {
  background: var(--hover);
}
.run:focus {
  outline: 2px solid var(--certified);
  outline-offset: -2px;
}
.cannot td {
  border-bottom: none;
}
.obstacle td {
  color: var(--danger);
  font-size: 14px;
}
.details td {
  background: var(--sheet);
  font-size: 14px;
}
.details p {
  margin-top: 8px;
}
@media print {
  .acts {
    display: none;
  }
}
</style>
