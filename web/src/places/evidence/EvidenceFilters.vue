<script setup lang="ts">
// Which evidence is shown; what is picked stands in the address.
import { useChecks } from '../../api/queries'
import { useAddress } from '../../kit/address'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import TextField from '../../kit/TextField.vue'
import DateField from '../../kit/DateField.vue'
import { END_WORDS, MODE_WORDS } from '../../trade/format'
import { computed } from 'vue'

const any = (label: string) => ({ value: '', label })
const words = (all: Record<string, string>) => Object.entries(all).map(([value, label]) => ({ value, label }))
const MODES = [any('any mode'), ...words(MODE_WORDS)]
const ENDS = [any('any end'), ...words(END_WORDS)]
const { data: codes } = useChecks()
const checks = computed(() => [
  any('any'),
  { value: 'any', label: 'with a doubt, or invalid' },
  ...(codes.value ?? []).map((code) => ({ value: code, label: code.replaceAll('-', ' ') })),
])
const STANDS = [
  any('standing or not'),
  { value: 'true', label: 'stands for its run' },
  { value: 'false', label: 'does not stand' },
]

const model = useAddress<string>('model', '')
const unit = useAddress<string>('unit', '')
const mode = useAddress<string>(
  'mode',
  '',
  MODES.map((m) => m.value),
)
const load = useAddress<string>('load', '')
const end = useAddress<string>(
  'end',
  '',
  ENDS.map((e) => e.value),
)
const person = useAddress<string>('person', '')
const since = useAddress<string>('since', '')
const until = useAddress<string>('until', '')
const check = useAddress<string>('check', '')
const stands = useAddress<string>(
  'stands',
  '',
  STANDS.map((s) => s.value),
)
const ohms = computed({
  get: () => (load.value ? Number(load.value) : null),
  set: (value: number | null) => (load.value = value === null ? '' : String(value)),
})
const day = (of: typeof since) =>
  computed({ get: () => of.value || null, set: (value: string | null) => (of.value = value ?? '') })
const [from, to] = [day(since), day(until)]
</script>

<template>
  <form class="filters no-print" aria-label="What is shown" @submit.prevent>
    <TextField v-model="model" label="Model" :max="80" />
    <TextField v-model="unit" label="Unit" :max="80" />
    <PickOne v-model="mode" label="Mode" :choices="MODES" />
    <NumberField v-model="ohms" label="Load" unit="Ω" :min="0.01" :max="1000" />
    <PickOne v-model="end" label="End" :choices="ENDS" />
    <PickOne v-model="check" label="Checks" :choices="checks" />
    <PickOne v-model="stands" label="Of its run" :choices="STANDS" />
    <TextField v-model="person" label="By" :max="80" />
    <DateField v-model="from" label="From" />
    <DateField v-model="to" label="To" />
  </form>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 8px 14px;
  margin: 14px 0;
}
</style>
