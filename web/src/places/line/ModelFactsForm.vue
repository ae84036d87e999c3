<script setup lang="ts">
// What is said of a model besides what its tests rest on: use, life, controls, terminals, size, prices.
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import type { ModelEntry, ModelFacts } from '../../api/types'
import { useDraft } from '../../kit/draft'
import DateField from '../../kit/DateField.vue'
import FormDialog from '../../kit/FormDialog.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import RowsField from '../../kit/RowsField.vue'
import StaleNote from '../../kit/StaleNote.vue'
import TextField from '../../kit/TextField.vue'
import { useEntry } from '../../kit/useEntry'
import ChangedNote from '../../trade/ChangedNote.vue'
import { BLANK_FACTS } from './lineEntry'
import { NO_PRICE, priceDraft, priceOf } from './unitDraft'
import '../../kit/entry.css'

const props = defineProps<{ model: { id: number; name: string } }>()
const emit = defineEmits<{ close: [] }>()
type Control = ModelFacts['controls'][number]
type Terminal = ModelFacts['terminals'][number]
const choices = <V extends string>(values: readonly V[]) => values.map((value) => ({ value, label: value }))
const LIVES = choices(['in development', 'current', 'discontinued'] as const)
const KINDS = choices([
  'gain',
  'low-pass',
  'high-pass',
  'boost',
  'phase',
  'input mode',
  'master or slave',
  'other',
] as const)
const YES_NO = [
  { value: 'unknown', label: 'not said' },
  { value: 'yes', label: 'yes' },
  { value: 'no', label: 'no' },
] as const
const CONTROL: Control = { kind: 'gain', reaches: '', slope_db_per_octave: null, boost_db: null, boost_hz: null }
const TERMINAL: Terminal = { of: '', kind: '', stated_mm2: null, fitting_mm2: null }
const PRICES = [
  { of: 'list', label: 'List price' },
  { of: 'street', label: 'Street price' },
] as const
const BLANK = { facts: BLANK_FACTS, list: NO_PRICE, street: NO_PRICE }
const kept = useDraft(`rulvek.model-facts.${props.model.id}`, BLANK, sessionStorage)
const { draft } = kept
let rest: ModelEntry | null = null
const path = () => ({ path: { model_id: props.model.id } })
const { act, pending, problem, differences, keepMine, takeTheirs } = useEntry<ModelEntry>(
  () => true,
  () => answered(client.GET('/api/models/{model_id}/entry', { params: path() })),
  (entry) => {
    rest = entry
    draft.value = {
      facts: { ...BLANK_FACTS, ...entry.facts },
      list: priceDraft(entry.facts.list_price),
      street: priceDraft(entry.facts.street_price),
    }
  },
  () => ({
    ...rest!,
    facts: { ...draft.value.facts, list_price: priceOf(draft.value.list), street_price: priceOf(draft.value.street) },
  }),
  (body, seen) =>
    answered(
      client.PUT('/api/models/{model_id}/entry', { params: { ...path(), header: { 'If-Match': `${seen}` } }, body }),
    ),
  () => {
    kept.forget()
    emit('close')
  },
)
const says = (field: string) => saysOf(problem.value, `facts.${field}`)
const threeWay = (field: 'linkable' | 'fuses_external' | 'fan') =>
  computed({
    get: () => {
      const said = draft.value.facts[field]
      return said === true ? 'yes' : said === false ? 'no' : 'unknown'
    },
    set: (now) => (draft.value.facts[field] = now === 'unknown' ? null : now === 'yes'),
  })
const linkable = threeWay('linkable')
const external = threeWay('fuses_external')
const fan = threeWay('fan')
</script>

<template>
  <FormDialog
    open
    :title="`About ${model.name}`"
    act="Keep the change"
    hint="None of it changes a verdict. Leave empty what nobody stated."
    :pending="pending"
    :problem="problem"
    :width="760"
    @done="act"
    @cancel="emit('close')"
  >
    <ChangedNote :subject="`model/${model.id}`" open />
    <div class="entry">
      <TextField v-model="draft.facts.intended_use" label="Intended use" :max="200" />
      <PickOne v-model="draft.facts.life" label="Life" :choices="LIVES" />
      <NumberField
        v-model="draft.facts.sensitivity_low_volts"
        label="Sensitivity from"
        unit="V"
        :problem="says('sensitivity_low_volts')"
      />
      <NumberField
        v-model="draft.facts.sensitivity_high_volts"
        label="to"
        unit="V"
        :problem="says('sensitivity_high_volts')"
      />
      <PickOne v-model="linkable" label="Two can be linked" :choices="YES_NO" />
      <PickOne v-model="external" label="Fuses in the supply lead" :choices="YES_NO" />
      <PickOne v-model="fan" label="Fan" :choices="YES_NO" />
      <span />
      <RowsField v-model="draft.facts.controls" class="wide" label="Controls" :blank="CONTROL" add="Add a control">
        <template #default="{ row, at }">
          <PickOne v-model="row.kind" label="Control" :choices="KINDS" />
          <TextField v-model="row.reaches" label="Reaches" placeholder="50–500 Hz" :max="200" />
          <NumberField
            v-if="row.kind === 'low-pass' || row.kind === 'high-pass'"
            v-model="row.slope_db_per_octave"
            label="Slope"
            unit="dB per octave"
            :problem="says(`controls.${at}.slope_db_per_octave`)"
          />
          <NumberField
            v-if="row.kind === 'boost'"
            v-model="row.boost_db"
            label="Boost; empty if not stated"
            unit="dB"
            :problem="says(`controls.${at}.boost_db`)"
          />
          <NumberField
            v-if="row.kind === 'boost'"
            v-model="row.boost_hz"
            label="at; empty if not stated"
            unit="Hz"
            :problem="says(`controls.${at}.boost_hz`)"
          />
        </template>
      </RowsField>
      <RowsField
        v-model="draft.facts.terminals"
        class="wide"
        label="Terminals"
        :blank="TERMINAL"
        add="Add a terminal"
        :most="12"
      >
        <template #default="{ row }">
          <TextField v-model="row.of" label="Of" placeholder="Supply" :max="80" />
          <TextField v-model="row.kind" label="Type" placeholder="set screw" :max="200" />
          <NumberField v-model="row.stated_mm2" label="Wire stated" unit="mm²" />
          <NumberField v-model="row.fitting_mm2" label="really fits" unit="mm²" />
        </template>
      </RowsField>
      <NumberField v-model="draft.facts.length_mm" label="Length" unit="mm" :problem="says('length_mm')" />
      <NumberField v-model="draft.facts.width_mm" label="Width" unit="mm" :problem="says('width_mm')" />
      <NumberField v-model="draft.facts.height_mm" label="Height" unit="mm" :problem="says('height_mm')" />
      <NumberField v-model="draft.facts.weight_kg" label="Weight" unit="kg" :problem="says('weight_kg')" />
      <div v-for="price in PRICES" :key="price.of" class="wide price">
        <NumberField v-model="draft[price.of].amount" :label="price.label" :min="0" />
        <TextField
          v-model="draft[price.of].currency"
          label="Currency"
          :max="3"
          placeholder="EUR"
          :problem="says(`${price.of}_price.currency`)"
        />
        <DateField v-model="draft[price.of].day" label="On" :problem="says(`${price.of}_price.day`)" />
      </div>
    </div>
    <StaleNote :differences="differences" @mine="keepMine" @theirs="takeTheirs" />
  </FormDialog>
</template>

<style scoped>
.price {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px 16px;
}
</style>
