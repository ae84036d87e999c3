<script setup lang="ts">
// A bench put together, or changed: ask who answers, say who fills each role, how outputs are wired, what it can stand.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import type { AnsweringView, BenchEntry } from '../../api/types'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import RowsField from '../../kit/RowsField.vue'
import TextField from '../../kit/TextField.vue'
import { BENCH_ROLES } from './benchRoles'
import SoundLevels from './SoundLevels.vue'
import WiresPicture from './WiresPicture.vue'

/** Of a bench that is changed: its number. */
const props = defineProps<{ id?: number }>()
const router = useRouter()
const {
  data: known,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['instruments'], queryFn: () => answered(client.GET('/api/instruments')) })

const BLANK = {
  name: '',
  stations: BENCH_ROLES.map((one) => ({ role: one.role as string, description: null as string | null, address: '' })),
  boxes: [
    {
      ohms: 4 as number | null,
      watts: null as number | null,
      count: 1 as number | null,
      cold_ohms: null as number | null,
      warm_ohms: null as number | null,
      warm_c: null as number | null,
      inductance_uh: null as number | null,
      duty_percent: 100 as number | null,
    },
  ],
  supply_amps: null as number | null,
  supply_volts: 16 as number | null,
  run_minutes: 120 as number | null,
  load_c: 150 as number | null,
  gauge: '0',
  metres: 1 as number | null,
  wires: [] as { channel: number | null; input: number | null }[],
  volts_per_unit: 1 as number | null,
  /** Of an audio interface, by channel: V rms of a sine at digital full scale. */
  scales: [] as { output: number | null; input: number | null }[],
  /** What else was found of its levels; responses only come from a bench’s file. */
  levels: {
    at_hz: 1000,
    u_percent: 1,
    meter: '',
    output_response: [],
    input_response: [],
    inverted_inputs: [],
  } as Omit<Levels, 'output_volts' | 'input_volts'>,
  /** Of a bench that is changed: the version that was looked at. */
  version: null as number | null,
}
type Levels = NonNullable<BenchEntry['levels']>
const { draft, forget } = useDraft(props.id ? `rulvek.bench.${props.id}` : 'rulvek.bench', BLANK)
const { data: kept } = useQuery({
  queryKey: ['bench entry', () => props.id],
  enabled: () => props.id !== undefined,
  queryFn: () =>
    answered(client.GET('/api/benches/{bench_id}/entry', { params: { path: { bench_id: props.id ?? 0 } } })),
})
/** What stands on record, to begin with. */
function takeKept() {
  const found = kept.value
  if (!found) return
  const { stations, boxes, wires, levels, ...rest } = found.entry
  draft.value = {
    ...draft.value,
    ...rest,
    version: found.number,
    stations: BENCH_ROLES.map(({ role }) => {
      const one = stations.find((station) => station.role === role)
      return { role, description: one?.description || null, address: one?.address ?? '' }
    }),
    boxes: boxes.map((one) => ({
      ohms: one.ohms,
      watts: one.watts,
      count: one.count ?? 1,
      cold_ohms: one.cold_ohms ?? null,
      warm_ohms: one.warm_ohms ?? null,
      warm_c: one.warm_c ?? null,
      inductance_uh: one.inductance_uh ?? null,
      duty_percent: one.duty_percent ?? 100,
    })),
    wires: [...(wires ?? [])],
    levels: levels ?? BLANK.levels,
    scales: (levels?.output_volts ?? []).map((output, i) => ({ output, input: levels?.input_volts[i] ?? null })),
  }
}
watch(
  kept,
  () => {
    if (draft.value.version === null) takeKept()
  },
  { immediate: true },
)
function clear() {
  forget()
  takeKept()
}
const where = ref({ host: '127.0.0.1', first: 5025 as number | null, last: 5025 as number | null })
const found = ref<AnsweringView[]>()

const titleOf = (name: string | null) => known.value?.find((one) => one.name === name)?.title ?? name ?? ''
const descriptionOf = (name: string | null) => known.value?.find((one) => one.name === name)
const choices = (role: string) => [
  { value: '', label: 'nobody' },
  ...(known.value ?? [])
    .filter((one) => one.roles.includes(role))
    .map((one) => ({ value: one.name, label: one.title })),
]
const title = computed(() => (props.id ? 'Change it' : 'Assemble a bench'))
const isSound = (at: number) => !!descriptionOf(draft.value.stations[at]!.description)?.sound
const anySound = computed(() => draft.value.stations.some((_, at) => isSound(at)))
const { data: interfaces, error: noInterfaces } = useQuery({
  queryKey: ['interfaces'],
  enabled: anySound,
  retry: false,
  queryFn: () => answered(client.GET('/api/instruments/interfaces')),
})
const interfaceChoices = computed(() =>
  (interfaces.value ?? []).map((one) => ({ value: one.address, label: `${one.name} (${one.system})` })),
)
/** An interface that fills one role fills the other as well, until somebody says otherwise, and needs its levels. */
function chosen(at: number) {
  if (!isSound(at)) return
  const { description, address, role } = draft.value.stations[at]!
  const other = draft.value.stations.find((one) => one.role === (role === 'source' ? 'recorder' : 'source'))
  if (other && !other.description) other.description = description
  const reached = (where: string) => interfaceChoices.value.some((one) => one.value === where)
  if (other && other.description === description && !reached(other.address) && reached(address)) other.address = address
  const channels = descriptionOf(description)?.channels ?? 0
  while (draft.value.scales.length < channels) draft.value.scales.push({ output: null, input: null })
}
const soundAddress = computed(() => draft.value.stations.find((_, at) => isSound(at))?.address.trim() ?? '')
/** What was found beside a meter. */
function takeLevels(found: Levels) {
  const { output_volts, input_volts, ...rest } = found
  draft.value.levels = { ...BLANK.levels, ...rest } as typeof BLANK.levels
  draft.value.scales = output_volts.map((output, i) => ({ output, input: input_volts[i] ?? null }))
}
const isByHand = (at: number) => !!descriptionOf(draft.value.stations[at]!.description)?.by_hand
const shown = computed(() => {
  const simulated = draft.value.stations.some((one) => descriptionOf(one.description)?.simulated)
  return BENCH_ROLES.map((one, at) => ({ ...one, at })).filter(
    (one) => one.role !== 'time' || simulated || draft.value.stations[one.at]!.description,
  )
})

const ask = useAct(
  () =>
    answered(
      client.POST('/api/instruments/find', {
        body: {
          host: where.value.host,
          first_port: where.value.first ?? 5025,
          last_port: where.value.last ?? where.value.first ?? 5025,
        },
      }),
    ),
  { done: (answer) => take(answer), takesLong: true },
)
/** Who answered is put where its description fits and nobody is yet. */
function take(answer: AnsweringView[]) {
  found.value = answer
  for (const one of answer) {
    const fits = one.fits.map(descriptionOf).find((description) => description !== undefined)
    const row = draft.value.stations.find((station) => fits?.roles.includes(station.role) && !station.description)
    if (row && fits && one.fits.length === 1) Object.assign(row, { description: fits.name, address: one.address })
  }
}
const placeOf = (address: string) => {
  const row = draft.value.stations.find((station) => station.address === address)
  return BENCH_ROLES.find((one) => one.role === row?.role)?.name ?? ''
}

const filled = computed(() => draft.value.stations.filter((one) => one.description))
const inputs = computed(() => {
  const recorder = draft.value.stations.find((one) => one.role === 'recorder')
  return descriptionOf(recorder?.description ?? null)?.channels ?? 0
})
// Where nobody said otherwise a channel goes to the input of its own number.
const wired = computed(() => {
  const told = draft.value.wires.filter((one) => one.channel && one.input) as { channel: number; input: number }[]
  const taken = new Set(told.map((one) => one.input))
  const named = new Set(told.map((one) => one.channel))
  const straight = Array.from({ length: Math.min(inputs.value, 16) }, (_, i) => i + 1)
    .filter((one) => !taken.has(one) && !named.has(one))
    .map((one) => ({ channel: one, input: one }))
  return [...told, ...straight].sort((a, b) => a.channel - b.channel)
})
const picture = computed(() => ({
  stations: filled.value.map((one) => ({
    role: one.role,
    title: titleOf(one.description),
    address: descriptionOf(one.description)?.by_hand ? 'by hand' : one.address,
  })),
  wires: wired.value,
  volts_per_unit: draft.value.volts_per_unit ?? 1,
}))
const missing = computed(() => [
  ...BENCH_ROLES.filter((one) => one.needed && !filled.value.some((row) => row.role === one.role)).map((one) =>
    one.name.toLowerCase(),
  ),
  ...(draft.value.name.trim() ? [] : ['a name']),
  ...(draft.value.supply_amps ? [] : ['what the supply gives']),
  ...(anySound.value && !draft.value.scales.every((one) => one.output && one.input)
    ? ['what the interface gives and takes']
    : []),
  ...(draft.value.boxes.some((one) => one.ohms && one.watts) ? [] : ['a dummy load']),
])
const send = (body: BenchEntry) =>
  props.id === undefined
    ? client.POST('/api/benches', { body })
    : client.PUT('/api/benches/{bench_id}', {
        params: { path: { bench_id: props.id }, header: { 'If-Match': `${draft.value.version ?? 0}` } },
        body,
      })
const put = useAct(
  () =>
    answered(
      send({
        name: draft.value.name,
        stations: filled.value.map((one) => ({
          role: one.role as (typeof BENCH_ROLES)[number]['role'],
          description: one.description ?? '',
          address: descriptionOf(one.description)?.by_hand ? 'by hand' : one.address,
        })),
        boxes: draft.value.boxes
          .filter((one) => one.ohms && one.watts)
          .map((one) => ({
            ohms: one.ohms ?? 0,
            watts: one.watts ?? 0,
            count: one.count ?? 1,
            cold_ohms: one.cold_ohms,
            warm_ohms: one.warm_ohms,
            warm_c: one.warm_c,
            inductance_uh: one.inductance_uh,
            duty_percent: one.duty_percent ?? 100,
          })),
        supply_amps: draft.value.supply_amps ?? 0,
        supply_volts: draft.value.supply_volts ?? 0,
        run_minutes: draft.value.run_minutes ?? 0,
        load_c: draft.value.load_c ?? 0,
        gauge: draft.value.gauge,
        metres: draft.value.metres ?? 0,
        wires: draft.value.wires.filter((one) => one.channel && one.input) as { channel: number; input: number }[],
        volts_per_unit: draft.value.volts_per_unit ?? 0,
        levels: anySound.value
          ? {
              ...draft.value.levels,
              output_volts: draft.value.scales.map((one) => one.output ?? 0),
              input_volts: draft.value.scales.map((one) => one.input ?? 0),
            }
          : null,
      }),
    ),
  {
    done: (made) => {
      forget()
      void router.push(`/gear/benches/${made.id}`)
    },
  },
)
const says = (field: string) => saysOf(put.problem.value, field)
const ofStation = (role: string, part: string) => {
  const at = filled.value.findIndex((one) => one.role === role)
  return at < 0 ? '' : says(`stations.${at}.${part}`)
}
watch(
  () => where.value.first,
  (first) => {
    if (first && (where.value.last ?? 0) < first) where.value.last = first
  },
)
</script>

<template>
  <PageFrame
    :title="title"
    :trail="[
      { name: 'Gear', to: '/gear' },
      ...(id ? [{ name: draft.name, to: `/gear/benches/${id}` }] : []),
      { name: title },
    ]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template #head>
      <header>
        <h1>{{ title }}</h1>
        <p class="quiet">
          Who fills each role and where it answers.
          {{
            id
              ? 'It is to be looked at again before it is run; what was measured keeps what it was measured with.'
              : 'Nothing is connected or powered before somebody looks at it.'
          }}
        </p>
      </header>
    </template>
    <form class="find" aria-label="Who answers" @submit.prevent="ask.act()">
      <TextField v-model="where.host" label="Host" :max="200" :problem="saysOf(ask.problem.value, 'host')" />
      <NumberField v-model="where.first" label="First port" whole :min="1" :max="65535" />
      <NumberField
        v-model="where.last"
        label="Last port"
        whole
        :min="1"
        :max="65535"
        :problem="saysOf(ask.problem.value, 'last_port')"
      />
      <a-button html-type="submit" :loading="ask.pending.value" :disabled="!where.host || !where.first"
        >Ask who answers</a-button
      >
    </form>
    <ProblemNote v-if="ask.problem.value" :error="ask.problem.value" />
    <p v-if="found && !found.length" class="quiet" role="status">Nobody answers there.</p>
    <ul v-else-if="found" class="found" aria-label="Who answered">
      <li v-for="one in found" :key="one.address">
        <span class="mono">{{ one.address }}</span> says “{{ one.identity }}”<template v-if="placeOf(one.address)"
          >: {{ placeOf(one.address) }}</template
        ><template v-else-if="one.fits.length">; may be {{ one.fits.map(titleOf).join(', ') }}</template
        ><template v-else>; no description fits</template>
      </li>
    </ul>

    <form aria-label="The bench" @submit.prevent="put.act()">
      <div class="two">
        <section class="section">
          <header><h2>Roles</h2></header>
          <div class="roles">
            <template v-for="one in shown" :key="one.role">
              <div class="role">
                <strong>{{ one.name }}</strong> <span class="quiet">{{ one.does }}</span>
              </div>
              <PickOne
                v-model="draft.stations[one.at]!.description"
                :label="`${one.name}: described as`"
                :choices="choices(one.role)"
                placeholder="nobody"
                bare
                @update:model-value="chosen(one.at)"
              />
              <span v-if="isByHand(one.at)" class="quiet">asked on the bench’s page and at the live bench</span>
              <PickOne
                v-else-if="isSound(one.at) && interfaceChoices.length"
                v-model="draft.stations[one.at]!.address"
                :label="`${one.name}: which interface`"
                :choices="interfaceChoices"
                placeholder="which one"
                bare
                @update:model-value="chosen(one.at)"
              />
              <TextField
                v-else
                v-model="draft.stations[one.at]!.address"
                :label="`${one.name}: answers at`"
                :placeholder="isSound(one.at) ? 'sound:its name' : 'TCPIP0::192.0.2.7::5025::SOCKET'"
                :max="200"
                bare
                :problem="ofStation(one.role, 'address') || ofStation(one.role, 'description')"
              />
            </template>
          </div>
        </section>
        <section class="section">
          <header><h2>Wires</h2></header>
          <WiresPicture :made="picture" />
        </section>
      </div>
      <section class="section">
        <header><h2>What it can stand</h2></header>
        <div class="limits">
          <TextField
            v-if="!id"
            v-model="draft.name"
            label="Name of the bench"
            :max="80"
            required
            :problem="says('name')"
          />
          <NumberField
            v-model="draft.supply_amps"
            label="Supply, up to"
            unit="A"
            :min="0"
            :max="2000"
            required
            :problem="says('supply_amps')"
          />
          <NumberField
            v-model="draft.supply_volts"
            label="Never set above"
            unit="V"
            :min="1"
            :max="60"
            :problem="says('supply_volts')"
          />
          <NumberField
            v-model="draft.run_minutes"
            label="The amplifier on, at most"
            unit="min"
            :min="1"
            :max="1440"
            :problem="says('run_minutes')"
          />
          <NumberField
            v-model="draft.load_c"
            label="Loads no hotter than"
            unit="°C"
            :min="40"
            :max="400"
            :problem="says('load_c')"
          />
          <TextField v-model="draft.gauge" label="Leads, AWG" :max="8" :problem="says('gauge')" />
          <NumberField v-model="draft.metres" label="Each" unit="m" :min="0" :max="100" :problem="says('metres')" />
          <NumberField
            v-model="draft.volts_per_unit"
            label="Divider before the recorder, to 1"
            :min="0"
            :problem="says('volts_per_unit')"
          />
        </div>
        <div v-if="anySound" class="levels">
          <ProblemNote v-if="noInterfaces" :error="noInterfaces" />
          <RowsField
            v-slot="{ row }"
            v-model="draft.scales"
            label="The audio interface by channel: V rms of a sine at digital full scale"
            :blank="{ output: null, input: null }"
            add="Another channel"
          >
            <NumberField v-model="row.output" label="Output gives" unit="V" :min="0.01" :max="1000" />
            <NumberField v-model="row.input" label="Input takes" unit="V" :min="0.01" :max="1000" />
          </RowsField>
          <div>
            <div class="beside">
              <TextField v-model="draft.levels.meter" label="Beside which meter" :max="200" />
              <NumberField v-model="draft.levels.u_percent" label="Its U (k = 2)" unit="%" :min="0" :max="20" />
            </div>
            <SoundLevels
              :address="soundAddress"
              :channels="draft.scales.length"
              :meter="draft.levels.meter ?? ''"
              :u-percent="draft.levels.u_percent ?? null"
              @found="takeLevels"
            />
          </div>
          <p class="quiet">
            An audio interface hears no DC: an offset at an output does not show.
            <template v-if="says('levels')">{{ says('levels') }}</template>
          </p>
        </div>
        <div class="limits rows">
          <RowsField
            v-slot="{ row }"
            v-model="draft.boxes"
            label="Dummy loads"
            :blank="BLANK.boxes[0]!"
            add="More loads"
          >
            <NumberField v-model="row.ohms" label="Each" unit="Ω" :min="0.05" :max="100" />
            <NumberField v-model="row.watts" label="Takes" unit="W" :min="1" />
            <NumberField v-model="row.count" label="How many" whole :min="1" :max="200" />
            <NumberField
              v-model="row.cold_ohms"
              label="Cold"
              unit="Ω"
              :min="0.05"
              :max="100"
              :problem="says(`boxes.${draft.boxes.indexOf(row)}.cold_ohms`)"
            />
            <NumberField
              v-model="row.warm_ohms"
              label="Warm"
              unit="Ω"
              :min="0.05"
              :max="100"
              :problem="says(`boxes.${draft.boxes.indexOf(row)}.warm_ohms`)"
            />
            <NumberField
              v-model="row.warm_c"
              label="Warm at"
              unit="°C"
              :problem="says(`boxes.${draft.boxes.indexOf(row)}.warm_c`)"
            />
            <NumberField v-model="row.inductance_uh" label="Inductance" unit="µH" :min="0" :max="10000" />
            <NumberField v-model="row.duty_percent" label="Duty" unit="%" :min="1" :max="100" />
          </RowsField>
          <RowsField
            v-slot="{ row }"
            v-model="draft.wires"
            label="Outputs that go to another input"
            :blank="{ channel: null, input: null }"
            add="Wire an output"
          >
            <NumberField v-model="row.channel" label="Output" whole :min="1" :max="64" />
            <NumberField v-model="row.input" label="Recorder input" whole :min="1" :max="64" />
          </RowsField>
        </div>
      </section>
      <ProblemNote v-if="put.problem.value" :error="put.problem.value" />
      <p class="acts">
        <a-button html-type="submit" type="primary" :loading="put.pending.value" :disabled="!!missing.length">{{
          id ? 'Change it' : 'Put it on record'
        }}</a-button>
        <a-button @click="clear()">{{ id ? 'As it stands on record' : 'Clear it' }}</a-button>
        <span v-if="missing.length" class="quiet">Still missing: {{ missing.join(', ') }}.</span>
      </p>
    </form>
  </PageFrame>
</template>

<style scoped>
.find {
  display: grid;
  grid-template-columns: 260px 120px 120px auto 1fr;
  gap: 10px 16px;
  align-items: end;
  margin-top: 14px;
}
.found {
  margin: 10px 0 0;
  padding-left: 18px;
  font-size: 14px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 32px;
}
.roles {
  display: grid;
  grid-template-columns: 150px 205px 1fr;
  gap: 8px 12px;
  align-items: center;
}
.roles > * {
  min-width: 0;
  width: 100%;
}
.role {
  font-size: 14px;
  line-height: 1.25;
}
.role .quiet {
  display: block;
  font-size: 13px;
}
.limits {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 10px 18px;
}
.limits.rows {
  grid-template-columns: minmax(0, 2.4fr) minmax(0, 1fr);
  gap: 10px 40px;
  margin-top: 12px;
}
.levels {
  margin-top: 14px;
}
.levels {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 40px;
}
.beside {
  display: grid;
  grid-template-columns: 1fr 140px;
  gap: 10px 18px;
  align-self: start;
}
.levels p {
  grid-column: 1 / -1;
  margin: 6px 0 0;
  font-size: 14px;
}
.acts {
  display: flex;
  margin-top: 20px;
  gap: 12px;
  align-items: center;
}
@media (max-width: 1000px) {
  .two,
  .limits.rows {
    grid-template-columns: 1fr;
  }
  .limits {
    grid-template-columns: 1fr 1fr;
  }
  .find {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
