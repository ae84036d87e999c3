<script setup lang="ts">
// An instrument for the register: a new one, or a calibration, which takes the place of the entry before.
import { computed, nextTick, onMounted, reactive, ref, shallowRef, watch } from 'vue'
import client, { answered } from '../../api/client'
import type { InstrumentView } from '../../api/types'
import { useAct } from '../../kit/act'
import DateField from '../../kit/DateField.vue'
import FileButton from '../../kit/FileButton.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { problemOf, saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import StaleNote from '../../kit/StaleNote.vue'
import TextField from '../../kit/TextField.vue'
import { apart } from '../../kit/useEntry'
import { useSentFile } from '../../trade/sentFile'
import { ROLES } from './roles'

type Entry = InstrumentView['entry']
const props = defineProps<{
  /** What was calibrated; its limits come along. */
  known?: Entry
  instruments: readonly InstrumentView[]
}>()
const emit = defineEmits<{ done: [] }>()
const CHOICES = Object.entries(ROLES).map(([value, label]) => ({ value: value as keyof typeof ROLES, label }))
const FOUND = [
  { value: '' as const, label: 'not said' },
  { value: 'within' as const, label: 'within its limits' },
  { value: 'out' as const, label: 'out of tolerance' },
]
const entry = reactive({
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
  as_found: '' as Entry['as_found'],
  certificate: '',
  certificate_file: null as string | null,
  checked_at: null as number | null,
  found: null as number | null,
  left: null as number | null,
  ...(props.known
    ? {
        ...props.known,
        calibrated_on: null,
        due_on: null,
        as_found: '' as const,
        certificate: '',
        certificate_file: null,
        found: null,
        left: null,
      }
    : {}),
})
const { file, words } = useSentFile(
  () => !!entry.certificate_file,
  (sha256) => (entry.certificate_file = sha256),
)
const stated = () => Object.fromEntries(Object.entries(entry).filter(([, value]) => value !== null)) as unknown as Entry

// The entry that this one takes the place of: as the register stood when the form was opened, not as it stands now.
const inUse = (role: string) => props.instruments.find((one) => one.entry.role === role && one.state !== 'replaced')
const opened = new Map(Object.keys(ROLES).map((role) => [role, inUse(role)?.id ?? 0]))
const theirs = shallowRef<InstrumentView>()
const differences = computed(() => (theirs.value ? apart(stated(), theirs.value.entry) : []))

const { act, pending, problem, forget } = useAct(
  () => {
    const header = { 'If-Match': `${opened.get(entry.role) ?? 0}` }
    return answered(client.POST('/api/gear/instruments', { params: { header }, body: stated() }))
  },
  { done: () => emit('done') },
)
const says = (field: string) => saysOf(problem.value, field)
watch(problem, async (found) => {
  if (!found || problemOf(found).code !== 'stale') return
  const now = await answered(client.GET('/api/gear'))
  theirs.value = now.instruments.find((one) => one.entry.role === entry.role && one.state !== 'replaced')
})

/** Both decide from which entry one goes on. */
function decided(): InstrumentView {
  const found = theirs.value!
  opened.set(found.entry.role, found.id)
  theirs.value = undefined
  return found
}
function keepMine() {
  decided()
  void act()
}
function takeTheirs() {
  Object.assign(entry, decided().entry)
  forget()
}

const form = ref<HTMLElement>()
onMounted(async () => {
  await nextTick()
  form.value?.scrollIntoView({ block: 'nearest' })
  form.value?.querySelector<HTMLElement>(props.known ? '.date-field input' : '.text-field input')?.focus()
})
</script>

<template>
  <form ref="form" class="entry" aria-label="An instrument" @submit.prevent="act()">
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
    <template v-if="entry.calibrated_on">
      <TextField v-model="entry.certificate" label="Certificate" :max="80" :problem="says('certificate')" />
      <div>
        <FileButton
          label="The certificate’s file"
          accept="application/pdf,image/*"
          :disabled="file.pending.value"
          @files="file.act($event[0]!)"
        />
        <p class="quiet sent" role="status">{{ words }}</p>
        <ProblemNote v-if="file.problem.value" :error="file.problem.value" />
      </div>
      <NumberField v-model="entry.checked_at" label="Checked at" :min="0" :problem="says('checked_at')" />
      <NumberField v-model="entry.found" label="Showed, as found" :min="0" :problem="says('found')" />
      <NumberField v-model="entry.left" label="Shows, as left" :min="0" :problem="says('left')" />
      <PickOne v-model="entry.as_found" label="Found, before adjusting" :choices="FOUND" />
      <p v-if="says('as_found')" class="wide danger" role="alert">{{ says('as_found') }}</p>
    </template>
    <p v-if="entry.as_found === 'out'" class="wide quiet" role="status">
      Every rating that rests on a reading taken with it since the calibration before is put on “look again”.
    </p>
    <ProblemNote v-if="problem" class="wide" :error="problem" />
    <StaleNote class="wide" :differences="differences" @mine="keepMine" @theirs="takeTheirs" />
    <div class="acts">
      <a-button html-type="submit" type="primary" :loading="pending" :disabled="!entry.name.trim()"
        >Put it on the register</a-button
      >
      <a-button @click="emit('done')">Leave it</a-button>
    </div>
  </form>
</template>

<style scoped>
.sent {
  min-height: 1.4em;
  margin: 4px 0 0;
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
.danger {
  color: var(--danger);
}
.entry .stale {
  display: block;
}
</style>
