<script setup lang="ts">
// Several lines of text with their label.
defineProps<{ label: string; rows?: number; max?: number; placeholder?: string; problem?: string }>()
const value = defineModel<string | null | undefined>({ required: true })
</script>

<template>
  <label class="area-field"
    >{{ label }}
    <a-textarea
      :value="value ?? ''"
      :rows="rows ?? 2"
      :maxlength="max ?? 2000"
      :placeholder="placeholder"
      :status="problem ? 'error' : ''"
      @update:value="value = $event"
    />
    <span v-if="problem" class="told" role="alert">{{ problem }}</span>
  </label>
</template>

<style scoped>
.area-field {
  display: grid;
  gap: 2px;
  font-size: 14px;
}
.told {
  font-size: 13px;
  color: var(--danger);
}
</style>
