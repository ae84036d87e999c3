<script setup lang="ts">
// Something secret that is told this once: to be copied, or read aloud.
import { ref } from 'vue'
import FormDialog from '../kit/FormDialog.vue'

const props = defineProps<{ of: string; secret: string; hint: string }>()
const emit = defineEmits<{ close: [] }>()
const isCopied = ref(false)
async function copy() {
  await navigator.clipboard?.writeText(props.secret)
  isCopied.value = true
}
</script>

<template>
  <FormDialog open :title="of" act="I have it" :hint="hint" @done="emit('close')" @cancel="emit('close')">
    <p class="secret">
      <code>{{ secret }}</code> <a-button size="small" @click="copy">{{ isCopied ? 'Copied' : 'Copy' }}</a-button>
    </p>
  </FormDialog>
</template>

<style scoped>
.secret {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  padding: 10px 12px;
  border: 1px solid var(--rule-strong);
}
code {
  font-size: 16px;
  overflow-wrap: anywhere;
}
</style>
