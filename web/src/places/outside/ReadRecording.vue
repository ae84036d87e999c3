<script setup lang="ts">
// A recorded capture: dropped, laid out, read in the background, looked at, and kept as an attempt.
import { computed, watch } from 'vue'
import { useUnit } from '../../api/queries'
import { useDraft } from '../../kit/draft'
import DraftNote from '../../kit/DraftNote.vue'
import FileDrop from '../../kit/FileDrop.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import TextField from '../../kit/TextField.vue'
import { unitTrail } from '../../trade/trails'
import ConditionFields from './ConditionFields.vue'
import './outside.css'
import { BLANK_RUN, groupOf, missingOfRun, placesRead, runOf } from './outsideRun'
import RecordingColumns from './RecordingColumns.vue'
import RecordingFound from './RecordingFound.vue'
import { missing, proposed, rowsOf } from './recordingRows'
import type { ColumnDraft } from './recordingRows'
import RunFields from './RunFields.vue'
import { useRecording } from './useRecording'

const props = defineProps<{ id: number }>()
const { data: unit, error, isPending, refetch } = useUnit(() => props.id)
const { recording, gone, sending, sent, take, read, stop, letGo, keep, keeping, problem } = useRecording()
const kept = useDraft(`rulvek.recording.${props.id}`, {
  ...BLANK_RUN,
  instrument: '',
  accuracy: 1 as number | null,
  loaded_volts: null as number | null,
  amps: null as number | null,
  clamp_zeroed: false,
  controls: false,
  all_loaded: true,
  remark: '',
  rate: null as number | null,
  of: '',
  columns: [] as ColumnDraft[],
})
const sheet = kept.draft
const groups = computed(() => unit.value?.model.groups ?? [])
const group = computed(() => groupOf(sheet.value, groups.value))
const places = computed(() => placesRead(sheet.value, group.value))
watch(
  [recording, () => places.value.map((place) => place.channel)],
  ([now, channels], [, before]) => {
    const isNew = now && (sheet.value.of !== now.id || !sheet.value.columns.length)
    const isRewired = before?.length && channels.join() !== before.join()
    if (now && channels.length && (isNew || isRewired)) {
      sheet.value.of = now.id
      sheet.value.columns = proposed(now.layout, channels)
    }
  },
  { immediate: true },
)
const reading = computed(() => recording.value?.state === 'reading')
const attempt = computed(() => recording.value?.attempt ?? null)
const left = computed(() => {
  if (!recording.value) return ''
  if (sheet.value.accuracy === null) return 'Say how exact the recorder is, in percent of its volts.'
  return missingOfRun(sheet.value) || missing(sheet.value.columns, recording.value.layout, sheet.value.rate)
})
const says = (field: string) => saysOf(problem.value, field)

async function begin() {
  const said = sheet.value
  const run = runOf(said, group.value)
  if (!run || said.accuracy === null || left.value || reading.value) return
  const time = said.columns.findIndex((c) => c.quantity === 'time')
  await read({
    unit_id: props.id,
    run,
    rows: rowsOf(said.columns),
    instrument: said.instrument,
    accuracy_percent: said.accuracy,
    load_measured: said.load_measured,
    time_column: time < 0 ? null : time,
    sample_rate: time < 0 ? said.rate : null,
    start_volts: said.start_volts,
    loaded_volts: said.loaded_volts,
    amps: said.amps,
    clamp_zeroed: said.amps === null ? null : said.clamp_zeroed,
    controls_in_position: said.controls,
    all_loaded: said.all_loaded,
    remark: said.remark,
    policy: said.policy ?? 'held',
    read_on: said.read_on,
    end: said.end,
  })
}
async function keepIt() {
  if (await keep()) kept.forget()
}
async function takeFile(file: File) {
  if (recording.value) await letGo()
  await take(file)
}
const size = (bytes: number) => (bytes < 1e6 ? `${figure(bytes / 1e3, 0)} kB` : `${figure(bytes / 1e6, 1)} MB`)
</script>

<template>
  <PageFrame
    title="A recording"
    :trail="unit ? unitTrail(unit, 'A recording') : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <div v-if="unit" class="outside">
      <header class="head">
        <h1>
          A recording <span class="mono quiet">{{ unit.unit.serial }}</span>
        </h1>
        <p v-if="recording" class="quiet">
          {{ recording.name }}, {{ size(recording.bytes) }}
          <button class="plain" @click="letGo()">Take another file</button>
        </p>
      </header>
      <DraftNote :draft="kept" />
      <ProblemNote v-if="problem" :error="problem" />

      <FileDrop v-if="!recording" accept=".wav,.csv,.txt,.tsv" @file="takeFile">
        <template v-if="sending">
          <span>Sending, {{ figure(100 * sent, 0) }} %</span>
          <progress :value="sent" aria-label="Sent" />
          <button class="plain" @click.prevent="sending.stop()">Stop</button>
        </template>
        <template v-else>
          <strong>Drop a capture here, or choose a file</strong>
          <span class="quiet"
            >WAV, or CSV of time, volts and amps, up to 500 MB: a steady tone, a level sweep or bursts. What it holds is
            found by itself.</span
          >
          <span v-if="gone" class="quiet">The file that was here before is gone; drop it again.</span>
        </template>
      </FileDrop>

      <div v-else class="two">
        <form @submit.prevent="begin">
          <RunFields v-model="sheet" :groups="groups" :defaults="unit.model.defaults" :problem="problem" tone-found />
          <RecordingColumns
            v-model:columns="sheet.columns"
            v-model:rate="sheet.rate"
            :layout="recording.layout"
            :places="places"
          />
          <fieldset>
            <legend>What no column tells</legend>
            <TextField
              v-model="sheet.instrument"
              class="name"
              label="Recorded with"
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
            <NumberField
              v-model="sheet.start_volts"
              label="Supply before"
              unit="V"
              :min="1"
              :problem="says('start_volts')"
            />
            <NumberField
              v-model="sheet.loaded_volts"
              label="Loaded"
              unit="V"
              :min="1"
              :problem="says('loaded_volts')"
            />
            <NumberField v-model="sheet.amps" label="Current" unit="A" :min="0" :problem="says('amps')" />
            <ConditionFields v-model="sheet" />
          </fieldset>
          <TextField v-model="sheet.remark" class="remark" label="Remark" :max="2000" />
          <p v-if="left" class="quiet">{{ left }}</p>
          <a-button
            html-type="submit"
            :type="attempt ? 'default' : 'primary'"
            size="large"
            :disabled="!!left || reading"
          >
            {{ attempt ? 'Read it again' : 'Read it' }} <kbd>Enter</kbd>
          </a-button>
        </form>

        <aside aria-live="polite">
          <div v-if="reading" class="working">
            <span>{{ recording.doing }}</span>
            <progress :value="recording.done" :aria-label="recording.doing" />
            <a-button @click="stop()">Stop</a-button>
          </div>
          <p v-else-if="recording.state === 'failed'" class="failed" role="alert">{{ recording.problem }}</p>
          <p v-else-if="recording.state === 'stopped'" class="quiet">Stopped. The file is still here.</p>
          <p v-else-if="recording.state === 'laid out'" class="quiet">
            Say what the columns are, then read it: the wave and what is found on it appear here.
          </p>
          <RecordingFound
            v-if="recording.found && attempt"
            :found="recording.found"
            :attempt="attempt"
            :places="places"
            :keeping="keeping"
            @keep="keepIt"
          />
        </aside>
      </div>
    </div>
  </PageFrame>
</template>

<style scoped>
h1 .mono {
  font-weight: 400;
  font-size: 18px;
  margin-left: 6px;
}
progress {
  width: min(320px, 100%);
  accent-color: var(--certified);
}
.two {
  display: grid;
  grid-template-columns: 1.1fr 1fr;
  gap: 40px;
  padding-top: 14px;
}
form kbd {
  margin-left: 8px;
  color: inherit;
  border-color: currentColor;
}
.working {
  display: grid;
  justify-items: start;
  gap: 8px;
}
.failed {
  padding: 8px 12px;
  border-left: 3px solid var(--danger);
  background: var(--sheet);
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
