<script setup lang="ts">
// A line of text with its label, and what is wrong with it beside it.
import { useId } from 'vue'

defineProps<{
  label: string
  max?: number
  problem?: string
  placeholder?: string
  required?: boolean
  bare?: boolean
}>()
const value = defineModel<string | null | undefined>({ required: true })
const id = useId()
</script>

<template>
  <div class="text-field">
    <label :for="id" :class="{ 'visually-hidden': bare }">{{ label }}</label>
    <a-input
      :id="id"
      :value="value ?? ''"
      :maxlength="max"
      :placeholder="placeholder"
      :status="problem ? 'error' : ''"
      :aria-invalid="problem ? 'true' : undefined"
      :aria-describedby="problem ? `${id}-told` : undefined"
      :aria-required="required || undefined"
      @update:value="value = $event"
    />
    <p v-if="problem" :id="`${id}-told`" class="told" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.text-field {
  display: grid;
  gap: 2px;
  font-size: 14px;
  align-content: end;
}
.told {
  margin: 0;
  font-size: 13px;
  line-height: 1.25;
  color: var(--danger);
}
</style>
