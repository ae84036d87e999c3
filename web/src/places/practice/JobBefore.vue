<script setup lang="ts">
// What was found before power: clamp, volts, warmth, gains and loads.
import { computed } from 'vue'
import type { PracticeJobView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import { decibels as signed, hertz } from '../../trade/format'

const props = defineProps<{ job: PracticeJobView }>()
type Gain = PracticeJobView['before']['gains'][number]
type Load = PracticeJobView['before']['loads'][number]
const before = computed(() => props.job.before)
const gains = computed<Column<Gain>[]>(() => [
  { key: 'channel', head: 'Channel', text: (g) => String(g.channel), unsorted: true },
  {
    key: 'gain',
    head: `Gain at ${hertz(before.value.tone_hz)}`,
    unit: 'dB',
    num: true,
    text: (g) => figure(g.gain_db, 2),
    unsorted: true,
  },
  {
    key: 'beside',
    head: `at ${hertz(before.value.beside_hz)}`,
    unit: 'dB',
    num: true,
    text: (g) => figure(g.beside_db, 2),
    unsorted: true,
  },
])
const LOADS: Column<Load>[] = [
  { key: 'number', head: 'Load on', text: (l) => String(l.number), unsorted: true },
  { key: 'plan', head: 'Planned', unit: 'Ω', num: true, text: (l) => figure(l.nominal_ohms, 0), unsorted: true },
  { key: 'before', head: 'Before', unit: 'Ω', num: true, text: (l) => figure(l.before_ohms, 2), unsorted: true },
  { key: 'after', head: 'After the runs', unit: 'Ω', num: true, text: (l) => figure(l.after_ohms, 2), unsorted: true },
]
</script>

<template>
  <section id="before" class="panel">
    <h2>Before power</h2>
    <dl class="facts">
      <div>
        <dt>Clamp, amplifier off</dt>
        <dd class="mono">{{ signed(before.clamp_indicates, 1) }} A</dd>
      </div>
      <div>
        <dt>Zero that is taken off</dt>
        <dd class="mono">{{ signed(before.clamp_zero, 1) }} A</dd>
      </div>
      <div>
        <dt>Terminals, on, at rest</dt>
        <dd class="mono">{{ figure(before.start_volts, 2) }} V</dd>
      </div>
      <div>
        <dt>Heat sink</dt>
        <dd class="mono">{{ figure(before.sink_c, 0) }} °C</dd>
      </div>
    </dl>
    <div class="pair">
      <DataTable :id="(l) => l.number" name="Loads" :rows="before.loads" :columns="LOADS" plain />
      <DataTable :id="(g) => g.channel" name="Gains" :rows="before.gains" :columns="gains" plain />
    </div>
  </section>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(130px, 1fr));
  gap: 6px 16px;
  margin: 6px 0 10px;
}
.facts dt {
  font-size: 13px;
  color: var(--ink-2);
}
.facts dd {
  margin: 0;
  font-size: 17px;
}
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(300px, 100%), 1fr));
  gap: 10px 24px;
  align-items: start;
}
</style>
