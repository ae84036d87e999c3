<script setup lang="ts">
// Asks why, in words, with ready causes where there are some. Nothing is done without an answer.
import { computed, ref, watch } from 'vue'
import FormDialog from './FormDialog.vue'

const props = defineProps<{
  open: boolean
  title: string
  act: string
  hint?: string
  danger?: boolean
  pending?: boolean
  problem?: unknown
  /** Ready causes, by code; “other” needs words beside it. */
  causes?: Record<string, string>
}>()
const emit = defineEmits<{ done: [reason: string, cause: string | null]; cancel: [] }>()
const reason = ref('')
const cause = ref<string | null>(null)
watch(
  () => props.open,
  (open) => {
    if (open) [reason.value, cause.value] = ['', null]
  },
)
const answered = computed(() => {
  if (props.causes) return cause.value !== null && (cause.value !== 'other' || !!reason.value.trim())
  return !!reason.value.trim()
})
</script>

<template>
  <FormDialog
    :open="open"
    :title="title"
    :act="act"
    :hint="hint"
    :danger="danger"
    :pending="pending"
    :problem="problem"
    :ready="answered"
    @done="emit('done', reason.trim(), cause)"
    @cancel="emit('cancel')"
  >
    <div v-if="causes" class="causes" role="radiogroup" :aria-label="title">
      <label v-for="(words, code) in causes" :key="code">
        <input v-model="cause" type="radio" name="cause" :value="code" /> {{ words }}
      </label>
    </div>
    <slot />
    <a-input
      v-model:value="reason"
      :maxlength="500"
      aria-label="Reason"
      :placeholder="causes ? 'In words; needed for “other”' : ''"
    />
  </FormDialog>
</template>

<style scoped>
.causes {
  display: grid;
  gap: 4px;
  margin: 10px 0;
}
.causes input {
  accent-color: var(--certified);
}
</style>
