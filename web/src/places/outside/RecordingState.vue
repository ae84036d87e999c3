<script setup lang="ts">
// How far a file that is read in the background is, and why it may not go on.
import type { RecordingView } from '../../api/types'

defineProps<{ recording: RecordingView }>()
defineEmits<{ stop: [] }>()
</script>

<template>
  <div v-if="recording.state === 'reading'" class="working">
    <span>{{ recording.doing }}</span>
    <progress :value="recording.done" :aria-label="recording.doing" />
    <a-button @click="$emit('stop')">Stop</a-button>
  </div>
  <p v-else-if="recording.state === 'failed'" class="failed" role="alert">{{ recording.problem }}</p>
  <p v-else-if="recording.state === 'stopped'" class="quiet">Stopped. The file is still here.</p>
  <p v-else-if="recording.state === 'laid out'" class="quiet">
    Say what the columns are, then read it: the wave and what is found on it appear here.
  </p>
</template>

<style scoped>
progress {
  width: min(320px, 100%);
  accent-color: var(--certified);
}
.working {
  display: grid;
  justify-items: start;
  gap: 8px;
}
.failed {
  padding: 8px 12px;
  border-left: 3px solid var(--danger);
  background: var(--sheet);
}
</style>
