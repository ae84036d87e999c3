<script setup lang="ts">
// Where a file is dropped or chosen.
import { ref } from 'vue'

defineProps<{ accept: string }>()
const emit = defineEmits<{ file: [file: File] }>()
const over = ref(false)
function take(files: FileList | null | undefined) {
  over.value = false
  if (files?.[0]) emit('file', files[0])
}
</script>

<template>
  <label
    :class="['drop', { over }]"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="take($event.dataTransfer?.files)"
  >
    <slot />
    <input type="file" :accept="accept" @change="take(($event.target as HTMLInputElement).files)" />
  </label>
</template>

<style scoped>
.drop {
  display: grid;
  justify-items: center;
  gap: 8px;
  margin-top: 18px;
  padding: 90px 40px;
  border: 1.5px dashed var(--rule-strong);
  background: var(--sheet);
  text-align: center;
  font-size: 15px;
  cursor: pointer;
}
.drop :deep(strong) {
  font-size: 18px;
}
.drop.over,
.drop:focus-within {
  border-color: var(--certified);
  background: var(--selected);
}
.drop input {
  position: absolute;
  opacity: 0;
  width: 1px;
  height: 1px;
}
</style>
