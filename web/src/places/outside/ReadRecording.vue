<script setup lang="ts">
// A recorded capture: dropped, laid out, read in the background, looked at, and kept as an attempt.
import { computed, watch } from 'vue'
import { useUnit } from '../../api/queries'
import { useDraft } from '../../kit/draft'
import DraftNote from '../../kit/DraftNote.vue'
import FileDrop from '../../kit/FileDrop.vue'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import TextField from '../../kit/TextField.vue'
import { unitTrail } from '../../trade/trails'
import './outside.css'
import { groupOf, placesRead } from './outsideRun'
import RecorderFields from './RecorderFields.vue'
import RecordingColumns from './RecordingColumns.vue'
import RecordingFound from './RecordingFound.vue'
import RecordingState from './RecordingState.vue'
import { BLANK_RECORDING, setupOf, missingOf } from './recordingDraft'
import { proposed } from './recordingRows'
import RunFields from './RunFields.vue'
import { useRecording } from './useRecording'

const props = defineProps<{ id: number }>()
const { data: unit, error, isPending, refetch } = useUnit(() => props.id)
const { recording, gone, sending, sent, take, read, stop, letGo, keep, keeping, problem } = useRecording()
const kept = useDraft(`rulvek.recording.${props.id}`, BLANK_RECORDING)
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
const left = computed(() => (recording.value ? missingOf(sheet.value, recording.value.layout) : ''))

async function begin() {
  const setup = setupOf(sheet.value, group.value)
  if (setup && !left.value && !reading.value) await read(props.id, setup)
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
          <RecorderFields v-model="sheet" :problem="problem" />
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
          <RecordingState :recording="recording" @stop="stop()" />
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
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
