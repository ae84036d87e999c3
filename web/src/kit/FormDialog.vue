<script setup lang="ts">
// A dialog that asks something: the first field has the focus each time, errors stand inside, the focus goes back.
// A click beside it does not close it: that is the second one of a double click on what opened it, or a slip of the hand.
import { nextTick, ref, watch } from 'vue'
import { keepFocus } from './focus'
import { useLayer } from './keys'
import ProblemNote from './ProblemNote.vue'

const props = withDefaults(
  defineProps<{
    open: boolean
    title: string
    /** What the button that does it says. */
    act: string
    /** Whether everything that must be said is said. */
    ready?: boolean
    pending?: boolean
    danger?: boolean
    problem?: unknown
    hint?: string
    width?: number
  }>(),
  { ready: true, hint: '', width: 520 },
)
const emit = defineEmits<{ done: []; cancel: [] }>()
const fields = ref<HTMLElement>()
/** Once it is answered, what comes next is the page's to say; dismissed, the focus goes back to where it was. */
const isDone = ref(false)

const FIRST = 'input:not([type="hidden"]), textarea, select, [contenteditable], [role="combobox"]'
watch(
  () => props.open,
  (open) => {
    if (!open) {
      // What is in a dialog that closes has no use for the focus; where it goes back to, it goes back after this.
      if (fields.value?.contains(document.activeElement)) (document.activeElement as HTMLElement).blur()
      void nextTick(keepFocus)
      return
    }
    isDone.value = false
    // Every time, not only when the dialog is first made; a dialog is there one frame after it was asked for.
    void nextTick(() => requestAnimationFrame(() => fields.value?.querySelector<HTMLElement>(FIRST)?.focus()))
  },
  { immediate: true },
)
useLayer(
  () => props.open,
  () => emit('cancel'),
)

function done() {
  if (!props.ready || props.pending) return
  const wrong = fields.value?.querySelector<HTMLElement>('input:invalid')
  if (wrong) return wrong.focus() // it says itself what is wrong
  isDone.value = true
  emit('done')
}
/** Enter in a field of one line is an answer; in a list or a calendar that is open it chooses from that. */
function entered(event: KeyboardEvent) {
  const field = event.target as HTMLElement
  // A list that took the key has closed by now, and says so by having taken it.
  if (event.defaultPrevented || field.getAttribute('aria-expanded') === 'true') return
  if (field.matches('textarea, .ant-picker input')) return
  if (event.isComposing || !field.matches('input')) return
  event.preventDefault()
  done()
}
</script>

<template>
  <a-modal
    :open="open"
    :mask-closable="false"
    :title="title"
    :width="width"
    :focus-trigger-after-close="!isDone"
    :ok-text="act"
    :confirm-loading="pending"
    :ok-button-props="{ disabled: !ready, danger, type: danger ? 'default' : 'primary' }"
    @ok="done"
    @cancel="emit('cancel')"
    @after-close="keepFocus"
  >
    <div ref="fields" @keydown.enter="entered">
      <p v-if="hint" class="quiet hint">{{ hint }}</p>
      <slot />
      <ProblemNote v-if="problem" :error="problem" />
    </div>
  </a-modal>
</template>

<style scoped>
.hint {
  margin-bottom: 10px;
}
</style>
