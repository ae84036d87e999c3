<script setup lang="ts">
// Gear: what the bench has to offer, and what it reads with – accuracy, calibration, and until when that holds.
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, reactive, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import type { GearView, InstrumentView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import DateField from '../../kit/DateField.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import TextField from '../../kit/TextField.vue'
import { day } from '../../trade/format'

const ROLES = { output: 'Output volts', supply: 'Supply volts', clamp: 'Supply current', loads: 'Loads' } as const
const CHOICES = Object.entries(ROLES).map(([value, label]) => ({ value: value as keyof typeof ROLES, label }))

const {
  data: gear,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['gear'], queryFn: () => answered(client.GET('/api/gear')) })
const mayPlan = useMay('plan')
const entering = ref(false)
const form = ref<HTMLElement>()
const EMPTY = {
  role: 'output' as keyof typeof ROLES,
  name: '',
  serial: '',
  percent_of_reading: null as number | null,
  percent_of_range: null as number | null,
  full_range: null as number | null,
  digits: null as number | null,
  resolution: null as number | null,
  calibrated_on: null as string | null,
  due_on: null as string | null,
  as_found: '' as InstrumentView['entry']['as_found'],
}
const FOUND = [
  { value: '' as const, label: 'not said' },
  { value: 'within' as const, label: 'within its limits' },
  { value: 'out' as const, label: 'out of tolerance' },
]
const entry = reactive({ ...EMPTY })
const inUse = computed(() => gear.value?.instruments.filter((i) => i.state !== 'replaced') ?? [])
const replaced = computed(() => gear.value?.instruments.filter((i) => i.state === 'replaced') ?? [])

/** Ask for an instrument: a new one, or a calibration, which is a new entry whose limits come along. */
async function ask(known?: InstrumentView['entry']) {
  if (known) Object.assign(entry, { ...known, calibrated_on: null, due_on: null, as_found: '' })
  entering.value = true
  await nextTick()
  form.value?.scrollIntoView({ block: 'nearest' })
  form.value?.querySelector<HTMLElement>(known ? '.date-field input' : '.text-field input')?.focus()
}
function leave() {
  Object.assign(entry, EMPTY)
  forget()
  entering.value = false
}

const { act, pending, problem, forget } = useAct(
  () => {
    const stated = Object.fromEntries(Object.entries(entry).filter(([, value]) => value !== null))
    return answered(client.POST('/api/gear/instruments', { body: stated as InstrumentView['entry'] }))
  },
  { done: leave },
)
const says = (field: string) => saysOf(problem.value, field)
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
const COLUMNS: Column<InstrumentView>[] = [
  { key: 'role', head: 'Reads', text: (i) => ROLES[i.entry.role as keyof typeof ROLES] },
  { key: 'name', head: 'Instrument', text: (i) => `${i.entry.name} ${i.entry.serial}`.trim() },
  { key: 'limits', head: 'Limits', text: (i) => i.accuracy, look: 'mono', unsorted: true },
  {
    key: 'calibrated',
    head: 'Calibrated',
    text: (i) =>
      (i.entry.calibrated_on ? day(i.entry.calibrated_on) : 'not stated') +
      (i.entry.as_found === 'out' ? ', found out of tolerance' : ''),
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
          <p class="quiet">What readings are taken with; each reading keeps what was in use on its day.</p>
        </div>
        <a-button v-if="mayPlan && !entering" type="primary" @click="ask()">Enter an instrument</a-button>
      </header>
    </template>

    <form v-if="entering" ref="form" class="entry" aria-label="An instrument" @submit.prevent="act()">
      <PickOne v-model="entry.role" label="Reads" :choices="CHOICES" />
      <TextField v-model="entry.name" label="Name" :max="120" required :problem="says('name')" />
      <TextField v-model="entry.serial" label="Serial" :max="80" :problem="says('serial')" />
      <NumberField
        v-model="entry.percent_of_reading"
        label="Of reading"
        unit="%"
        :min="0"
        :problem="says('percent_of_reading')"
      />
      <NumberField
        v-model="entry.percent_of_range"
        label="Of range"
        unit="%"
        :min="0"
        :problem="says('percent_of_range')"
      />
      <NumberField v-model="entry.full_range" label="Range" :min="0" :problem="says('full_range')" />
      <NumberField v-model="entry.digits" label="Digits" :min="0" :problem="says('digits')" />
      <NumberField v-model="entry.resolution" label="One digit is" :min="0" :problem="says('resolution')" />
      <DateField v-model="entry.calibrated_on" label="Calibrated on" :problem="says('calibrated_on')" />
      <DateField v-model="entry.due_on" label="Due on" :problem="says('due_on')" />
      <PickOne v-if="entry.calibrated_on" v-model="entry.as_found" label="Found, before adjusting" :choices="FOUND" />
      <p v-if="entry.as_found === 'out'" class="wide quiet" role="status">
        Every rating that rests on a reading taken with it since the calibration before is put on “look again”.
      </p>
      <ProblemNote v-if="problem" class="wide" :error="problem" />
      <div class="acts">
        <a-button html-type="submit" type="primary" :loading="pending" :disabled="!entry.name.trim()"
          >Put it on the register</a-button
        >
        <a-button @click="leave">Leave it</a-button>
      </div>
    </form>

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

      <div class="two">
        <section class="section">
          <header>
            <h2>{{ gear.bench }}</h2>
          </header>
          <dl>
            <dt>Recorder inputs</dt>
            <dd>{{ gear.inputs }}</dd>
            <dt>Regulated supply, up to</dt>
            <dd>{{ figure(gear.supply_limit_amps, 0) }} A</dd>
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
              {{ i.accuracy }}, entered by
              {{ i.entered_by }}
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
.entry {
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  gap: 10px 18px;
  padding: 14px;
  margin-top: 14px;
  background: var(--sheet);
}
.entry .wide,
.entry .acts {
  grid-column: 1 / -1;
  display: flex;
  gap: 10px;
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
.earlier {
  padding-left: 18px;
}
</style>
