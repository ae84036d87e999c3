<script setup lang="ts">
// Puts a model on record or changes one, with its channels drawn as its groups are typed.
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import AreaField from '../../kit/AreaField.vue'
import DraftNote from '../../kit/DraftNote.vue'
import FormDialog from '../../kit/FormDialog.vue'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'
import type { ModelEntry } from '../../api/types'
import { BLANK_GROUP, BLANK_MODEL, channelsOf, draftOf, missingOfModel, modelOf, wrongOf } from './lineEntry'
import ChangedNote from '../../trade/ChangedNote.vue'
import StaleNote from '../../kit/StaleNote.vue'
import { useEntry } from '../../kit/useEntry'
import '../../kit/entry.css'

const props = defineProps<{
  open: boolean
  series: { id: number; name: string }
  /** The model that is changed; a new one is made where none is named. */
  model?: number
}>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const TOPOLOGIES = [
  { value: 'D', label: 'Class D' },
  { value: 'AB', label: 'Class AB' },
] as const
const OWN_TOPOLOGIES = [{ value: '', label: 'as the model' }, ...TOPOLOGIES] as const
const kept = useDraft(
  props.model ? `rulvek.model-change.${props.model}` : `rulvek.model.${props.series.id}`,
  BLANK_MODEL,
  sessionStorage,
)
const { draft } = kept
/** Whether its supply is regulated: known to be, known not to be, or not known. */
const REGULATION = [
  { value: 'no', label: 'not regulated' },
  { value: 'yes', label: 'regulated' },
  { value: 'unknown', label: 'not known' },
] as const
const regulation = computed({
  get: () => (!draft.value.facts.regulation_known ? 'unknown' : draft.value.regulated ? 'yes' : 'no'),
  set: (now) => {
    draft.value.regulated = now === 'yes'
    draft.value.facts.regulation_known = now !== 'unknown'
  },
})
const channels = computed(() => channelsOf(draft.value.groups))
const missing = computed(() => missingOfModel(draft.value))
const add = useAct(
  () =>
    answered(
      client.POST('/api/series/{series_id}/models', {
        params: { path: { series_id: props.series.id } },
        body: modelOf(draft.value),
      }),
    ),
  {
    done: async (made) => {
      kept.forget()
      emit('close')
      await router.push(`/models/${made.id}`)
    },
  },
)
const path = () => ({ path: { model_id: props.model! } })
const change = useEntry<ModelEntry>(
  () => props.open && !!props.model,
  () => answered(client.GET('/api/models/{model_id}/entry', { params: path() })),
  (entry) => (draft.value = draftOf(entry)),
  () => modelOf(draft.value),
  (body, seen) =>
    answered(
      client.PUT('/api/models/{model_id}/entry', { params: { ...path(), header: { 'If-Match': `${seen}` } }, body }),
    ),
  () => {
    kept.forget()
    emit('close')
  },
)
const { act, pending, problem } = props.model ? change : add
const says = (field: string) => saysOf(problem.value, field)
</script>

<template>
  <FormDialog
    :open="open"
    :title="model ? 'Change the model' : 'Add a model'"
    :act="model ? 'Keep the change' : 'Add the model'"
    :hint="model ? missing : `To ${series.name}. ${missing}`"
    :ready="!missing"
    :pending="pending"
    :problem="problem"
    @done="act"
    @cancel="emit('close')"
  >
    <DraftNote v-if="!model" :draft="kept" />
    <ChangedNote v-else :subject="`model/${model}`" :open="open" />
    <div class="entry">
      <TextField v-model="draft.name" label="Name" :max="80" :problem="says('name')" />
      <PickOne v-model="draft.topology" label="Output stages" :choices="TOPOLOGIES" />
      <TextField
        v-model="draft.description"
        class="wide"
        label="What it is"
        :max="200"
        placeholder="Four channels for small boats"
      />
      <fieldset v-for="(group, i) in draft.groups" :key="i" class="wide group">
        <legend class="visually-hidden">Group {{ i + 1 }}</legend>
        <TextField v-model="group.name" :label="`Group ${i + 1}`" :max="80" :problem="says(`groups.${i}.name`)" />
        <NumberField
          v-model="group.channels"
          label="Channels"
          whole
          :min="1"
          :max="16"
          :problem="says(`groups.${i}.channels`)"
        />
        <TextField
          v-model="group.rated"
          label="Rated loads, Ω"
          placeholder="4 2"
          :problem="wrongOf(group.rated) || says(`groups.${i}.rated_loads`)"
        />
        <TextField
          v-model="group.bridged"
          label="Bridged, Ω"
          placeholder="none"
          :problem="wrongOf(group.bridged) || says(`groups.${i}.bridged_loads`)"
        />
        <a-checkbox v-model:checked="group.bass" class="check">bass only</a-checkbox>
        <NumberField
          v-model="group.low"
          label="Stated band from"
          unit="Hz"
          :min="1"
          :problem="says(`groups.${i}.band_low_hz`)"
        />
        <NumberField v-model="group.high" label="to" unit="Hz" :min="1" :problem="says(`groups.${i}.band_high_hz`)" />
        <PickOne v-model="group.topology" label="Output stages" :choices="OWN_TOPOLOGIES" />
        <a-button
          v-if="draft.groups.length > 1"
          class="drop"
          size="small"
          type="text"
          @click="draft.groups.splice(i, 1)"
          >Drop group {{ i + 1 }}</a-button
        >
      </fieldset>
      <div class="wide drawn" role="group" aria-label="Channels as they are counted">
        <span v-for="(group, i) in channels" :key="i" class="run">
          <span v-for="n in group.numbers" :key="n" class="box mono" :class="{ bass: group.bass }">{{ n }}</span>
          <span class="quiet">{{ group.name }}</span>
        </span>
        <a-button size="small" type="text" @click="draft.groups.push({ ...BLANK_GROUP })">Add a group</a-button>
      </div>
      <NumberField
        v-model="draft.low"
        label="Supply from"
        unit="V"
        :min="1"
        :max="30"
        :problem="says('supply_low_volts')"
      />
      <NumberField
        v-model="draft.high"
        label="Supply to"
        unit="V"
        :min="1"
        :max="30"
        :problem="says('supply_high_volts')"
      />
      <NumberField
        v-model="draft.sensitivity"
        label="Input for full output"
        unit="V rms"
        :min="0.001"
        :problem="says('sensitivity_volts')"
      />
      <TextField
        v-model="draft.fuses"
        label="Fuses in the supply lead, A"
        placeholder="40 40"
        :problem="wrongOf(draft.fuses) || says('fuse_amps')"
      />
      <PickOne v-model="regulation" class="wide" label="Its own supply" :choices="REGULATION" spread />
      <AreaField
        v-model="draft.controls"
        class="wide"
        label="Controls in test position, one a line"
        placeholder="Low-pass off"
      />
    </div>
    <StaleNote :differences="change.differences.value" @mine="change.keepMine" @theirs="change.takeTheirs" />
  </FormDialog>
</template>

<style scoped>
.group {
  display: grid;
  grid-template-columns: 1.2fr 0.8fr 1fr 1fr;
  gap: 4px 10px;
  margin: 0;
  padding: 0 0 8px;
  border: none;
  border-bottom: 1px solid var(--rule);
}
/* Label, field and what is wrong with it are rows that neighbours share: a problem under one moves none of them. */
.group > :deep(:not(legend)) {
  grid-row: span 3;
}
.group > :deep(.text-field),
.group > :deep(.number-field),
.group > :deep(.pick-one) {
  grid-template-rows: subgrid;
  align-content: stretch;
}
.group > :deep(div) > label,
.group > :deep(div) > span {
  align-self: end;
}
.drop {
  align-self: center;
  justify-self: start;
}
.drawn {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 16px;
  margin: 0;
}
.run {
  display: flex;
  align-items: center;
  gap: 3px;
}
.box {
  min-width: 24px;
  padding: 1px 4px;
  text-align: center;
  border: 1px solid var(--rule-strong);
}
.box.bass {
  border-width: 2px;
}
</style>
