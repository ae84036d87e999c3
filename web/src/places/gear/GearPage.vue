<script setup lang="ts">
// Gear: what the bench has to offer, and what it reads with – accuracy, calibration, and until when that holds.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import client, { answered } from '../../api/client'
import { usePerson } from '../../api/person'
import type { InstrumentView } from '../../api/types'
import { day, figure } from '../../parts/format'
import ProblemNote from '../../parts/ProblemNote.vue'

const ROLES = {
  output: 'Output volts',
  supply: 'Supply volts',
  clamp: 'Supply current',
  loads: 'Loads',
} as const
type Role = keyof typeof ROLES

const queries = useQueryClient()
const person = usePerson()
const { data: gear, error } = useQuery({ queryKey: ['gear'], queryFn: () => answered(client.GET('/api/gear')) })
const entering = ref(false)
const problem = ref<unknown>(null)
const EMPTY = {
  role: 'output' as Role,
  name: '',
  serial: '',
  percent_of_reading: 0,
  percent_of_range: 0,
  full_range: 0,
  digits: 0,
  resolution: 0,
  calibrated_on: '',
  due_on: '',
}
const entry = reactive({ ...EMPTY })
const inUse = computed(() => gear.value?.instruments.filter((i) => i.state !== 'replaced') ?? [])
const replaced = computed(() => gear.value?.instruments.filter((i) => i.state === 'replaced') ?? [])

/** A calibration is a new entry for the same instrument: its limits come along, its dates are asked for. */
function calibrate(known: InstrumentView['entry']) {
  Object.assign(entry, { ...known, calibrated_on: '', due_on: '' })
  entering.value = true
}

async function enter() {
  if (!(await person.required())) return
  problem.value = null
  try {
    const body = { ...entry, calibrated_on: entry.calibrated_on || null, due_on: entry.due_on || null }
    queries.setQueryData(['gear'], await answered(client.POST('/api/gear/instruments', { body })))
    Object.assign(entry, EMPTY)
    entering.value = false
  } catch (failure) {
    problem.value = failure
  }
}
</script>

<template>
  <ProblemNote v-if="error" :error="error" />
  <template v-if="gear">
    <header class="head">
      <div>
        <h1>Gear</h1>
        <p class="quiet">What readings are taken with; each reading keeps what was in use on its day.</p>
      </div>
      <a-button v-if="!entering" type="primary" @click="entering = true">Enter an instrument</a-button>
    </header>

    <form v-if="entering" class="entry" @submit.prevent="enter">
      <label>
        Reads
        <select v-model="entry.role">
          <option v-for="(words, role) in ROLES" :key="role" :value="role">{{ words }}</option>
        </select>
      </label>
      <label>Name <input v-model="entry.name" type="text" maxlength="120" required /></label>
      <label>Serial <input v-model="entry.serial" type="text" maxlength="80" /></label>
      <label>% of reading <input v-model.number="entry.percent_of_reading" type="number" step="any" min="0" /></label>
      <label>% of range <input v-model.number="entry.percent_of_range" type="number" step="any" min="0" /></label>
      <label>Range <input v-model.number="entry.full_range" type="number" step="any" min="0" /></label>
      <label>Digits <input v-model.number="entry.digits" type="number" step="any" min="0" /></label>
      <label>One digit is <input v-model.number="entry.resolution" type="number" step="any" min="0" /></label>
      <label>Calibrated on <input v-model="entry.calibrated_on" type="date" /></label>
      <label>Due on <input v-model="entry.due_on" type="date" /></label>
      <div class="acts">
        <a-button html-type="submit" type="primary">Put it on the register</a-button>
        <a-button @click="entering = false">Leave it</a-button>
      </div>
    </form>
    <ProblemNote v-if="problem" :error="problem" />

    <section class="section">
      <header><h2>Instruments in use</h2></header>
      <p v-if="!inUse.length" class="quiet empty">
        Nothing is on the register: readings count the simulated bench’s own limits. Enter what you read with.
      </p>
      <table v-else class="figures">
        <thead>
          <tr>
            <th scope="col">Reads</th>
            <th scope="col">Instrument</th>
            <th scope="col">Limits</th>
            <th scope="col">Calibrated</th>
            <th scope="col">Due</th>
            <th scope="col">State</th>
            <th scope="col"><span class="visually-hidden">Calibrate</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in inUse" :key="i.id">
            <td>{{ ROLES[i.entry.role as Role] }}</td>
            <td>
              {{ i.entry.name }} <span class="mono quiet">{{ i.entry.serial }}</span>
            </td>
            <td class="mono">{{ i.accuracy }}</td>
            <td>{{ i.entry.calibrated_on ? day(i.entry.calibrated_on) : 'not stated' }}</td>
            <td>{{ i.entry.due_on ? day(i.entry.due_on) : 'never' }}</td>
            <td :class="{ danger: i.state === 'overdue', doubt: i.state === 'due soon' }">
              <template v-if="i.state === 'overdue'">overdue for {{ -(i.days_left ?? 0) }} days</template>
              <template v-else-if="i.state === 'due soon'">due in {{ i.days_left }} days</template>
              <template v-else>valid</template>
            </td>
            <td class="num">
              <a-button size="small" @click="calibrate(i.entry)">Calibrated …</a-button>
            </td>
          </tr>
        </tbody>
      </table>
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
        <table class="figures">
          <tbody>
            <tr v-for="b in gear.boxes" :key="b.ohms">
              <td class="num">{{ b.ohms }} Ω</td>
              <td class="num">{{ b.watts }} W</td>
              <td class="num">{{ b.count }} ×</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section v-if="replaced.length" class="section">
        <header><h2>Earlier entries</h2></header>
        <ul class="earlier">
          <li v-for="i in replaced" :key="i.id" class="quiet">
            {{ ROLES[i.entry.role as Role] }}: {{ i.entry.name }} {{ i.entry.serial }}, {{ i.accuracy }}, entered by
            {{ i.entered_by }}
          </li>
        </ul>
      </section>
    </div>
  </template>
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
.entry label {
  display: grid;
  gap: 2px;
  font-size: 14px;
}
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
