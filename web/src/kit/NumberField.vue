<script setup lang="ts">
// A number with its label, unit and range: point or comma as typed, and the sentence beside it where it cannot be.
import { computed, ref, useId, watch } from 'vue'
import { outOfRange, typedNumber } from './number'

const props = withDefaults(
  defineProps<{
    label: string
    unit?: string
    min?: number
    max?: number
    whole?: boolean
    required?: boolean
    /** What the server had to say of this field. */
    problem?: string
    /** Shown while it is empty. */
    placeholder?: string
    /** The label is read aloud, not shown: the heading of a column stands for it. */
    bare?: boolean
    disabled?: boolean
  }>(),
  { unit: '', problem: '', placeholder: '' },
)
/** The number; null while nothing is typed, or nothing that can be taken. */
const value = defineModel<number | null | undefined>({ required: true })
const id = useId()
const shown = (number: number | null | undefined) => (number === null || number === undefined ? '' : String(number))
const text = ref(shown(value.value))
const left = ref(false)

const found = computed(() => typedNumber(text.value))
const sentence = computed(() => {
  if ('wrong' in found.value) return `“${text.value.trim().slice(0, 30)}” ${found.value.wrong}.`
  if (found.value.value === null) return props.required && left.value ? `${props.label} is missing.` : ''
  const range = outOfRange(found.value.value, props.min, props.max, props.whole)
  return range ? `${props.label} ${range}${props.unit ? ` ${props.unit}` : ''}.` : ''
})
const told = computed(() => sentence.value || props.problem)

watch(text, () => {
  const taken = 'value' in found.value && !sentence.value ? found.value.value : null
  if (taken !== value.value) value.value = taken
})
// A form is not sent with what cannot be: else it would go without the figure, and nobody would know.
watch(sentence, (now) => (document.getElementById(id) as HTMLInputElement | null)?.setCustomValidity(now), {
  flush: 'post',
})
// What comes from outside replaces what is typed, unless it is what is typed.
watch(value, (now) => {
  const typed = 'value' in found.value && !sentence.value ? found.value.value : null
  if (now !== typed) text.value = shown(now)
})
</script>

<template>
  <div class="number-field">
    <label :for="id" :class="{ 'visually-hidden': bare }"
      >{{ label }}<span v-if="unit && !bare" class="quiet">, {{ unit }}</span></label
    >
    <!-- Not of type "number": that one takes the wheel for a hand and drops what it does not understand. -->
    <a-input
      :id="id"
      v-model:value="text"
      inputmode="decimal"
      autocomplete="off"
      :placeholder="placeholder"
      :disabled="disabled"
      :status="told ? 'error' : ''"
      :aria-invalid="told ? 'true' : undefined"
      :aria-describedby="told ? `${id}-told` : undefined"
      :aria-required="required || undefined"
      @blur="left = true"
    />
    <p v-if="told" :id="`${id}-told`" class="told" role="alert">{{ told }}</p>
  </div>
</template>

<style scoped>
.number-field {
  display: grid;
  gap: 2px;
  font-size: 14px;
  align-content: end;
}
.number-field :deep(input) {
  font-family: var(--mono);
}
.told {
  margin: 0;
  font-size: 13px;
  line-height: 1.25;
  color: var(--danger);
}
</style>
