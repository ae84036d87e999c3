<script setup lang="ts">
// The plan as a ladder: one rung per run, with its state, its watts and why it is there.
import type { RunView } from '../../api/types'
import { END_WORDS, place, watts } from '../../parts/format'

defineProps<{ runs: RunView[]; selected: number | null }>()
const emit = defineEmits<{ select: [runId: number] }>()
</script>

<template>
  <ol class="ladder" aria-label="Runs">
    <li v-for="run in runs" :key="run.id">
      <button
        :aria-current="run.id === selected ? 'step' : undefined"
        :data-state="run.state"
        @click="emit('select', run.id)"
      >
        <span class="rung" aria-hidden="true">
          <svg viewBox="0 0 16 16" width="16" height="16">
            <path
              v-if="run.state === 'done'"
              d="M3 8.5L6.5 12L13 4.5"
              fill="none"
              stroke="currentColor"
              stroke-width="2"
            />
            <path v-else-if="run.state === 'running'" d="M8 2L14 8L8 14L2 8Z" fill="currentColor" />
            <rect v-else x="4" y="7" width="8" height="2" fill="currentColor" />
          </svg>
        </span>
        <span class="what">
          <strong>{{ place(run) }}</strong> <span class="quiet">{{ run.group }} · {{ run.tone_hz }} Hz</span>
          <span class="quiet reason">{{ run.reason }}</span>
        </span>
        <span class="result">
          <template v-if="run.state === 'running'">running</template>
          <template v-else-if="run.chosen?.weakest_watts != null">
            <span class="mono">{{ watts(run.chosen.weakest_watts) }} W</span>
            <span v-if="!run.chosen.at_limit && run.chosen.end" class="danger">{{ END_WORDS[run.chosen.end] }}</span>
          </template>
          <span v-else-if="run.chosen?.end" class="danger">{{ END_WORDS[run.chosen.end] }}</span>
        </span>
      </button>
    </li>
  </ol>
</template>

<style scoped>
.ladder {
  list-style: none;
  margin: 0;
  padding: 0;
}
.ladder li {
  border-bottom: 1px solid var(--rule);
}
button {
  display: grid;
  grid-template-columns: 22px 1fr auto;
  gap: 4px;
  width: 100%;
  text-align: left;
  font: inherit;
  color: inherit;
  background: none;
  border: none;
  border-left: 3px solid transparent;
  padding: 8px 8px 8px 6px;
  cursor: pointer;
}
button:hover {
  background: var(--hover);
}
button[aria-current] {
  background: var(--selected);
  border-left-color: var(--certified);
}
.rung {
  padding-top: 3px;
  color: var(--rule-strong);
}
[data-state='done'] .rung {
  color: var(--certified);
}
[data-state='running'] .rung {
  color: var(--supply);
}
.what .quiet {
  font-size: 13px;
}
.reason {
  display: block;
  line-height: 1.3;
}
.result {
  text-align: right;
  white-space: nowrap;
  font-size: 14px;
}
.result .danger {
  display: block;
  font-size: 12px;
  white-space: normal;
  max-width: 80px;
}
</style>
