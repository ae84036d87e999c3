<script setup lang="ts">
// A day, without a time: the same day in every time zone.
import { useId } from 'vue'

defineProps<{ label: string; problem?: string; placeholder?: string }>()
/** As `2026-03-31`; null where none is given. */
const value = defineModel<string | null>({ required: true })
const id = useId()

/** A day that was typed counts at once: the picker would take it only by Enter, and drop it on the way out. */
function typed(event: Event) {
  const text = (event.target as HTMLInputElement).value.trim()
  if (!text) value.value = null
  else if (/^\d{4}-\d{2}-\d{2}$/.test(text) && new Date(`${text}T00:00Z`).toJSON()?.startsWith(text)) value.value = text
}
</script>

<template>
  <div class="date-field" @input.capture="typed">
    <label :for="id">{{ label }}</label>
    <a-date-picker
      :id="id"
      :value="value ?? undefined"
      value-format="YYYY-MM-DD"
      format="YYYY-MM-DD"
      :placeholder="placeholder ?? '2026-03-31'"
      :status="problem ? 'error' : ''"
      @update:value="value = ($event as string | null) || null"
    />
    <p v-if="problem" class="told" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.date-field {
  display: grid;
  gap: 2px;
  font-size: 14px;
  align-content: end;
}
.told {
  margin: 0;
  font-size: 13px;
  color: var(--danger);
}
</style>
