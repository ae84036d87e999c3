<script setup lang="ts">
// Drafts a rating, or changes a draft: the figure, for how long it holds, and why units are left out.
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import type { PopulationView, RatingTerms, RatingView } from '../../api/types'
import { useAct } from '../../kit/act'
import FormDialog from '../../kit/FormDialog.vue'
import NumberField from '../../kit/NumberField.vue'
import { saysOf } from '../../kit/problem'
import TextField from '../../kit/TextField.vue'
import { useKeepRating } from './keepRating'

const props = defineProps<{
  open: boolean
  model: number
  drafted: Pick<RatingTerms, 'at' | 'share' | 'confidence'> & { watts: number | null; left_out: number[] }
  rows: PopulationView['rows']
  /** The draft that is changed; none where one is begun. */
  known?: RatingView
}>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const keep = useKeepRating()
const watts = ref(props.drafted.watts)
const months = ref<number | null>(props.known?.terms.valid_months ?? 24)
const reasons = reactive<Record<number, string>>(
  Object.fromEntries(
    props.drafted.left_out.map((unit) => [
      unit,
      props.known?.terms.left_out.find((one) => one.unit_id === unit)?.reason ?? '',
    ]),
  ),
)
const serial = (unit: number) => props.rows.find((row) => row.unit_id === unit)?.serial ?? `${unit}`
const ready = computed(() => !!watts.value && !!months.value && Object.values(reasons).every((one) => one.trim()))

const { act, pending, problem } = useAct(
  () => {
    const { at, share, confidence } = props.drafted
    const left_out = Object.entries(reasons).map(([unit, reason]) => ({ unit_id: Number(unit), reason }))
    const body: RatingTerms = { at, share, confidence, watts: watts.value!, valid_months: months.value!, left_out }
    if (!props.known) {
      const path = { model_id: props.model }
      return answered(client.POST('/api/models/{model_id}/ratings', { params: { path }, body }))
    }
    const params = { path: { rating_id: props.known.id }, header: { 'If-Match': `${props.known.seen}` } }
    return answered(client.PUT('/api/ratings/{rating_id}', { params, body }))
  },
  {
    done: (rating) => {
      keep(rating)
      emit('close')
      if (!props.known) void router.push(`/ratings/${rating.id}`)
    },
  },
)
const says = (field: string) => saysOf(problem.value, field)
</script>

<template>
  <FormDialog
    :open="open"
    :title="known ? 'Change the draft' : 'Draft a rating'"
    :act="known ? 'Keep it' : 'Draft it'"
    hint="A draft promises nothing: it is proposed, signed by somebody who neither measured nor proposed it, and published."
    :ready="ready"
    :pending="pending"
    :problem="problem"
    @done="act"
    @cancel="emit('close')"
  >
    <div class="fields">
      <NumberField v-model="watts" label="Figure" unit="W" :min="0.001" :max="100000" :problem="says('watts')" />
      <NumberField
        v-model="months"
        label="Valid for"
        unit="months"
        :min="1"
        :max="120"
        :problem="says('valid_months')"
      />
    </div>
    <TextField
      v-for="(_, unit, at) in reasons"
      :key="unit"
      v-model="reasons[unit]!"
      :label="`Why ${serial(Number(unit))} is left out`"
      :max="500"
      required
      :problem="says(`left_out.${at}.reason`)"
    />
  </FormDialog>
</template>

<style scoped>
.fields {
  display: flex;
  gap: 18px;
  margin-bottom: 10px;
}
</style>
