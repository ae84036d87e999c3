<script setup lang="ts">
// What a plan is made by: modes, order, loading, supply, tones, bursts, dwell.
import type { Mode, PlanView } from '../../api/types'
import { BURSTS } from './planDraft'
import type { Draft } from './planDraft'
import { MODE_WORDS } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'

const props = defineProps<{ draft: Draft; plan: PlanView | undefined; benches: string[] }>()
const emit = defineEmits<{ wish: [name: keyof Draft, value: Draft[keyof Draft]] }>()
const MODES: Mode[] = ['certified', 'uncertified', 'burst']
const TONES = [1000, 40, 50]

function toggle(mode: Mode) {
  const chosen = props.draft.modes.includes(mode)
    ? props.draft.modes.filter((m) => m !== mode)
    : MODES.filter((m) => m === mode || props.draft.modes.includes(m))
  emit('wish', 'modes', chosen)
}
const toned = (group: string, bass: boolean) => props.draft.tones[group] ?? (bass ? 40 : 1000)
const burst = (group: string, bass: boolean) => props.draft.bursts[group] ?? (bass ? '40 Hz' : '1 kHz')
const value = (event: Event) => (event.target as HTMLSelectElement | HTMLInputElement).value

function setVolts(event: Event) {
  const volts = Number(value(event))
  if (Number.isFinite(volts) && volts > 0) emit('wish', 'held_volts', volts)
}
function setTone(group: string, event: Event) {
  const hz = Number(value(event))
  if (Number.isFinite(hz) && hz >= 10) emit('wish', 'tones', { ...props.draft.tones, [group]: hz })
}
</script>

<template>
  <form class="wishes" aria-label="What the plan is made by" @submit.prevent>
    <fieldset>
      <legend>Modes</legend>
      <label v-for="mode in MODES" :key="mode" class="check">
        <input type="checkbox" :checked="draft.modes.includes(mode)" @change="toggle(mode)" />
        <ModeMark :mode="mode" named /> {{ MODE_WORDS[mode] }}
      </label>
    </fieldset>
    <label v-if="benches.length > 1" class="field tall">
      Bench
      <select :value="draft.bench ?? benches[0]" @change="emit('wish', 'bench', value($event))">
        <option v-for="name in benches" :key="name">{{ name }}</option>
      </select>
    </label>
    <label class="field tall">
      Order
      <select :value="draft.order" @change="emit('wish', 'order', value($event) as Draft['order'])">
        <option value="by_load">All modes of one load first</option>
        <option value="by_mode">All loads of one mode first</option>
      </select>
    </label>
    <label v-if="plan?.groups.some((g) => g.bridged_loads.length)" class="field tall">
      Loads
      <select :value="draft.loading" @change="emit('wish', 'loading', value($event) as Draft['loading'])">
        <option value="each">A load on every channel</option>
        <option value="pairs">Bridged pairs, 2R for R</option>
      </select>
    </label>
    <label class="field tall">
      Supply
      <select :value="draft.policy" @change="emit('wish', 'policy', value($event) as Draft['policy'])">
        <option value="held">Held at a voltage</option>
        <option value="bank">Floating bank</option>
        <option value="three_points">12.5, 13.8 and 14.4 V</option>
      </select>
    </label>
    <label v-if="draft.policy === 'held'" class="field">
      Held at, V
      <input
        type="number"
        step="0.1"
        :min="plan?.supply_low_volts"
        :max="plan?.supply_high_volts"
        :value="draft.held_volts ?? 14.4"
        @change="setVolts"
      />
    </label>
    <template v-for="g in plan?.groups ?? []" :key="g.name">
      <label class="field">
        Tone, {{ g.name }}, Hz
        <input
          type="number"
          min="10"
          max="20000"
          :list="`tones-${g.name}`"
          :value="toned(g.name, g.bass)"
          @change="setTone(g.name, $event)"
        />
        <datalist :id="`tones-${g.name}`"><option v-for="t in TONES" :key="t" :value="t" /></datalist>
      </label>
      <label v-if="draft.modes.includes('burst')" class="field">
        Burst, {{ g.name }}
        <select
          :value="burst(g.name, g.bass)"
          @change="emit('wish', 'bursts', { ...draft.bursts, [g.name]: value($event) })"
        >
          <option v-for="b in BURSTS" :key="b">{{ b }}</option>
        </select>
      </label>
    </template>
    <label class="field tall">
      Dwell
      <select :value="draft.dwell" @change="emit('wish', 'dwell', value($event) as Draft['dwell'])">
        <option value="standard">Standard, 1 s</option>
        <option value="long">Long, 30 s</option>
        <option value="soak">Soak, 5 min</option>
      </select>
    </label>
    <label class="field tall">
      THD+N limit, %
      <input
        :value="draft.thd_n_limit"
        type="number"
        step="any"
        min="0.01"
        max="10"
        @change="emit('wish', 'thd_n_limit', Number(value($event)) || 1)"
      />
    </label>
    <label class="check wide">
      <input type="checkbox" :checked="draft.exploratory" @change="emit('wish', 'exploratory', !draft.exploratory)" />
      Explore below the rated load: burst only, not evidence
    </label>
  </form>
</template>

<style scoped>
.wishes {
  display: grid;
  gap: 9px;
}
fieldset {
  border: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 3px;
}
legend {
  padding: 0;
  font-size: 13px;
  color: var(--ink-2);
}
.field {
  display: grid;
  grid-template-columns: 112px 1fr;
  align-items: center;
  gap: 8px;
  font-size: 14px;
}
.tall {
  grid-template-columns: 1fr;
  gap: 2px;
}
.check {
  display: flex;
  gap: 8px;
  align-items: center;
}
.check input {
  accent-color: var(--certified);
}
.wide {
  align-items: baseline;
  font-size: 14px;
  line-height: 1.3;
}
</style>
