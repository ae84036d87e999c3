<script setup lang="ts">
// What each column of a recorded file is, and what makes volts or amps of its numbers.
import type { LayoutView, ReadPlaceView } from '../../api/types'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { figure } from '../../kit/quantity'
import { QUANTITY_WORDS, ofChannel } from './recordingRows'
import type { ColumnDraft, Quantity } from './recordingRows'

const props = defineProps<{ layout: LayoutView; places: readonly ReadPlaceView[] }>()
const columns = defineModel<ColumnDraft[]>('columns', { required: true })
const rate = defineModel<number | null>('rate', { required: true })
const quantities = (Object.keys(QUANTITY_WORDS) as Quantity[])
  .filter((quantity) => quantity !== 'time' || props.layout.kind === 'csv')
  .map((value) => ({ value, label: QUANTITY_WORDS[value] }))
const channels = () => props.places.map((place) => ({ value: place.channel, label: `channel ${place.name}` }))
const SEPARATORS: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', ' ': 'blanks' }
</script>

<template>
  <fieldset class="wide">
    <legend>Columns</legend>
    <ol class="columns">
      <li v-for="(c, i) in columns" :key="i">
        <span class="name"
          >{{ layout.columns[i]?.name }}
          <span v-if="layout.preview[0]" class="quiet mono">{{ layout.preview[0][i] }} …</span></span
        >
        <PickOne v-model="c.quantity" bare :label="`What column ${i + 1} is`" :choices="quantities" />
        <PickOne
          v-if="ofChannel(c.quantity)"
          v-model="c.channel"
          bare
          :label="`Channel of column ${i + 1}`"
          :choices="channels()"
        />
        <span v-else />
        <span v-if="c.quantity && c.quantity !== 'time'" class="factor">
          {{ layout.kind === 'wav' ? '1.0 is' : '×' }}
          <NumberField v-model="c.factor" bare :label="`Factor of column ${i + 1}`" />
          {{ layout.kind === 'wav' ? (c.quantity.endsWith('amps') ? 'A' : 'V') : '' }}
        </span>
      </li>
    </ol>
    <p v-if="layout.kind === 'csv'" class="quiet told">
      Told from the file: separated by {{ SEPARATORS[layout.separator] }}, decimal
      {{ layout.decimal === ',' ? 'comma' : 'point' }}, {{ layout.header_lines }} lines of heading.
    </p>
    <NumberField
      v-if="layout.kind === 'csv' && !columns.some((c) => c.quantity === 'time')"
      v-model="rate"
      class="rate"
      label="Samples in a second"
      unit="Hz"
      :min="1"
    />
    <p v-if="layout.kind === 'wav'" class="quiet told">{{ figure(layout.sample_rate, 0) }} samples in a second</p>
  </fieldset>
</template>

<style scoped>
.outside .wide {
  grid-template-columns: 1fr;
}
.columns {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.columns li {
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) minmax(0, 1.2fr) minmax(0, 1fr) 150px;
  gap: 10px;
  align-items: center;
  font-size: 14px;
}
.outside .columns .name {
  grid-column: auto;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.factor {
  display: flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}
.told {
  font-size: 14px;
}
.rate {
  max-width: 220px;
}
@media (max-width: 900px) {
  .columns li {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
