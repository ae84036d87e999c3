<script setup lang="ts">
// A day, without a time: the same day in every time zone.
import { useId } from 'vue'

defineProps<{ label: string; problem?: string; placeholder?: string }>()
/** As `2026-03-31`; null where none is given. */
const value = defineModel<string | null>({ required: true })
const id = useId()
</script>

<template>
  <div class="date-field">
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
