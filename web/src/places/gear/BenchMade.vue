<script setup lang="ts">
// A bench: what it is made of, how it is wired, what it can stand, and how it was found when somebody looked at it.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useBench } from '../../api/queries'
import type { MadeView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { asSet, figure } from '../../kit/quantity'
import { counted, moment } from '../../trade/format'
import AskedByHand from '../bench/AskedByHand.vue'
import { answerAt } from '../bench/answerAt'
import { roleName } from './benchRoles'
import LooksList from './LooksList.vue'
import WiresPicture from './WiresPicture.vue'

const props = defineProps<{ id: number }>()
const ASK_MS = 400
const {
  data: made,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['bench made', () => props.id],
  queryFn: () => answered(client.GET('/api/benches/{bench_id}', { params: { path: { bench_id: props.id } } })),
  refetchInterval: (query) => ((query.state.data as MadeView | undefined)?.testing ? ASK_MS : false),
})
const bench = useBench(() => props.id)
const mayMeasure = useMay('measure')
const mayPlan = useMay('plan')
const channels = ref<number | null>(1)
const powered = ref(false)
const cautions = ref(false)
const looped = ref(false)
const look = useAct(() =>
  answered(
    client.POST('/api/benches/{bench_id}/selftest', {
      params: { path: { bench_id: props.id } },
      body: {
        channels: channels.value ?? 1,
        powered: powered.value,
        cautions: cautions.value,
        looped: looped.value && !powered.value,
      },
    }),
  ),
)
const off = useAct(() => answered(client.POST('/api/bench/off', { params: { query: { bench: props.id } } })), {
  asksWho: false,
})
type Test = MadeView['tests'][number]
const latest = computed(() => made.value?.tests[0])
/** What is found now while somebody looks, else what was found the last time. */
const looks = computed(() => made.value?.testing ?? (latest.value?.of_before ? [] : (latest.value?.looked ?? [])))
/** What else is known of dummy loads. */
const onRegister = (box: MadeView['boxes'][number]) =>
  [
    box.duty_percent < 100 ? `at ${figure(box.duty_percent, 0)} % duty` : '',
    box.cold_ohms ? `${figure(box.cold_ohms, 3)} Ω cold` : '',
    box.ppm_per_kelvin === null ? '' : `${figure(box.ppm_per_kelvin, 0)} ppm/K`,
    box.inductance_uh === null ? '' : `${figure(box.inductance_uh, 1)} µH`,
  ]
    .filter((one) => one)
    .map((one) => `, ${one}`)
    .join('')
const STATIONS: Column<MadeView['stations'][number]>[] = [
  { key: 'role', head: 'Role', text: (one) => roleName(one.role) },
  { key: 'title', head: 'Instrument', text: (one) => one.title },
  { key: 'address', head: 'Answers at', text: (one) => one.address, look: 'mono' },
]
const TESTS: Column<Test>[] = [
  { key: 'at', head: 'When', text: (one) => moment(one.at), value: (one) => one.at },
  { key: 'by', head: 'By', text: (one) => one.by },
  { key: 'power', head: 'Power', text: (one) => (one.powered ? 'on and off' : 'never on') },
  { key: 'found', head: 'Found', text: (one) => one.in_words, unsorted: true },
]
</script>

<template>
  <PageFrame
    :title="made?.name ?? 'Bench'"
    :trail="[{ name: 'Gear', to: '/gear' }, { name: made?.name ?? 'Bench' }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template #head>
      <header v-if="made" class="head">
        <h1>{{ made.name }}</h1>
        <p class="quiet">
          {{ made.of_instruments ? 'Put together from instruments' : 'Within this program'
          }}{{ made.simulated ? '; simulated: what it gives is marked so' : '' }}.
          <RouterLink class="history" :to="`/history/bench/${made.id}`">Its history</RouterLink>
          <template v-if="made.of_instruments && mayPlan">
            · <RouterLink class="history" :to="`/gear/benches/${made.id}/change`">Change it</RouterLink></template
          >
        </p>
      </header>
    </template>
    <template v-if="made">
      <div class="two">
        <section class="section">
          <header><h2>Wires</h2></header>
          <WiresPicture v-if="made.of_instruments" :made="made" />
          <p v-else class="quiet">All of it is computed: there are no wires to check and nobody to ask.</p>
        </section>
        <section class="section">
          <header><h2>What it can stand</h2></header>
          <dl>
            <dt>Supply, up to</dt>
            <dd>{{ asSet(made.supply_limit_amps) }} A</dd>
            <template v-if="made.supply_limit_volts !== null && made.run_minutes !== null">
              <dt>Never set above</dt>
              <dd>{{ asSet(made.supply_limit_volts) }} V</dd>
              <dt>The amplifier on, at most</dt>
              <dd>{{ asSet(made.run_minutes) }} min</dd>
              <dt>Loads, no hotter than</dt>
              <dd>{{ asSet(made.load_c) }} °C</dd>
            </template>
            <dt>Leads</dt>
            <dd>{{ made.cable }}</dd>
            <dt>Recorder inputs</dt>
            <dd>{{ made.inputs }}</dd>
            <template v-if="made.levels">
              <dt>Audio interface, full scale</dt>
              <dd>
                out {{ made.levels.output_volts.map((v) => figure(v, 2)).join(', ') }} V; in
                {{ made.levels.input_volts.map((v) => figure(v, 2)).join(', ') }} V rms<template
                  v-if="made.levels.meter"
                >
                  ± {{ made.levels.u_percent }} % (k = 2), beside {{ made.levels.meter }}
                </template>
              </dd>
              <dt>Recorded</dt>
              <dd>AC-coupled, {{ made.levels.responses ? 'response put right' : 'response taken as flat' }}</dd>
            </template>
            <template v-for="box in made.boxes" :key="box.ohms">
              <dt>Loads of {{ box.ohms }} Ω</dt>
              <dd>{{ box.count }} × {{ box.watts }} W{{ onRegister(box) }}</dd>
              <dt>each warms by</dt>
              <dd>
                {{ figure(box.kelvin_per_watt, 2) }} K/W in {{ figure(box.seconds, 0) }} s,
                {{ box.fitted_to_runs ? `by ${counted(box.fitted_to_runs, 'run')}` : 'assumed' }}
              </dd>
            </template>
          </dl>
        </section>
      </div>
      <template v-if="made.of_instruments">
        <section class="section look" aria-label="Looking at it">
          <header>
            <h2>Before anybody trusts it</h2>
            <p class="quiet">
              Who answers, what idles, each load cold, the supply, silence; with power, a known level into each load,
              and whether Off works; looped, a known level straight from the source.
            </p>
          </header>
          <form v-if="mayMeasure && !made.testing" class="ask" @submit.prevent="look.act()">
            <NumberField v-model="channels" label="Outputs wired to loads" whole :min="1" :max="16" required />
            <a-checkbox v-model:checked="powered" class="check"
              >Switch the amplifier on, send it 10 mV, and off again</a-checkbox
            >
            <a-checkbox v-model:checked="looped" :disabled="powered" class="check"
              >Loopback: cables go from the source straight to the recorder</a-checkbox
            >
            <a-checkbox v-if="powered" v-model:checked="cautions" class="check caution">
              The supply is fused at its terminals, a disconnect is within reach, the loads are ventilated, and nobody
              is at the terminals
            </a-checkbox>
            <a-button
              html-type="submit"
              type="primary"
              :loading="look.pending.value"
              :disabled="!channels || (powered && !cautions)"
              >Look at it</a-button
            >
          </form>
          <div v-else-if="made.testing" class="ask">
            <p role="status">Looking: {{ made.testing.at(-1)?.at ?? 'who answers' }} …</p>
            <a-button danger :loading="off.pending.value" @click="off.act()">Off</a-button>
          </div>
          <AskedByHand :asked="bench?.question" :may-answer="mayMeasure" :answer="answerAt(id)" />
          <ProblemNote v-if="look.problem.value" class="refused" :error="look.problem.value" />
          <p v-if="!made.testing && latest?.of_before" class="danger" role="status">
            It was changed since: look at it again before it is run.
          </p>
          <p v-else-if="!made.testing && latest" :class="latest.passed ? 'passed' : 'danger'" role="status">
            {{ latest.passed ? 'Passed' : 'Not as it should be' }}, {{ moment(latest.at) }}, {{ latest.by }}:
            {{ latest.in_words }}.
          </p>
          <LooksList v-if="looks.length" :looks="looks" />
          <p v-else-if="!made.testing && !latest" class="quiet">Nobody has looked at it yet.</p>
        </section>
        <section class="section">
          <header><h2>Instruments</h2></header>
          <DataTable
            :id="(one) => one.role"
            name="Instruments of the bench"
            :rows="made.stations"
            :columns="STATIONS"
            plain
          />
        </section>
        <section v-if="made.tests.length > 1 || latest?.of_before" class="section">
          <header><h2>Earlier looks</h2></header>
          <DataTable
            :id="(one) => one.id"
            name="Earlier looks"
            :rows="latest?.of_before ? made.tests : made.tests.slice(1)"
            :columns="TESTS"
            sort-name="looks"
          />
        </section>
      </template>
    </template>
  </PageFrame>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.9fr) minmax(260px, 1fr);
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
  text-align: right;
}
.history {
  text-decoration: underline;
}
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  align-items: end;
  margin: 8px 0 12px;
}
.ask .check {
  min-height: 34px;
  align-items: center;
}
.ask .caution {
  flex-basis: 100%;
}
.refused {
  margin-bottom: 12px;
}
.danger {
  color: var(--danger);
}
.passed {
  font-weight: 600;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
