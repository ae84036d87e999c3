<script setup lang="ts">
// The quick sheet: a reading by hand, worked out and questioned while it is typed.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useWho } from '../../kit/who'
import { stored } from '../../kit/stored'
import { refreshEvidence, useUnit } from '../../api/queries'
import type { Mode } from '../../api/types'
import FindingsList from '../../trade/FindingsList.vue'
import { figure } from '../../kit/quantity'
import { percent, spread, watts } from '../../trade/format'
import ProblemNote from '../../kit/ProblemNote.vue'
import Trail from '../../kit/Trail.vue'
import './outside.css'
import { channelName, channelsRead, groupOf, number, runOf } from './outsideRun'
import RunFields from './RunFields.vue'

type Sort = 'watts' | 'volts_rms' | 'volts_peak'

const props = defineProps<{ id: number }>()
const { data: unit, error } = useUnit(() => props.id)
const router = useRouter()
const queries = useQueryClient()
const person = useWho()
const problem = ref<unknown>(null)
const key = `rulvek.typed.${props.id}`
const EMPTY = {
  mode: 'certified' as Mode,
  group: '',
  load: 4 as number | '',
  bridged: false,
  sort: 'volts_rms' as Sort,
  values: [] as (number | '')[],
  instrument: '',
  accuracy: 1,
  load_measured: '' as number | '',
  start_volts: '' as number | '',
  loaded_volts: '' as number | '',
  amps: '' as number | '',
  charger_amps: '' as number | '',
  start_watts: '' as number | '',
  sink: '' as number | '',
  thd_n: '' as number | '',
  clamp_zeroed: false,
  controls: false,
  all_loaded: true,
  remark: '',
}
const sheet = reactive(stored(localStorage, key, EMPTY))
watch(sheet, (now) => localStorage.setItem(key, JSON.stringify(now)))

// What the desk sent along takes the place of what was typed before.
const route = useRoute()
for (const sort of ['volts_rms', 'volts_peak'] as const) {
  if (route.query[sort]) {
    Object.assign(sheet, { sort, values: [Number(route.query[sort])], load: Number(route.query.load) || sheet.load })
    void router.replace({ query: {} })
  }
}

const groups = computed(() => unit.value?.model.groups ?? [])
const group = computed(() => groupOf(sheet, groups.value))
const places = computed(() => channelsRead(sheet, group.value).map((c) => channelName(c, sheet.bridged)))
const body = computed(() => ({
  run: runOf(sheet, group.value),
  channels: places.value.map((_, i) => ({ [sheet.sort]: number(sheet.values[i] ?? '') })),
  instrument: sheet.instrument,
  accuracy_percent: sheet.accuracy || 0,
  load_measured: number(sheet.load_measured),
  start_volts: number(sheet.start_volts),
  loaded_volts: number(sheet.loaded_volts),
  amps: number(sheet.amps),
  charger_amps: number(sheet.charger_amps),
  start_watts: number(sheet.start_watts),
  sink_c: number(sheet.sink),
  thd_n_percent: number(sheet.thd_n),
  end: sheet.mode === 'uncertified' ? ('clip' as const) : ('limit' as const),
  clamp_zeroed: sheet.amps === '' ? null : sheet.clamp_zeroed,
  controls_in_position: sheet.controls,
  all_loaded: sheet.all_loaded,
  remark: sheet.remark,
}))
// While it is being worked out the reading may be kept already: a fast Enter is not lost, the server has the last word.
const {
  data: shown,
  error: refused,
  isFetching,
} = useQuery({
  queryKey: ['typed', () => props.id, body],
  enabled: computed(() => places.value.length > 0),
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () =>
    answered(
      client.POST('/api/units/{unit_id}/typed/preview', { params: { path: { unit_id: props.id } }, body: body.value }),
    ),
})

async function keep() {
  if (!(await person.required())) return
  problem.value = null
  try {
    const params = { path: { unit_id: props.id } }
    const kept = await answered(client.POST('/api/units/{unit_id}/typed', { params, body: body.value }))
    localStorage.removeItem(key)
    refreshEvidence(queries)
    await router.push(`/attempts/${kept.attempt_id}`)
  } catch (failure) {
    problem.value = failure
  }
}
</script>

<template>
  <ProblemNote v-if="error" :error="error" />
  <template v-if="unit">
    <Trail
      :steps="[
        { name: unit.model.series_name },
        { name: unit.model.name, to: `/models/${unit.model.id}` },
        { name: unit.unit.serial, to: `/units/${unit.unit.id}` },
        { name: 'By hand' },
      ]"
    />
    <h1>
      A reading by hand <span class="mono quiet">{{ unit.unit.serial }}</span>
    </h1>
    <div class="two outside">
      <form class="sheet" @submit.prevent="keep">
        <RunFields v-model="sheet" :groups="groups" />
        <fieldset>
          <legend>Read at the load</legend>
          <label>
            As
            <select v-model="sheet.sort">
              <option value="volts_rms">V rms</option>
              <option value="volts_peak">V peak</option>
              <option value="watts">W</option>
            </select>
          </label>
          <label v-for="(place, i) in places" :key="place">
            Channel {{ place }}
            <input v-model.number="sheet.values[i]" type="number" step="any" min="0" />
          </label>
          <label>THD+N, % <input v-model.number="sheet.thd_n" type="number" step="any" min="0" max="100" /></label>
          <label class="name">Instrument <input v-model="sheet.instrument" type="text" maxlength="120" /></label>
          <label
            >Its limits, ± % of volts <input v-model.number="sheet.accuracy" type="number" step="any" min="0"
          /></label>
        </fieldset>
        <fieldset>
          <legend>Supply</legend>
          <label>Before, V <input v-model.number="sheet.start_volts" type="number" step="any" min="1" /></label>
          <label
            >At the reading, V <input v-model.number="sheet.loaded_volts" type="number" step="any" min="1"
          /></label>
          <label>Current, A <input v-model.number="sheet.amps" type="number" step="any" min="0" /></label>
          <label class="check"><input v-model="sheet.clamp_zeroed" type="checkbox" /> clamp was zeroed</label>
          <label class="check"><input v-model="sheet.controls" type="checkbox" /> controls in test position</label>
          <label class="check"
            ><input v-model="sheet.all_loaded" type="checkbox" /> all channels loaded and driven</label
          >
        </fieldset>
        <fieldset>
          <legend>If it was seen</legend>
          <label>At the start, W <input v-model.number="sheet.start_watts" type="number" step="any" min="0" /></label>
          <label
            >A charger added, A <input v-model.number="sheet.charger_amps" type="number" step="any" min="0"
          /></label>
          <label>Heat sink before, °C <input v-model.number="sheet.sink" type="number" step="any" /></label>
        </fieldset>
        <label class="remark">Remark <input v-model="sheet.remark" type="text" maxlength="2000" /></label>
        <ProblemNote v-if="problem" :error="problem" />
        <a-button html-type="submit" type="primary" size="large" :disabled="!isFetching && !shown?.complete">
          Keep the reading <kbd>Enter</kbd>
        </a-button>
      </form>
      <aside aria-live="polite">
        <ProblemNote v-if="refused" :error="refused" />
        <template v-if="shown">
          <p class="main">
            <span class="mono">{{ watts(shown.weakest_watts, shown.expanded_watts) }}</span> W
          </p>
          <p class="quiet">
            ± {{ spread(shown.expanded_watts) }} W, weakest; average {{ watts(shown.average_watts) }} W
          </p>
          <table class="figures">
            <tbody>
              <tr v-for="(c, i) in shown.channels" :key="c.channel">
                <td>{{ places[i] }}</td>
                <td class="num">{{ watts(c.watts) }} W</td>
                <td class="quiet">{{ c.how }}</td>
              </tr>
            </tbody>
          </table>
          <dl>
            <dt>Sag</dt>
            <dd>{{ figure(shown.sag_volts, 2) }} V</dd>
            <dt>Efficiency</dt>
            <dd>{{ percent(shown.efficiency_percent) }} %</dd>
            <template v-if="shown.equivalent">
              <dt>Stands for</dt>
              <dd>{{ shown.equivalent }}</dd>
            </template>
          </dl>
          <FindingsList :findings="shown.findings" />
        </template>
      </aside>
    </div>
  </template>
</template>

<style scoped>
h1 .mono {
  font-weight: 400;
  font-size: 18px;
  margin-left: 6px;
}
.two {
  display: grid;
  grid-template-columns: 1.35fr 1fr;
  gap: 44px;
  padding-top: 14px;
}
form kbd {
  margin-left: 8px;
  color: inherit;
  border-color: currentColor;
}
</style>
