<script setup lang="ts">
// Puts a published figure on record. What the document does not state is left empty, and shown as such.
import { useQueryClient } from '@tanstack/vue-query'
import { reactive, ref, watch } from 'vue'
import client, { ApiError, answered } from '../../api/client'
import { usePerson } from '../../api/person'
import { keptFields } from '../../kit/stored'
import { refreshEvidence } from '../../api/queries'
import type { ClaimIn, ModelView } from '../../api/types'
import ProblemNote from '../../parts/ProblemNote.vue'

const props = defineProps<{ open: boolean; model: ModelView }>()
const emit = defineEmits<{ close: [] }>()
const queries = useQueryClient()
const person = usePerson()
const KINDS = [
  { value: 'continuous', label: 'Continuous (rms)' },
  { value: 'burst', label: 'Burst' },
  { value: 'maximum', label: '“Maximum”, “peak” or “music”' },
]
const DRAFT = `rulvek.claim-draft.${props.model.id}`
type Draft = { [K in keyof Omit<ClaimIn, 'bridged'>]?: ClaimIn[K] } & { wiring?: 'channel' | 'pair' }
const blank = (): Draft => ({ group: props.model.groups[0]?.name, kind: 'continuous', wiring: 'channel' })
const draft = reactive<Draft>({ ...blank(), ...keptFields(sessionStorage, DRAFT) })
/** A field that was emptied states nothing. */
const asNumber = (value: unknown) => (typeof value === 'number' ? value : null)
const problem = ref<unknown>(null)
const saving = ref(false)
// What was typed survives a reload.
watch(draft, (now) => sessionStorage.setItem(DRAFT, JSON.stringify(now)))

const wrong = (field: string) =>
  problem.value instanceof ApiError && problem.value.problem.field === field ? 'error' : undefined

function published(): ClaimIn {
  const { wiring, ...stated } = draft
  return { ...(stated as ClaimIn), bridged: wiring === 'pair' }
}

async function save() {
  if (!(await person.required())) return
  saving.value = true
  problem.value = null
  try {
    await answered(
      client.POST('/api/models/{model_id}/claims', {
        params: { path: { model_id: props.model.id } },
        body: published(),
      }),
    )
    Object.keys(draft).forEach((key) => delete draft[key as keyof Draft])
    Object.assign(draft, blank())
    refreshEvidence(queries)
    emit('close')
  } catch (failure) {
    problem.value = failure
  } finally {
    saving.value = false
  }
}
</script>

<template>
  <a-modal
    :open="open"
    title="Add a claim"
    ok-text="Add the claim"
    :confirm-loading="saving"
    :ok-button-props="{ disabled: !draft.watts || !draft.load_ohms || !draft.document?.trim() }"
    @ok="save"
    @cancel="emit('close')"
  >
    <p class="quiet">As the document states it. Leave empty what it leaves out.</p>
    <a-form layout="vertical" class="form" :colon="false">
      <a-form-item html-for="claim-document" label="Document" class="wide" :validate-status="wrong('document')">
        <a-input
          id="claim-document"
          v-model:value="draft.document"
          :maxlength="200"
          placeholder="Owner's manual, revision C"
        />
      </a-form-item>
      <a-form-item html-for="claim-watts" label="Power (W)" :validate-status="wrong('watts')">
        <a-input-number id="claim-watts" v-model:value="draft.watts" :min="0" />
      </a-form-item>
      <a-form-item html-for="claim-load_ohms" label="Load (Ω)" :validate-status="wrong('load_ohms')">
        <a-input-number id="claim-load_ohms" v-model:value="draft.load_ohms" :min="0" />
      </a-form-item>
      <a-form-item html-for="claim-group" label="Channels" :validate-status="wrong('group')">
        <a-select
          id="claim-group"
          v-model:value="draft.group"
          :options="model.groups.map((g) => ({ value: g.name, label: g.name }))"
        />
      </a-form-item>
      <a-form-item html-for="claim-wiring" label="Wiring" :validate-status="wrong('bridged')">
        <a-select
          id="claim-wiring"
          v-model:value="draft.wiring"
          :options="[
            { value: 'channel', label: 'per channel' },
            { value: 'pair', label: 'bridged pair' },
          ]"
        />
      </a-form-item>
      <a-form-item html-for="claim-kind" label="Kind" class="wide">
        <a-select id="claim-kind" v-model:value="draft.kind" :options="KINDS" />
      </a-form-item>
      <a-form-item html-for="claim-supply_volts" label="Supply (V)" :validate-status="wrong('supply_volts')">
        <a-input-number
          id="claim-supply_volts"
          :value="draft.supply_volts ?? undefined"
          :min="0"
          @update:value="draft.supply_volts = asNumber($event)"
        />
      </a-form-item>
      <a-form-item html-for="claim-thd_n_percent" label="THD+N limit (%)" :validate-status="wrong('thd_n_percent')">
        <a-input-number
          id="claim-thd_n_percent"
          :value="draft.thd_n_percent ?? undefined"
          :min="0"
          @update:value="draft.thd_n_percent = asNumber($event)"
        />
      </a-form-item>
      <a-form-item html-for="claim-band_low_hz" label="Band from (Hz)" :validate-status="wrong('band_low_hz')">
        <a-input-number
          id="claim-band_low_hz"
          :value="draft.band_low_hz ?? undefined"
          :min="0"
          @update:value="draft.band_low_hz = asNumber($event)"
        />
      </a-form-item>
      <a-form-item html-for="claim-band_high_hz" label="Band to (Hz)" :validate-status="wrong('band_high_hz')">
        <a-input-number
          id="claim-band_high_hz"
          :value="draft.band_high_hz ?? undefined"
          :min="0"
          @update:value="draft.band_high_hz = asNumber($event)"
        />
      </a-form-item>
    </a-form>
    <ProblemNote v-if="problem" :error="problem" />
  </a-modal>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 16px;
  margin-top: 10px;
}
.wide {
  grid-column: 1 / -1;
}
.form :deep(.ant-form-item) {
  margin-bottom: 10px;
}
.form :deep(.ant-form-item-label) {
  padding-bottom: 2px;
}
.form :deep(.ant-input-number) {
  width: 100%;
}
</style>
