<script setup lang="ts">
// What a person says of the conditions of a reading.
export interface Conditions {
  amps: number | null
  clamp_zeroed: boolean
  controls: boolean
  all_loaded: boolean
}
const sheet = defineModel<Conditions>({ required: true })
</script>

<template>
  <a-checkbox v-model:checked="sheet.clamp_zeroed" class="check" :disabled="sheet.amps === null"
    >clamp was zeroed</a-checkbox
  >
  <a-checkbox v-model:checked="sheet.controls" class="check">controls in test position</a-checkbox>
  <a-checkbox v-model:checked="sheet.all_loaded" class="check">all channels loaded and driven</a-checkbox>
</template>
