<script setup lang="ts">
// The plan as a ladder: one rung per run, grouped by wiring, with its state, its watts and why it is there.
import { computed } from 'vue'
import type { RunView } from '../../api/types'
import { END_WORDS, hertz, minutes, place, watts } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import WattsFigure from '../../trade/WattsFigure.vue'

const props = defineProps<{ runs: RunView[]; selected: number | null }>()
const emit = defineEmits<{ select: [runId: number] }>()
/** Runs that follow one another on the same wiring. */
const stretches = computed(() => {
  const found: { wiring: number; runs: RunView[] }[] = []
  for (const run of props.runs) {
    const last = found.at(-1)
    if (last?.wiring === run.wiring) last.runs.push(run)
    else found.push({ wiring: run.wiring, runs: [run] })
  }
  return found
})
const volts = computed(() => new Set(props.runs.map((r) => r.supply_volts)).size > 1)
const groups = computed(() => new Set(props.runs.map((r) => r.group)).size > 1)
const left = (runs: RunView[]) =>
  runs.filter((r) => r.state === 'waiting').reduce((sum, r) => sum + (r.predicted_minutes ?? 0), 0)
</script>

<template>
  <div class="ladder">
    <section v-for="(s, index) in stretches" :key="index" :aria-label="`Wiring ${s.wiring}`">
      <h3>
        <kbd v-if="s.wiring < 10">{{ s.wiring }}</kbd> Wiring {{ s.wiring }}
        <span class="quiet">{{ left(s.runs) > 0 ? `${minutes(left(s.runs))} left` : '' }}</span>
      </h3>
      <ol>
        <li v-for="run in s.runs" :key="run.id">
          <button
            :aria-current="run.id === selected ? 'step' : undefined"
            :data-state="run.state"
            @click="emit('select', run.id)"
          >
            <ModeMark :mode="run.mode" />
            <span class="what">
              <strong>{{ place(run) }}</strong>
              <span class="quiet">
                {{ groups ? run.group : '' }}
                {{ volts ? `${run.supply_volts} V` : run.burst || hertz(run.tone_hz) }}
              </span>
            </span>
            <span class="result">
              <span v-if="run.state === 'running'" class="running">running</span>
              <template v-else-if="run.chosen?.weakest_watts != null">
                <span v-if="!run.chosen.at_limit && run.chosen.end" class="danger" :title="END_WORDS[run.chosen.end]"
                  >!</span
                >
                <span class="mono"
                  ><WattsFigure :value="run.chosen.weakest_watts" :u="run.chosen.expanded_watts" /> W</span
                >
              </template>
              <span v-else-if="run.chosen?.end" class="danger">{{ END_WORDS[run.chosen.end] }}</span>
              <span v-else class="quiet mono">~{{ watts(run.predicted_watts) }} W</span>
            </span>
            <span v-if="run.id === selected" class="quiet reason">
              {{ run.exploratory ? 'not evidence: ' : '' }}{{ run.reason }}
              <template v-if="run.chosen && !run.chosen.at_limit && run.chosen.end">
                · {{ END_WORDS[run.chosen.end] }}
              </template>
            </span>
          </button>
        </li>
      </ol>
    </section>
  </div>
</template>

<style scoped>
.ladder {
  max-height: calc(100vh - 218px);
  overflow-y: auto;
}
h3 {
  font-size: 13px;
  padding: 9px 8px 3px;
}
h3 .quiet {
  font-weight: 400;
  float: right;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-bottom: 1px solid var(--rule);
}
button {
  display: grid;
  grid-template-columns: 20px 1fr auto;
  gap: 2px 8px;
  align-items: baseline;
  width: 100%;
  text-align: left;
  font: inherit;
  color: inherit;
  background: none;
  border: none;
  border-left: 3px solid transparent;
  padding: 4px 8px 4px 5px;
  cursor: pointer;
}
button:hover {
  background: var(--hover);
}
button[aria-current] {
  background: var(--selected);
  border-left-color: var(--certified);
}
.what .quiet {
  font-size: 13px;
}
.reason {
  grid-column: 2 / -1;
  font-size: 13px;
  line-height: 1.3;
}
.result {
  text-align: right;
  white-space: nowrap;
  font-size: 14px;
}
.result .danger {
  font-weight: 700;
  margin-right: 4px;
}
.running {
  color: var(--doubt);
  font-weight: 600;
}
</style>
