<script setup lang="ts">
// Puts a published figure on record. What the document does not state is left empty, and shown as such.
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import type { ClaimIn, ModelView } from '../../api/types'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import DraftNote from '../../kit/DraftNote.vue'
import FormDialog from '../../kit/FormDialog.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'
import ChangedNote from '../../trade/ChangedNote.vue'
import '../../kit/entry.css'

const props = defineProps<{ open: boolean; model: ModelView }>()
const emit = defineEmits<{ close: [] }>()
const KINDS = [
  { value: 'continuous', label: 'Continuous (rms)' },
  { value: 'burst', label: 'Burst' },
  { value: 'maximum', label: '“Maximum”, “peak” or “music”' },
] as const
const WIRINGS = [
  { value: 'channel', label: 'per channel' },
  { value: 'pair', label: 'bridged pair' },
  { value: 'linked', label: 'two linked units' },
] as const
const groups = computed(() => props.model.groups.map((g) => ({ value: g.name, label: g.name })))
type Wiring = 'channel' | 'pair' | 'linked'
type Entered = Omit<ClaimIn, 'bridged' | 'linked' | 'load_stated'>
type Stated = { [K in keyof Required<Entered>]: Required<Entered>[K] | null }
const BLANK: Stated & { wiring: Wiring; unstated: boolean } = {
  document: '',
  group: props.model.groups[0]?.name ?? null,
  watts: null,
  load_ohms: null,
  unstated: false,
  wiring: 'channel',
  total_of: null,
  driven_channels: null,
  kind: 'continuous',
  supply_volts: null,
  supply_high_volts: null,
  thd_n_percent: null,
  band_low_hz: null,
  band_high_hz: null,
  stands_at: null,
}
const kept = useDraft(`rulvek.claim.${props.model.id}`, BLANK, sessionStorage)
const { draft } = kept
const ready = computed(() => !!draft.value.watts && !!draft.value.load_ohms && !!draft.value.document?.trim())

const { act, pending, problem } = useAct(
  () => {
    const { wiring, unstated, ...stated } = draft.value
    const how = { bridged: wiring === 'pair', linked: wiring === 'linked', load_stated: !unstated }
    return answered(
      client.POST('/api/models/{model_id}/claims', {
        params: { path: { model_id: props.model.id } },
        body: { ...(stated as ClaimIn), ...how },
      }),
    )
  },
  {
    done: () => {
      kept.forget()
      emit('close')
    },
  },
)
const says = (field: string) => saysOf(problem.value, field)
</script>

<template>
  <FormDialog
    :open="open"
    title="Add a claim"
    act="Add the claim"
    hint="As the document states it. Leave empty what it leaves out."
    :ready="ready"
    :pending="pending"
    :problem="problem"
    @done="act"
    @cancel="emit('close')"
  >
    <ChangedNote :subject="`model/${model.id}`" :open="open" />
    <DraftNote :draft="kept" />
    <div class="entry">
      <TextField
        v-model="draft.document"
        class="wide"
        label="Document"
        :max="200"
        placeholder="Owner's manual, revision C"
        :problem="says('document')"
      />
      <TextField
        v-model="draft.stands_at"
        class="wide"
        label="Where in it"
        :max="200"
        placeholder="page 12, table 2"
        :problem="says('stands_at')"
      />
      <NumberField v-model="draft.watts" label="Power" unit="W" :min="0" :problem="says('watts')" />
      <NumberField v-model="draft.load_ohms" label="Load" unit="Ω" :min="0" :problem="says('load_ohms')" />
      <NumberField
        v-model="draft.total_of"
        label="Total of so many, else each"
        unit="channels"
        :min="0"
        :problem="says('total_of')"
      />
      <a-checkbox v-model:checked="draft.unstated" class="check">no load stated; judged at this</a-checkbox>
      <PickOne v-model="draft.group" label="Channels" :choices="groups" />
      <PickOne v-model="draft.wiring" label="Wiring" :choices="WIRINGS" />
      <PickOne v-model="draft.kind" class="wide" label="Kind" :choices="KINDS" />
      <NumberField v-model="draft.supply_volts" label="Supply" unit="V" :min="0" :problem="says('supply_volts')" />
      <NumberField
        v-model="draft.supply_high_volts"
        label="Supply up to, of a range"
        unit="V"
        :min="0"
        :problem="says('supply_high_volts')"
      />
      <NumberField
        v-model="draft.driven_channels"
        label="Driven at once, else all"
        unit="channels"
        :min="0"
        :problem="says('driven_channels')"
      />
      <NumberField
        v-model="draft.thd_n_percent"
        label="THD+N limit"
        unit="%"
        :min="0"
        :problem="says('thd_n_percent')"
      />
      <NumberField v-model="draft.band_low_hz" label="Band from" unit="Hz" :min="0" :problem="says('band_low_hz')" />
      <NumberField v-model="draft.band_high_hz" label="Band to" unit="Hz" :min="0" :problem="says('band_high_hz')" />
    </div>
  </FormDialog>
</template>
