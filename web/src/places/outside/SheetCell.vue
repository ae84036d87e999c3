<script setup lang="ts">
// A cell of a unit's sheet: its figures, the supply at them, and what they come to.
import { computed } from 'vue'
import type { HandView, Mode } from '../../api/types'
import NumberField from '../../kit/NumberField.vue'
import TextField from '../../kit/TextField.vue'
import { spread, watts } from '../../trade/format'
import SeverityMark from '../evidence/SeverityMark.vue'
import { figuresOf } from './sheetCells'
import type { Cell, Row } from './sheetCells'

const cell = defineModel<Cell>({ required: true })
const props = defineProps<{ row: Row; mode: Mode; name: string; shown: HandView | null; problem: string }>()
const wrong = computed(() => {
  const found = cell.value.figures.trim() ? figuresOf(cell.value, props.row) : { wrong: '' }
  return 'wrong' in found ? found.wrong : props.problem
})
</script>

<template>
  <div class="cell">
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
    <p v-if="shown && shown.weakest_watts !== null" class="comes">
      <span class="mono">{{ watts(shown.weakest_watts, shown.expanded_watts) }}</span>
      <span class="quiet"> ± {{ spread(shown.expanded_watts) }} W</span>
    </p>
    <SeverityMark v-for="f in shown?.findings" :key="f.code" :finding="f" />
  </div>
</template>

<style scoped>
.cell {
  display: grid;
  gap: 4px;
}
.cell :deep(.text-field input) {
  font-family: var(--mono);
}
.supply {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.comes {
  margin: 0;
  font-size: 14px;
}
</style>
