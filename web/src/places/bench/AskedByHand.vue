<script setup lang="ts">
// What a bench asks of whoever stands at it: to do something, or to type what is read. Enter says that it is done.
import { computed, nextTick, ref, watch } from 'vue'
import type { BenchView } from '../../api/types'
import { useAct } from '../../kit/act'
import NumberField from '../../kit/NumberField.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'

const props = defineProps<{
  asked: BenchView['question'] | undefined
  mayAnswer: boolean
  /** Sends what is said to a question. */
  answer: (question: number, typed: number | null) => Promise<unknown>
}>()
const value = ref<number | null>(null)
const form = ref<HTMLFormElement>()
const answers = useAct((question: number, typed: number | null) => props.answer(question, typed))
const ready = computed(() => !!props.asked && (!props.asked.unit || value.value !== null))
watch(
  () => props.asked?.id,
  () => {
    value.value = null
    answers.forget()
  },
)
/** The keys are where the question is, once the answer before has come through. */
watch(
  [() => props.asked?.id, () => props.mayAnswer, answers.pending],
  async ([id, may, pending]) => {
    if (!id || !may || pending) return
    await nextTick()
    form.value?.querySelector<HTMLElement>('input, button')?.focus()
  },
  { immediate: true },
)
</script>

<template>
  <form
    v-if="asked"
    ref="form"
    class="asked"
    :class="{ urgent: asked.urgent }"
    aria-label="The bench asks"
    @submit.prevent="ready && answers.act(asked.id, value)"
  >
    <p role="alert">{{ asked.words }}.</p>
    <template v-if="mayAnswer">
      <NumberField
        v-if="asked.unit"
        v-model="value"
        label="Reading"
        :unit="asked.unit"
        :min="asked.low ?? undefined"
        :max="asked.high ?? undefined"
        :problem="saysOf(answers.problem.value, 'value')"
        bare
        class="value"
      />
      <span v-if="asked.unit" class="unit">{{ asked.unit }}</span>
      <a-button
        html-type="submit"
        type="primary"
        :danger="asked.urgent"
        :loading="answers.pending.value"
        :disabled="!ready"
        >{{ asked.unit ? 'Keep it' : asked.urgent ? 'It is off' : 'Done' }}</a-button
      >
    </template>
    <ProblemNote
      v-if="answers.problem.value && !saysOf(answers.problem.value, 'value')"
      :error="answers.problem.value"
    />
  </form>
</template>

<style scoped>
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin: 0 0 12px;
  padding: 10px 14px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.asked p {
  margin: 0;
  font-size: 17px;
  font-weight: 600;
}
.asked.urgent {
  outline: 2px solid var(--danger);
}
.value {
  width: 140px;
}
.unit {
  margin-left: -8px;
}
</style>
