<script setup lang="ts">
// An audio interface calibrated beside a meter: cables and slips are looked at, then each output asks for a reading.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import type { CalibratingView } from '../../api/types'
import { useAct } from '../../kit/act'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import TextField from '../../kit/TextField.vue'
import AskedByHand from '../bench/AskedByHand.vue'
import LooksList from './LooksList.vue'

/** Which interface, and how many outputs and inputs it has. */
const props = defineProps<{ address: string; channels: number; meter: string; uPercent: number | null }>()
const emit = defineEmits<{ found: [levels: NonNullable<CalibratingView['levels']>] }>()
const ASK_MS = 400
const underWay = (one: CalibratingView | undefined) => one?.state === 'looking' || one?.state === 'asking'
/** What a meter says nothing of. */
const UNSAID = { serial: '', percent_of_range: 0, full_range: 0, digits: 0, resolution: 0, as_found: '' as const }
const RATES = [44_100, 48_000, 96_000, 192_000].map((one) => ({ value: `${one}`, label: `${one / 1000} kHz` }))
const mayMeasure = useMay('measure')
const mayPlan = useMay('plan')
const rate = ref<string | null>('48000')
const response = ref('')
const { data: now } = useQuery({
  queryKey: ['calibrating'],
  queryFn: () => answered(client.GET('/api/instruments/levels')),
  refetchInterval: (query) => (underWay(query.state.data as CalibratingView | undefined) ? ASK_MS : false),
})
/** What is told is of this interface. */
const mine = computed(() => (now.value?.address === props.address ? now.value : undefined))
const elsewhere = computed(() => underWay(now.value) && !mine.value)
const begin = useAct(() =>
  answered(
    client.POST('/api/instruments/levels', {
      body: {
        address: props.address,
        meter: props.meter,
        channels: props.channels,
        rate: Number(rate.value),
        u_percent: props.uPercent ?? 0,
        response_hz: response.value
          .split(/[;\s]+/)
          .filter((one) => one)
          .map((one) => Number(one.replace(',', '.'))),
      },
    }),
  ),
)
const stop = useAct(() => answered(client.DELETE('/api/instruments/levels')), { asksWho: false })
const answer = (question: number, value: number | null) =>
  answered(client.POST('/api/instruments/levels/answers', { body: { question, value } }))
const register = useAct((levels: NonNullable<CalibratingView['levels']>) =>
  answered(
    client.POST('/api/gear/instruments', {
      body: {
        ...UNSAID,
        role: 'output',
        name: props.address.replace(/^sound:/, ''),
        percent_of_reading: levels.u_percent,
        calibrated_on: levels.on,
        certificate: `beside ${levels.meter}, ${levels.at_hz} Hz`,
      },
    }),
  ),
)
const registered = ref(false)
async function enter() {
  if (mine.value?.levels) registered.value = await register.act(mine.value.levels)
}
const missing = computed(() => (!props.address ? 'which interface' : !props.meter.trim() ? 'beside which meter' : ''))
const says = (field: string) => saysOf(begin.problem.value, field)
const ofResponse = computed(() =>
  response.value
    .split(/[;\s]+/)
    .filter((one) => one)
    .map((_, at) => says(`response_hz.${at}`))
    .find((one) => one),
)
</script>

<template>
  <section class="calibrating" aria-label="Found beside a meter">
    <template v-if="mayMeasure && !underWay(now)">
      <p class="quiet">
        A cable from each output to the input of its number, the meter across it,
        <strong>nothing else connected</strong>: outputs send up to 3 dB below full scale.
      </p>
      <div class="ask">
        <PickOne v-model="rate" label="Rate" :choices="RATES" />
        <TextField
          v-model="response"
          label="Response wanted at, Hz"
          placeholder="20 100 10000 20000"
          :max="200"
          :problem="ofResponse || says('response_hz')"
        />
        <a-button :loading="begin.pending.value" :disabled="!!missing" @click="begin.act()">Find them with me</a-button>
        <span v-if="missing" class="quiet">Say {{ missing }} first.</span>
      </div>
      <ProblemNote v-if="begin.problem.value && !ofResponse" :error="begin.problem.value" />
    </template>
    <p v-if="elsewhere" class="quiet" role="status">{{ now?.person }} calibrates {{ now?.address }} now.</p>
    <template v-if="mine && mine.state !== 'none'">
      <LooksList v-if="mine.looked.length" :looks="mine.looked" />
      <p v-if="mine.state === 'looking'" role="status">Looking at cables, cross-talk and slips…</p>
      <template v-if="mine.state === 'asking'">
        <p class="quiet" role="status">
          Reading {{ Math.min(mine.answered + 1, mine.questions) }} of {{ mine.questions }}.
        </p>
        <AskedByHand :asked="mine.question" :may-answer="mayMeasure" :answer="answer" />
      </template>
      <a-button v-if="underWay(mine)" danger :loading="stop.pending.value" @click="stop.act()">Stop it</a-button>
      <ProblemNote v-if="stop.problem.value" :error="stop.problem.value" />
      <p v-if="mine.state === 'failed'" role="alert" class="bad">{{ mine.problem }}</p>
      <p v-if="mine.state === 'stopped'" role="status">It was stopped; nothing is kept.</p>
      <div v-if="mine.levels" class="levels" role="status">
        <p>
          Found: outputs give {{ mine.levels.output_volts.map((one) => figure(one, 3)).join(', ') }} V, inputs take
          {{ mine.levels.input_volts.map((one) => figure(one, 3)).join(', ') }} V<template
            v-if="mine.levels.input_response?.length"
            >, with the response at {{ mine.levels.input_response.length }} frequencies</template
          ><template v-if="mine.levels.inverted_inputs?.length"
            >; inverted at input {{ mine.levels.inverted_inputs.join(', ') }}</template
          >.
        </p>
        <a-button type="primary" ghost @click="emit('found', mine.levels)">Take them</a-button>
        <a-button v-if="mayPlan && !registered" :loading="register.pending.value" @click="enter()"
          >Put it on the gear register</a-button
        >
        <span v-if="registered" class="quiet">It is on the register, as what reads the outputs.</span>
        <ProblemNote v-if="register.problem.value" :error="register.problem.value" />
      </div>
    </template>
  </section>
</template>

<style scoped>
.calibrating {
  margin-top: 8px;
  font-size: 14px;
}
.ask {
  display: grid;
  grid-template-columns: 110px 1fr auto;
  gap: 10px 16px;
  align-items: end;
}
.bad {
  color: var(--danger);
}
.levels {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.levels p {
  flex: 1 1 100%;
  margin: 6px 0 0;
}
p {
  margin: 6px 0;
}
</style>
