<script setup lang="ts" generic="V extends string | number">
// One of a few: side by side where they fit, else a list that is opened.
import { computed, ref, useId } from 'vue'
import { useCombobox } from './combobox'

export interface Choice<V> {
  value: V
  label: string
}
const props = defineProps<{
  label: string
  choices: readonly Choice<V>[]
  /** All of them side by side, to be seen without opening anything. */
  spread?: boolean
  /** The label is read aloud, not shown. */
  bare?: boolean
  disabled?: boolean
  placeholder?: string
}>()
const value = defineModel<V | null>({ required: true })
const id = useId()
const open = ref(false)
const frame = ref<HTMLElement>()
useCombobox(frame, open)
const options = computed(() => props.choices.map((one) => ({ value: one.value, label: one.label })))
/** What is chosen may be none of the choices: then nothing is shown as chosen. */
const chosen = computed(() => props.choices.find((one) => one.value === value.value)?.value)
</script>

<template>
  <div ref="frame" class="pick-one">
    <span v-if="spread" :id="id" :class="{ 'visually-hidden': bare }">{{ label }}</span>
    <label v-else :for="id" :class="{ 'visually-hidden': bare }">{{ label }}</label>
    <a-radio-group
      v-if="spread"
      :value="chosen"
      :options="options"
      :disabled="disabled"
      option-type="button"
      :aria-labelledby="id"
      @update:value="value = $event"
    />
    <a-select
      v-else
      :id="id"
      :value="chosen"
      :options="options"
      :disabled="disabled"
      :placeholder="placeholder"
      @dropdown-visible-change="open = $event"
      @update:value="value = $event as V"
    />
  </div>
</template>

<style scoped>
.pick-one {
  display: grid;
  gap: 2px;
  font-size: 14px;
  align-content: end;
}
</style>
