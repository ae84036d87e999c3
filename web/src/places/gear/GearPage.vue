<script setup lang="ts">
// Gear: what the bench has to offer, and what it reads with – accuracy, calibration, and until when that holds.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { fileAt } from '../../api/kept'
import { useMay } from '../../api/me'
import { useBenches } from '../../api/queries'
import type { BenchView, GearView, InstrumentView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { asSet, figure } from '../../kit/quantity'
import { day } from '../../trade/format'
import CalibrationChart from './CalibrationChart.vue'
import InstrumentForm from './InstrumentForm.vue'
import { ROLES } from './roles'

const {
  data: gear,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['gear'], queryFn: () => answered(client.GET('/api/gear')) })
const mayPlan = useMay('plan')
const { data: benches } = useBenches()
const doing = (bench: BenchView) =>
  bench.state === 'testing'
    ? 'being looked at'
    : bench.state === 'idle'
      ? bench.holder
        ? `held by ${bench.holder}`
        : 'free'
      : `${bench.state} ${bench.unit_serial ?? ''}`.trim()
const entering = ref(false)
const known = ref<InstrumentView['entry']>()
const asked = ref(0)
const inUse = computed(() => gear.value?.instruments.filter((i) => i.state !== 'replaced') ?? [])
const replaced = computed(() => gear.value?.instruments.filter((i) => i.state === 'replaced') ?? [])

/** Ask for an instrument: a new one, or a calibration, which is a new entry whose limits come along. */
function ask(calibrated?: InstrumentView['entry']) {
  known.value = calibrated
  asked.value++
  entering.value = true
}
function leave() {
  entering.value = false
}

const STATES = { 'in use': 'valid', 'due soon': 'due in', overdue: 'overdue for', replaced: 'replaced' } as const
const state = (i: InstrumentView) =>
  i.state === 'overdue' || i.state === 'due soon'
    ? `${STATES[i.state]} ${Math.abs(i.days_left ?? 0)} days`
    : STATES[i.state]

const BOXES: Column<GearView['boxes'][number]>[] = [
  { key: 'ohms', head: 'Each', unit: 'Ω', text: (b) => `${b.ohms}`, value: (b) => b.ohms, num: true },
  { key: 'watts', head: 'Takes', unit: 'W', text: (b) => `${b.watts}`, value: (b) => b.watts, num: true },
  { key: 'count', head: 'How many', text: (b) => `${b.count}`, value: (b) => b.count, num: true },
]
const calibrated = (i: InstrumentView) =>
  (i.entry.calibrated_on ? day(i.entry.calibrated_on) : 'not stated') +
  (i.entry.as_found === 'out' ? ', found out of tolerance' : '')
const COLUMNS: Column<InstrumentView>[] = [
  { key: 'role', head: 'Reads', text: (i) => ROLES[i.entry.role as keyof typeof ROLES] },
  { key: 'name', head: 'Instrument', text: (i) => `${i.entry.name} ${i.entry.serial}`.trim() },
  { key: 'limits', head: 'Limits', text: (i) => i.accuracy, look: 'mono', unsorted: true },
  {
    key: 'calibrated',
    head: 'Calibrated',
    text: (i) => calibrated(i),
    value: (i) => i.entry.calibrated_on,
  },
  {
    key: 'due',
    head: 'Due',
    text: (i) => (i.entry.due_on ? day(i.entry.due_on) : 'never'),
    value: (i) => i.entry.due_on,
  },
  { key: 'state', head: 'State', text: state, value: (i) => i.state },
  { key: 'act', head: '', text: () => '', num: true, unsorted: true },
]
</script>

<template>
  <PageFrame title="Gear" :pending="isPending" :error="error" @retry="refetch">
    <template #head>
      <header class="head">
        <div>
          <h1>Gear</h1>
          <p class="quiet">
            What readings are taken with; each reading keeps what was in use on its day.
            <RouterLink class="methods" to="/gear/methods">Methods</RouterLink>
          </p>
        </div>
        <a-button v-if="mayPlan && !entering" type="primary" @click="ask()">Enter an instrument</a-button>
      </header>
    </template>

    <InstrumentForm v-if="entering && gear" :key="asked" :known="known" :instruments="gear.instruments" @done="leave" />

    <template v-if="gear">
      <section class="section">
        <header><h2>Instruments in use</h2></header>
        <p v-if="!inUse.length" class="quiet empty">
          Nothing is on the register: readings say “instrument unknown”, with a U from stated defaults. Enter what you
          read with.
        </p>
        <DataTable v-else :id="(i) => i.id" name="Instruments in use" :rows="inUse" :columns="COLUMNS">
          <template #name="{ row }"
            >{{ row.entry.name }} <span class="mono quiet">{{ row.entry.serial }}</span></template
          >
          <template #calibrated="{ row }"
            >{{ calibrated(row) }}
            <a
              v-if="row.entry.certificate_file"
              :href="fileAt(row.entry.certificate_file)"
              :aria-label="`Certificate of ${row.entry.name}`"
              target="_blank"
              >certificate</a
            ></template
          >
          <template #state="{ row }"
            ><span :class="{ danger: row.state === 'overdue', doubt: row.state === 'due soon' }">{{
              state(row)
            }}</span></template
          >
          <template #act="{ row }"
            ><a-button v-if="mayPlan" size="small" @click="ask(row.entry)">Calibrated …</a-button></template
          >
        </DataTable>
      </section>

      <section v-if="gear.calibrations.length" class="section">
        <header>
          <h2>Calibrations</h2>
          <span class="quiet">○ as found, ■ as left; dashed: the instrument’s own limits, % of what was checked</span>
        </header>
        <div class="charts">
          <div v-for="one in gear.calibrations" :key="one.role + one.name">
            <h3>{{ one.name }}</h3>
            <CalibrationChart :of="one" />
          </div>
        </div>
      </section>

      <section class="section">
        <header class="benches">
          <h2>Benches</h2>
          <RouterLink v-if="mayPlan" to="/gear/benches/new">Assemble a bench</RouterLink>
        </header>
        <ul class="benches-list">
          <li v-for="bench in benches ?? []" :key="bench.id">
            <RouterLink :to="`/gear/benches/${bench.id}`">{{ bench.name }}</RouterLink>
            <span class="quiet">{{ bench.simulated ? ', simulated' : '' }} · {{ doing(bench) }}</span>
          </li>
        </ul>
      </section>

      <div class="two">
        <section class="section">
          <header>
            <h2>{{ gear.bench }}</h2>
          </header>
          <dl>
            <dt>Recorder inputs</dt>
            <dd>{{ gear.inputs }}</dd>
            <dt>Regulated supply, up to</dt>
            <dd>{{ asSet(gear.supply_limit_amps) }} A</dd>
            <dt>Bank, charged</dt>
            <dd>{{ figure(gear.bank_volts, 1) }} V</dd>
            <dt>Bank and cable</dt>
            <dd>{{ figure(gear.bank_milliohms, 1) }} mΩ</dd>
            <dt>Cable</dt>
            <dd>{{ gear.cable }}</dd>
          </dl>
        </section>
        <section class="section">
          <header><h2>Load boxes</h2></header>
          <DataTable
            :id="(b) => b.ohms"
            name="Load boxes"
            :rows="gear.boxes"
            :columns="BOXES"
            sort-name="boxes"
            plain
          />
        </section>
        <section v-if="replaced.length" class="section">
          <header><h2>Earlier entries</h2></header>
          <ul class="earlier">
            <li v-for="i in replaced" :key="i.id" class="quiet">
              {{ ROLES[i.entry.role as keyof typeof ROLES] }}: {{ i.entry.name }} {{ i.entry.serial }},
              {{ i.accuracy }},
              {{ i.entry.calibrated_on ? `calibrated ${day(i.entry.calibrated_on)}` : 'calibration not stated'
              }}{{ i.entry.as_found === 'out' ? ', found out of tolerance' : '' }}, entered by {{ i.entered_by }},
              {{ day(i.entered_at) }}
            </li>
          </ul>
        </section>
      </div>
    </template>
  </PageFrame>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-end;
}
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(420px, 100%), 1fr));
  gap: 10px 40px;
}
h3 {
  font-size: 15px;
  margin: 10px 0 2px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 40px;
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 16px;
  margin: 8px 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  font-family: var(--mono);
  font-size: 14px;
}
.doubt {
  color: var(--doubt);
}
.empty {
  padding: 12px 0;
}
.benches {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
.benches-list {
  list-style: none;
  margin: 8px 0;
  padding: 0;
}
.benches-list li {
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
.methods,
.benches-list a {
  text-decoration: underline;
}
.earlier {
  padding-left: 18px;
}
</style>
