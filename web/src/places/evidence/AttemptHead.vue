<script setup lang="ts">
// What an attempt is of, who made it and how, and its reading in large.
import { API } from '../../kit/base'
import { computed } from 'vue'
import type { AttemptPage } from '../../api/types'
import { CAUSES, END_WORDS, hertz, moment, place, spread, watts } from '../../trade/format'

const props = defineProps<{ page: AttemptPage }>()
const attempt = computed(() => props.page.attempt)
const why = computed(() => {
  const cause = attempt.value.cause as keyof typeof CAUSES | null
  return [cause && cause !== 'other' ? CAUSES[cause] : '', attempt.value.reason].filter(Boolean).join(': ')
})
</script>

<template>
  <header class="head">
    <div>
      <h1>
        {{ place(page.run) }}
        <span class="quiet"
          >{{ page.run.group }}, {{ page.run.burst ? `burst “${page.run.burst}”` : hertz(page.run.tone_hz) }},
          <template v-if="page.run.hold_watts !== null">to hold {{ watts(page.run.hold_watts) }} W,</template>
          {{ page.run.mode }}</span
        >
        <span v-if="page.run.exploratory" class="mark">not evidence</span>
        <span v-if="attempt.withdrawn" class="mark">withdrawn</span>
        <span v-if="attempt.simulated" class="mark" title="From a simulated bench: no amplifier gave this."
          >simulated</span
        >
      </h1>
      <p class="quiet">
        {{ attempt.started_by }}, {{ moment(attempt.started_at) }} · attempt {{ attempt.number }}
        <template v-if="attempt.origin === 'typed'"> · by hand, read with {{ attempt.instrument }}</template>
        <template v-if="attempt.read_again"> · read again: {{ attempt.read_again }}</template>
        <template v-if="attempt.origin === 'table'"> · earlier result, from the table {{ attempt.file }}</template>
        <template v-if="attempt.origin === 'recorded'">
          · a recording, recorded with {{ attempt.instrument }}:
          <a :href="`${API}/attempts/${attempt.id}/original`" download>{{ attempt.file }}</a></template
        >
        <template v-if="why"> (“{{ why }}”)</template> ·
        <span :class="{ danger: !attempt.at_limit }">{{ attempt.end ? END_WORDS[attempt.end] : 'running' }}</span>
        <template v-if="attempt.fault"> – {{ attempt.fault }}</template>
      </p>
    </div>
    <p v-if="attempt.weakest_watts !== null" class="big">
      <span class="mono">{{ watts(attempt.weakest_watts, attempt.expanded_watts) }}</span> W
      <span class="quiet"
        >± {{ spread(attempt.expanded_watts) }} W, weakest {{ page.run.bridged ? 'pair' : 'channel' }}</span
      >
    </p>
  </header>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: flex-end;
  flex-wrap: wrap;
  gap: 4px 24px;
  min-width: 0;
  margin-bottom: 14px;
}
h1 .quiet {
  font-weight: 400;
  font-size: 16px;
}
.mark {
  margin-left: 8px;
  border: 1px solid var(--doubt);
  color: var(--doubt);
  padding: 0 5px;
  font-size: 13px;
  font-weight: 400;
}
.big {
  font-size: 22px;
}
.big .mono {
  font-size: 28px;
  color: var(--certified);
}
.big .quiet {
  font-size: 14px;
}
</style>
