<script setup lang="ts">
// Another instrument at the same attempt: its readings beside those that count, with E_n, and a way to add one.
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import type { AttemptPage, SecondView } from '../../api/types'
import { useMay } from '../../api/me'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import FormDialog from '../../kit/FormDialog.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'
import ChangedNote from '../../trade/ChangedNote.vue'
import { channelName, decibels } from '../../trade/format'
import { powerColumns } from '../../trade/powerColumns'

const props = defineProps<{ page: AttemptPage }>()
const mayMeasure = useMay('measure')
const SORTS = [
  { value: 'volts_rms', label: 'V rms' },
  { value: 'watts', label: 'W' },
] as const
const open = ref(false)
const instrument = ref('')
const accuracy = ref<number | null>(null)
const sort = ref<'volts_rms' | 'watts' | null>('volts_rms')
const values = ref<(number | null)[]>([])
const readings = computed(() => props.page.attempt.readings)
const ready = computed(
  () => !!instrument.value.trim() && accuracy.value !== null && values.value.some((value) => value !== null),
)

function ask() {
  values.value = readings.value.map(() => null)
  forget()
  open.value = true
}
const { act, pending, problem, forget } = useAct(
  () => {
    const channels = readings.value.map((r, i) => ({
      channel: r.channel,
      [sort.value ?? 'volts_rms']: values.value[i] ?? null,
    }))
    return answered(
      client.POST('/api/attempts/{attempt_id}/second', {
        params: { path: { attempt_id: props.page.attempt.id } },
        body: { instrument: instrument.value, accuracy_percent: accuracy.value!, channels },
      }),
    )
  },
  { done: () => (open.value = false) },
)
const says = (field: string) => saysOf(problem.value, field)

const COLUMNS: Column<SecondView>[] = [
  { key: 'instrument', head: 'Second instrument', text: (s) => s.instrument },
  { key: 'channel', head: 'Channel', text: (s) => channelName(props.page.run, s.channel), value: (s) => s.channel },
  ...powerColumns<SecondView>('Power', (s) => ({ watts: s.watts, u: s.expanded_watts }), 'its own ± U'),
  {
    key: 'en',
    head: 'Eₙ',
    num: true,
    text: (s) => decibels(s.normalised_error),
    value: (s) => s.normalised_error,
  },
]
</script>

<template>
  <div class="second">
    <DataTable
      v-if="page.seconds.length"
      :id="(s) => `${s.instrument} ${s.channel} ${s.watts}`"
      name="Second instruments"
      :rows="page.seconds"
      :columns="COLUMNS"
      fixed
      plain
    >
      <template #instrument="{ row }"
        ><span :title="row.by">{{ row.instrument }}</span></template
      >
      <template #en="{ row }"
        ><span :class="{ danger: row.disagrees }">{{ decibels(row.normalised_error) }}</span></template
      >
    </DataTable>
    <button v-if="mayMeasure" class="plain" @click="ask">Add a second instrument’s reading …</button>
    <FormDialog
      :open="open"
      title="A second instrument, same attempt"
      act="Keep it"
      hint="What another meter or oscilloscope read on the same terminals at the same moment. The first reading stands; the two are compared by Eₙ with what belongs to each instrument alone."
      :ready="ready"
      :pending="pending"
      :problem="problem"
      @done="act"
      @cancel="open = false"
    >
      <ChangedNote :subject="`campaign/${page.campaign_id}`" :open="open" />
      <div class="fields">
        <TextField v-model="instrument" class="wide" label="Instrument" :max="120" :problem="says('instrument')" />
        <NumberField v-model="accuracy" label="Its limits, ± of volts" unit="%" :min="0" />
        <PickOne v-model="sort" label="Read as" :choices="SORTS" spread />
        <NumberField
          v-for="(r, i) in readings"
          :key="r.channel"
          v-model="values[i]!"
          :label="`Channel ${channelName(page.run, r.channel)}`"
          :unit="sort === 'watts' ? 'W' : 'V'"
          :min="0"
        />
      </div>
    </FormDialog>
  </div>
</template>

<style scoped>
.second {
  margin-top: 8px;
}
.plain {
  font: inherit;
  font-size: 14px;
  color: var(--certified);
  background: none;
  border: none;
  padding: 4px 0;
  cursor: pointer;
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 16px;
  padding: 12px 0;
}
.wide {
  grid-column: span 2;
}
</style>
