<script setup lang="ts">
// A reading in a cell of a unit's sheet: its figures, the supply at them, and what they come to.
import { computed, ref } from 'vue'
import type { HandView, Mode } from '../../api/types'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { figure } from '../../kit/quantity'
import TextField from '../../kit/TextField.vue'
import { CAUSES, percent, spread, watts } from '../../trade/format'
import SeverityMark from '../evidence/SeverityMark.vue'
import { endsOf } from './outsideRun'
import { figuresOf } from './sheetCells'
import type { Cause, Cell, Row, Sort } from './sheetCells'

const CAUSE_CHOICES = Object.entries(CAUSES).map(([value, label]) => ({ value: value as Cause, label }))

const cell = defineModel<Cell>({ required: true })
const props = defineProps<{
  row: Row
  mode: Mode
  sort: Sort
  bursts: readonly string[]
  name: string
  shown: HandView | null
  problem: string
  /** What the clamp said at idle, which the server takes off. */
  idle: number | null
}>()
const emit = defineEmits<{ again: []; drop: [] }>()
const wrong = computed(() => {
  const found = cell.value.figures.trim() ? figuresOf(cell.value.figures, props.sort, props.row) : { wrong: '' }
  return 'wrong' in found ? found.wrong : props.problem
})
const asked = ref(false)
const isMore = computed(
  () =>
    asked.value ||
    [cell.value.end, cell.value.before, cell.value.tripped, cell.value.thd_n, cell.value.tone, cell.value.burst].some(
      (one) => one !== null,
    ),
)
const bursts = computed(() => props.bursts.map((burst) => ({ value: burst, label: burst })))
</script>

<template>
  <div class="cell">
    <template v-if="cell.nth > 1">
      <PickOne
        v-model="cell.cause"
        bare
        :label="`${name}, cause`"
        :choices="CAUSE_CHOICES"
        placeholder="Read again, because …"
      />
      <TextField
        v-model="cell.reason"
        bare
        :label="`${name}, why it was read again`"
        :max="2000"
        placeholder="What was changed"
      />
    </template>
    <TextField
      v-model="cell.figures"
      bare
      :label="name"
      :problem="wrong"
      :placeholder="'… '.repeat(row.places.length)"
    />
    <div class="supply">
      <NumberField v-model="cell.loaded" bare :label="`${name}, supply loaded`" unit="V" :min="1" placeholder="V" />
      <NumberField
        v-if="mode !== 'burst'"
        v-model="cell.amps"
        bare
        :label="`${name}, current`"
        unit="A"
        :min="-2000"
        placeholder="A"
      />
    </div>
    <div v-if="isMore" class="supply" role="group" :aria-label="`More of ${name}`">
      <PickOne v-model="cell.end" class="end" label="Ended" :choices="endsOf(mode)" placeholder="all the way" />
      <NumberField v-model="cell.tripped" label="Tripped at" unit="W" :min="0" />
      <NumberField v-model="cell.before" label="Supply before" unit="V" :min="1" />
      <NumberField v-if="mode !== 'burst'" v-model="cell.thd_n" label="THD+N" unit="%" :min="0" :max="100" />
      <PickOne
        v-if="mode === 'burst'"
        v-model="cell.burst"
        label="Burst"
        :choices="bursts"
        :placeholder="row.group.burst"
      />
      <NumberField
        v-else
        v-model="cell.tone"
        label="Tone"
        unit="Hz"
        :min="1"
        :placeholder="String(row.group.tone_hz)"
      />
    </div>
    <div class="acts no-print">
      <button v-if="!isMore" type="button" :aria-label="`More of ${name}`" @click="asked = true">More …</button>
      <button v-if="cell.figures.trim()" type="button" :aria-label="`Read again: ${name}`" @click="emit('again')">
        Read again
      </button>
      <button v-if="cell.nth > 1" type="button" :aria-label="`Drop: ${name}`" @click="emit('drop')">Drop</button>
    </div>
    <p v-if="shown && shown.weakest_watts !== null" class="comes">
      <span class="mono">{{ watts(shown.weakest_watts, shown.expanded_watts) }}</span>
      <span class="quiet"> ± {{ spread(shown.expanded_watts) }} W</span>
      <template v-if="shown.supply_amps !== null">
        · <span class="mono">{{ figure(shown.supply_amps, 1) }}</span>
        <span class="quiet"> A{{ idle ? ', idle taken off' : '' }}</span>
      </template>
      <template v-if="shown.efficiency_percent !== null">
        · <span class="mono">{{ percent(shown.efficiency_percent) }}</span> <span class="quiet">% efficient</span>
      </template>
    </p>
    <p v-if="shown?.equivalent" class="quiet comes">Stands for {{ shown.equivalent }}</p>
    <SeverityMark v-for="f in shown?.findings" :key="f.code" :finding="f" />
  </div>
</template>

<style scoped>
.cell {
  display: grid;
  gap: 4px;
}
.cell + .cell {
  margin-top: 12px;
}
.cell :deep(.text-field input) {
  font-family: var(--mono);
}
.supply {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.end {
  grid-column: 1 / -1;
}
.acts {
  display: flex;
  gap: 12px;
}
.acts button {
  font: inherit;
  font-size: 13px;
  padding: 2px 0;
  color: var(--ink-2);
  background: none;
  border: none;
  cursor: pointer;
}
.acts button:hover {
  color: var(--ink);
  text-decoration: underline;
}
.comes {
  margin: 0;
  font-size: 14px;
}
</style>
