<script setup lang="ts">
// How a unit's power follows its supply, load by load; what it says of other voltages is always marked an estimate.
import { computed, ref } from 'vue'
import type { VoltageFitView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import { place, watts } from '../../trade/format'
import VoltageChart from './VoltageChart.vue'
import WattsFigure from '../../trade/WattsFigure.vue'

const props = defineProps<{ fits: VoltageFitView[] }>()
const picked = ref(0)
const fit = computed(() => props.fits[Math.min(picked.value, props.fits.length - 1)])
const CHARACTERS = {
  regulated: 'regulated: the supply hardly matters',
  unregulated: 'unregulated: about the square of the voltage',
  '': '',
} as const
const sort = computed(() => CHARACTERS[fit.value?.character ?? ''])
interface Row {
  id: string
  volts: string
  watts: number
  u?: number | null
  attempt?: number
  how: string
}
const rows = computed<Row[]>(() => [
  ...(fit.value?.points ?? []).map((p) => ({
    id: `m${p.attempt_id}`,
    volts: figure(p.volts, 2),
    watts: p.watts,
    u: p.expanded_watts,
    attempt: p.attempt_id,
    how: 'measured',
  })),
  ...(fit.value?.at_claims ?? []).map((e) => ({
    id: `e${e.volts}`,
    volts: figure(e.volts, 1),
    watts: e.watts,
    how: `estimated at the claim's voltage, ${watts(e.low)} to ${watts(e.high)} W`,
  })),
])
const COLUMNS: Column<Row>[] = [
  { key: 'volts', head: 'Supply', unit: 'V', text: (row) => row.volts, num: true },
  { key: 'watts', head: 'Power', unit: 'W', text: (row) => watts(row.watts), num: true },
  { key: 'how', head: 'How', text: (row) => row.how, look: 'quiet' },
]
</script>

<template>
  <section v-if="fit" class="section">
    <header>
      <h2>Power against supply voltage</h2>
      <span class="quiet">certified runs; line and band are estimates, never evidence</span>
      <span class="spacer" />
      <div role="group" aria-label="Load" class="picker">
        <button v-for="(f, index) in fits" :key="index" :aria-pressed="index === picked" @click="picked = index">
          {{ f.group }} {{ place(f) }}
        </button>
      </div>
    </header>
    <div class="two">
      <VoltageChart :fit="fit" :height="230" />
      <div>
        <p v-if="fit.exponent !== null">
          Exponent <span class="mono">{{ figure(fit.exponent, 2) }}</span>
          <span class="quiet">
            (95 %: {{ figure(fit.exponent_low, 2) }} to {{ figure(fit.exponent_high, 2) }})<template v-if="sort"
              >, {{ sort }}</template
            ></span
          >
        </p>
        <p v-else class="quiet">
          Three voltages over at least 1 V tell the exponent; until then anything from 0 to 2.3 is possible.
        </p>
        <DataTable :id="(row) => row.id" name="Power by supply voltage" :rows="rows" :columns="COLUMNS" fixed plain>
          <template #watts="{ row }">
            <RouterLink v-if="row.attempt" :to="`/attempts/${row.attempt}`"
              ><WattsFigure :value="row.watts" :u="row.u"
            /></RouterLink>
            <template v-else>{{ watts(row.watts) }}</template>
          </template>
        </DataTable>
      </div>
    </div>
  </section>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1.25fr 1fr;
  gap: 40px;
  padding-top: 10px;
}
.picker {
  display: flex;
}
.picker button {
  font: inherit;
  font-size: 13px;
  padding: 2px 9px;
  color: var(--ink-2);
  background: var(--sheet);
  border: 1px solid var(--rule);
  cursor: pointer;
}
.picker button[aria-pressed='true'] {
  color: var(--ink);
  background: var(--selected);
  border-color: var(--certified);
}
</style>
