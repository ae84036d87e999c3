<script setup lang="ts">
// A reading by hand, worked out and questioned while it is typed.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useUnit } from '../../api/queries'
import type { HandReading } from '../../api/types'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import DraftNote from '../../kit/DraftNote.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import TextField from '../../kit/TextField.vue'
import { unitTrail } from '../../trade/trails'
import ConditionFields from './ConditionFields.vue'
import HandFigures from './HandFigures.vue'
import './outside.css'
import { BLANK_RUN, groupOf, missingOfRun, placesRead, runOf, VEHICLES } from './outsideRun'
import RunFields from './RunFields.vue'

const props = defineProps<{ id: number }>()
const { data: unit, error, isPending, refetch } = useUnit(() => props.id)
const router = useRouter()
const SORTS = [
  { value: 'volts_rms', label: 'V rms' },
  { value: 'volts_peak', label: 'V peak' },
  { value: 'watts', label: 'W' },
] as const
const UNITS = { volts_rms: 'V rms', volts_peak: 'V peak', watts: 'W' } as const
const kept = useDraft(`rulvek.by-hand.${props.id}`, {
  ...BLANK_RUN,
  sort: 'volts_rms' as keyof typeof UNITS | null,
  values: [] as (number | null)[],
  instrument: '',
  accuracy: 1 as number | null,
  loaded_volts: null as number | null,
  amps: null as number | null,
  idle_amps: null as number | null,
  charger_amps: null as number | null,
  tripped_watts: null as number | null,
  start_watts: null as number | null,
  sink: null as number | null,
  thd_n: null as number | null,
  clamp_zeroed: false,
  controls: false,
  vehicle: null as (typeof VEHICLES)[number]['value'] | null,
  others_unread: false,
  all_loaded: true,
  remark: '',
})
const sheet = kept.draft

// What the desk sent along takes the place of what was typed before.
const route = useRoute()
for (const sort of ['volts_rms', 'volts_peak'] as const) {
  if (route.query[sort]) {
    Object.assign(sheet.value, { sort, values: [Number(route.query[sort])] })
    if (Number(route.query.load)) sheet.value.load = Number(route.query.load)
    void router.replace({ query: {} })
  }
}

const groups = computed(() => unit.value?.model.groups ?? [])
const group = computed(() => groupOf(sheet.value, groups.value))
const places = computed(() => placesRead(sheet.value, group.value))
watch(
  places,
  (now) => {
    if (now.length) sheet.value.values = now.map((_, i) => sheet.value.values[i] ?? null)
  },
  { immediate: true },
)
const someUnread = computed(() => {
  const read = places.value.filter((_, i) => (sheet.value.values[i] ?? null) !== null).length
  return read > 0 && read < places.value.length
})
const run = computed(() => runOf(sheet.value, group.value))
const body = computed<HandReading | null>(() => {
  const said = sheet.value
  if (!run.value || said.accuracy === null) return null
  return {
    run: run.value,
    channels: places.value.map((_, i) => ({ [said.sort ?? 'volts_rms']: said.values[i] ?? null })),
    instrument: said.instrument,
    accuracy_percent: said.accuracy,
    load_measured: said.load_measured,
    start_volts: said.start_volts,
    loaded_volts: said.loaded_volts,
    amps: said.amps,
    idle_amps: said.idle_amps,
    charger_amps: said.charger_amps,
    tripped_watts: said.tripped_watts,
    start_watts: said.start_watts,
    sink_c: said.sink,
    thd_n_percent: said.thd_n,
    end: said.end,
    policy: said.policy ?? 'held',
    read_on: said.read_on,
    clamp_zeroed: said.amps === null ? null : said.clamp_zeroed,
    controls_in_position: said.controls,
    all_loaded: said.all_loaded,
    others_unread: someUnread.value && said.others_unread,
    vehicle: said.policy === 'bank' ? said.vehicle : null,
    reason: '',
    remark: said.remark,
  }
})
// While it is being worked out the reading may be kept already: a fast Enter is not lost, the server has the last word.
const {
  data: shown,
  error: refused,
  isFetching,
} = useQuery({
  queryKey: ['by-hand', () => props.id, body],
  enabled: computed(() => body.value !== null),
  placeholderData: keepPreviousData,
  retry: false,
  meta: { fixed: true },
  queryFn: () =>
    answered(
      client.POST('/api/units/{unit_id}/typed/preview', { params: { path: { unit_id: props.id } }, body: body.value! }),
    ),
})
const missing = computed(() => {
  const ofRun = missingOfRun(sheet.value)
  if (ofRun) return ofRun
  if (!sheet.value.end) return 'Say how the run ended.'
  if (sheet.value.accuracy === null) return 'Say how exact the instrument is, in percent of its volts.'
  if (!sheet.value.instrument.trim()) return 'Name the instrument that was read.'
  return ''
})
const { act, pending, problem } = useAct(
  () =>
    answered(client.POST('/api/units/{unit_id}/typed', { params: { path: { unit_id: props.id } }, body: body.value! })),
  {
    done: async (made) => {
      kept.forget()
      await router.push(`/attempts/${made.attempt_id}`)
    },
  },
)
const wrong = computed(() => problem.value ?? refused.value)
const says = (field: string) => saysOf(wrong.value, field)
function keep() {
  if (!missing.value && (isFetching.value || shown.value?.complete)) void act()
}
</script>

<template>
  <PageFrame
    title="A reading by hand"
    :trail="unit ? unitTrail(unit, 'By hand') : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template v-if="unit">
      <h1>
        A reading by hand <span class="mono quiet">{{ unit.unit.serial }}</span>
      </h1>
      <DraftNote :draft="kept" />
      <div class="two outside">
        <form class="sheet" @submit.prevent="keep">
          <RunFields v-model="sheet" :groups="groups" :defaults="unit.model.defaults" :problem="wrong" proofs />
          <fieldset>
            <legend>Read at the load</legend>
            <PickOne v-model="sheet.sort" label="As" :choices="SORTS" />
            <NumberField
              v-for="(place, i) in places"
              :key="place.channel"
              v-model="sheet.values[i]!"
              :label="`Channel ${place.name}`"
              :unit="UNITS[sheet.sort ?? 'volts_rms']"
              :min="0"
              :problem="says(`channels.${i}.${sheet.sort}`)"
            />
            <a-checkbox v-if="someUnread" v-model:checked="sheet.others_unread" class="check"
              >the others were not read</a-checkbox
            >
            <NumberField v-model="sheet.thd_n" label="THD+N" unit="%" :min="0" :max="100" />
            <TextField
              v-model="sheet.instrument"
              class="name"
              label="Instrument"
              :max="120"
              :problem="says('instrument')"
            />
            <NumberField
              v-model="sheet.accuracy"
              label="Its limits, ± of volts"
              unit="%"
              required
              :min="0"
              :problem="says('accuracy_percent')"
            />
          </fieldset>
          <fieldset>
            <legend>Supply at the terminals</legend>
            <PickOne
              v-if="sheet.policy === 'bank'"
              v-model="sheet.vehicle"
              label="From"
              :choices="VEHICLES"
              placeholder="a bank"
            />
            <NumberField v-model="sheet.start_volts" label="Before" unit="V" :min="1" :problem="says('start_volts')" />
            <NumberField
              v-model="sheet.loaded_volts"
              label="At the reading"
              unit="V"
              :min="1"
              :problem="says('loaded_volts')"
            />
            <NumberField v-model="sheet.amps" label="Current" unit="A" :min="-2000" :problem="says('amps')" />
            <NumberField
              v-model="sheet.idle_amps"
              label="Clamp at idle"
              unit="A"
              :min="-2000"
              :problem="says('idle_amps')"
            />
            <ConditionFields v-model="sheet" />
          </fieldset>
          <fieldset>
            <legend>If it was seen</legend>
            <NumberField v-model="sheet.start_watts" label="At the start" unit="W" :min="0" />
            <NumberField
              v-model="sheet.tripped_watts"
              label="Protection tripped at"
              unit="W"
              :min="0"
              :problem="says('tripped_watts')"
            />
            <NumberField v-model="sheet.charger_amps" label="A charger added" unit="A" :min="0" />
            <NumberField v-model="sheet.sink" label="Heat sink before" unit="°C" />
          </fieldset>
          <TextField v-model="sheet.remark" class="remark" label="Remark" :max="2000" />
          <ProblemNote v-if="problem" :error="problem" />
          <div class="acts">
            <a-button
              html-type="submit"
              type="primary"
              size="large"
              :loading="pending"
              :disabled="!!missing || (!isFetching && !shown?.complete)"
              >Keep the reading <kbd>Enter</kbd></a-button
            >
            <a-button v-if="kept.canUndo.value" size="large" @click="kept.undo()">Undo</a-button>
            <span class="quiet">{{ missing }}</span>
          </div>
        </form>
        <aside aria-live="polite">
          <ProblemNote v-if="refused && !problem" :error="refused" />
          <HandFigures v-if="shown" :shown="shown" :places="places" />
          <p v-else-if="missing" class="quiet">{{ missing }} The reading is worked out here.</p>
        </aside>
      </div>
    </template>
  </PageFrame>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1.35fr 1fr;
  gap: 44px;
  padding-top: 14px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
