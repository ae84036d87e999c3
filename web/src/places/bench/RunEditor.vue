<script setup lang="ts">
// The conditions of one run, to change or to add.
import { computed, reactive } from 'vue'
import type { PlanView, RunIn } from '../../api/types'
import { BURSTS } from './planDraft'

const props = defineProps<{ spec: RunIn; groups: PlanView['groups']; act: string }>()
const emit = defineEmits<{ done: [run: RunIn]; cancel: [] }>()
const run = reactive({ ...props.spec })
const group = computed(() => props.groups.find((g) => g.name === run.group))
const valid = computed(() => run.load_ohms > 0 && run.tone_hz >= 10 && run.supply_volts > 0)

function done() {
  if (!valid.value) return
  const bridged = run.bridged && (group.value?.channels.length ?? 1) > 1
  emit('done', { ...run, bridged, burst: run.mode === 'burst' ? run.burst || '1 kHz' : '' })
}
</script>

<template>
  <form class="editor" @submit.prevent="done" @keydown.esc.stop="emit('cancel')">
    <label>
      Mode
      <select v-model="run.mode">
        <option value="certified">Certified</option>
        <option value="uncertified">Uncertified</option>
        <option value="burst">Burst</option>
      </select>
    </label>
    <label>
      Group
      <select v-model="run.group">
        <option v-for="g in groups" :key="g.name">{{ g.name }}</option>
      </select>
    </label>
    <label
      >Load, Ω <input v-model.number="run.load_ohms" type="number" step="any" min="0.1" max="100" required
    /></label>
    <label v-if="(group?.channels.length ?? 1) > 1" class="check">
      <input v-model="run.bridged" type="checkbox" /> bridged
    </label>
    <label v-if="run.mode !== 'burst'">
      Tone, Hz <input v-model.number="run.tone_hz" type="number" step="any" min="10" max="20000" required />
    </label>
    <label v-else>
      Burst
      <select v-model="run.burst">
        <option v-for="b in BURSTS" :key="b">{{ b }}</option>
      </select>
    </label>
    <label
      >Supply, V <input v-model.number="run.supply_volts" type="number" step="0.1" min="1" max="20" required
    /></label>
    <a-button html-type="submit" size="small" type="primary" :disabled="!valid">{{ act }}</a-button>
    <a-button size="small" @click="emit('cancel')">Leave it</a-button>
  </form>
</template>

<style scoped>
.editor {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}
label {
  font-size: 14px;
}
input[type='number'] {
  width: 76px;
}
.check input {
  accent-color: var(--certified);
}
</style>
