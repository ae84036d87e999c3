<script setup lang="ts">
// A button by which files are chosen, or taken by a tablet's camera.
defineProps<{ label: string; accept: string; multiple?: boolean; camera?: boolean; disabled?: boolean }>()
const emit = defineEmits<{ files: [files: File[]] }>()
function chosen(event: Event) {
  const field = event.target as HTMLInputElement
  if (field.files?.length) emit('files', [...field.files])
  field.value = ''
}
</script>

<template>
  <label class="file-button" :class="{ disabled }"
    >{{ label }}
    <input
      type="file"
      :accept="accept"
      :multiple="multiple"
      :capture="camera ? 'environment' : undefined"
      :disabled="disabled"
      @change="chosen"
    />
  </label>
</template>

<style scoped>
.file-button {
  position: relative;
  display: inline-block;
  justify-self: start;
  padding: 4px 15px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--sheet);
  font-size: 15px;
  white-space: nowrap;
  cursor: pointer;
}
.file-button:hover,
.file-button:focus-within {
  border-color: var(--certified);
}
.file-button:focus-within {
  outline: 2px solid var(--certified);
}
.disabled {
  color: var(--ink-2);
}
input {
  position: absolute;
  inset: 0;
  width: 100%;
  opacity: 0;
  cursor: pointer;
}
</style>
