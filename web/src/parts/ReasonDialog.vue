<script setup lang="ts">
// Asks why, in words, with ready causes where there are some. Nothing is done without an answer.
import { computed, nextTick, ref, watch } from 'vue'
import { useLayer } from '../kit/keys'

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
const fields = ref<HTMLElement>()
const cause = ref<string | null>(null)
watch(
  () => props.open,
  (open) => {
    if (!open) return
    ;[reason.value, cause.value] = ['', null]
    isDone.value = false
    // Every time, not only when the dialog is first made; a dialog is there one frame after it was asked for.
    void nextTick(() => requestAnimationFrame(() => fields.value?.querySelector('input')?.focus()))
  },
)
useLayer(
  () => props.open,
  () => emit('cancel'),
)
const answered = computed(() => {
  if (props.causes) return cause.value !== null && (cause.value !== 'other' || !!reason.value.trim())
  return !!reason.value.trim()
})
/** Once it is answered, what comes next is the page's to say; dismissed, the focus goes back to where it was. */
const isDone = ref(false)
function done() {
  if (!answered.value) return
  isDone.value = true
  emit('done', reason.value.trim(), cause.value)
}
</script>

<template>
  <a-modal
    :open="open"
    :title="title"
    :focus-trigger-after-close="!isDone"
    :ok-text="act"
    :ok-button-props="{ disabled: !answered }"
    @ok="done"
    @cancel="emit('cancel')"
  >
    <div ref="fields">
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
        @press-enter="done"
      />
    </div>
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
