<script setup lang="ts">
// Asks why, in words, with ready causes where there are some. Nothing is done without an answer.
import { computed, ref, watch } from 'vue'

const props = defineProps<{
  open: boolean
  title: string
  act: string
  hint?: string
  /** Ready causes, by code; “other” needs words beside it. */
  causes?: Record<string, string>
  optional?: boolean
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
const done = () => answered.value && emit('done', reason.value.trim(), cause.value)
</script>

<template>
  <a-modal
    :open="open"
    :title="title"
    :ok-text="act"
    :ok-button-props="{ disabled: !answered }"
    @ok="done"
    @cancel="emit('cancel')"
  >
    <p v-if="hint" class="quiet">{{ hint }}</p>
    <div v-if="causes" class="causes" role="radiogroup" :aria-label="title">
      <label v-for="(words, code) in causes" :key="code">
        <input v-model="cause" type="radio" name="cause" :value="code" @keydown.enter="done" /> {{ words }}
      </label>
    </div>
    <a-input
      v-model:value="reason"
      :maxlength="500"
      aria-label="Reason"
      :placeholder="causes ? 'In words; needed for “other”' : ''"
      :autofocus="!causes"
      @press-enter="done"
    />
  </a-modal>
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
