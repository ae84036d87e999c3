<script setup lang="ts">
// What was found on a recording by itself, and the reading that would be kept.
import { computed, ref, watch } from 'vue'
import type { AttemptView, FoundView, ReadPlaceView } from '../../api/types'
import { useAddressNumber } from '../../kit/address'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import FindingsList from '../../trade/FindingsList.vue'
import { END_WORDS, percent, spread, watts } from '../../trade/format'
import RecordingChart from './RecordingChart.vue'

const props = defineProps<{
  found: FoundView
  attempt: AttemptView
  places: readonly ReadPlaceView[]
  keeping: boolean
}>()
const emit = defineEmits<{ keep: [] }>()
const picked = useAddressNumber('channel')
const channel = computed(() => picked.value ?? props.found.envelopes[0]?.channel ?? 1)
const name = (number: number) => props.places.find((place) => place.channel === number)?.name ?? String(number)
const KIND_WORDS = { steady: 'A steady tone', sweep: 'Levels', bursts: 'Bursts' } as const
type Section = FoundView['sections'][number]
const COLUMNS: Column<Section>[] = [
  { key: 'from', head: 'From', unit: 's', num: true, text: (s) => figure(s.start, 2), value: (s) => s.start },
  {
    key: 'watts',
    head: 'Weakest',
    unit: 'W',
    num: true,
    text: (s) => watts(s.weakest_watts),
    value: (s) => s.weakest_watts,
  },
  {
    key: 'thd',
    head: 'THD+N',
    unit: '%',
    num: true,
    text: (s) => percent(s.worst_thd_n_percent),
    value: (s) => s.worst_thd_n_percent,
  },
  { key: 'what', head: '', text: (s) => (s.chosen ? 'the reading' : ''), unsorted: true },
]
/** The reading's own row is in view, however many stretches there are. */
const list = ref<HTMLElement>()
watch(
  [list, () => props.found],
  () => {
    const row = list.value?.querySelector<HTMLElement>('tr.chosen')
    if (row && list.value) list.value.scrollTop = row.offsetTop - list.value.clientHeight / 2
  },
  { flush: 'post' },
)
</script>

<template>
  <p class="what">
    {{ KIND_WORDS[found.kind] }} of {{ figure(found.tone_hz, 2) }} Hz
    <template v-if="found.burst">, {{ found.burst }} each</template>
    <span v-if="found.envelopes.length > 1" class="channels" role="group" aria-label="Channel">
      <button
        v-for="e in found.envelopes"
        :key="e.channel"
        :aria-pressed="e.channel === channel"
        @click="picked = e.channel"
      >
        {{ name(e.channel) }}
      </button>
    </span>
  </p>
  <RecordingChart :found="found" :channel="channel" />
  <div class="result">
    <p class="main">
      <span class="mono">{{ watts(attempt.weakest_watts, attempt.expanded_watts) }}</span> W
      <span class="quiet small"
        >± {{ spread(attempt.expanded_watts) }} W, weakest · {{ attempt.end ? END_WORDS[attempt.end] : '' }}</span
      >
    </p>
    <a-button type="primary" size="large" :loading="keeping" @click="emit('keep')">Keep it as evidence</a-button>
  </div>
  <div ref="list" class="sections">
    <DataTable
      :id="(s) => s.start"
      name="Stretches found"
      :rows="found.sections"
      :columns="COLUMNS"
      :marked="(s) => (s.chosen ? 'chosen' : undefined)"
      sort-name="stretches"
    />
  </div>
  <FindingsList :findings="attempt.findings" />
</template>

<style scoped>
.what {
  display: flex;
  gap: 6px;
  padding-bottom: 6px;
  font-weight: 600;
}
.channels {
  margin-left: auto;
}
.channels button {
  font: inherit;
  font-weight: 400;
  color: inherit;
  background: none;
  border: none;
  border-bottom: 2px solid transparent;
  padding: 0 8px;
  cursor: pointer;
}
.channels button[aria-pressed='true'] {
  border-bottom-color: var(--certified);
}
.result {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 16px;
  padding: 8px 0;
}
.outside .main {
  font-size: 40px;
}
.small {
  display: block;
  font-size: 14px;
}
.sections {
  position: relative;
  max-height: 232px;
  overflow-y: auto;
}
.sections :deep(.chosen) {
  background: var(--selected);
}
</style>
