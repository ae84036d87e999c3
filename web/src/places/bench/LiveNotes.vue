<script setup lang="ts">
// Over the live bench: what went wrong, that the bench is busy elsewhere, and why a start waits.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import type { BenchView } from '../../api/types'
import ProblemNote from '../../kit/ProblemNote.vue'

const props = defineProps<{
  problems: readonly unknown[]
  /** The bench, where it works on another campaign. */
  elsewhere: BenchView | undefined
  /** The lab that conducted the campaign, where it was not this one. */
  cameFrom: string
  /** Why a start waits; empty where none does. */
  waiting: string
  mayHurry: boolean
  /** On which bench. */
  bench: number | undefined
}>()
const emit = defineEmits<{ hurry: [] }>()
/** While a unit cools there may be something to do elsewhere. */
const { data: queue } = useQuery({
  queryKey: ['queue'],
  enabled: () => !!props.waiting,
  queryFn: () => answered(client.GET('/api/queue')),
})
const meanwhile = computed(() => queue.value?.days.find((one) => one.bench_id === props.bench)?.meanwhile ?? null)
</script>

<template>
  <template v-for="(problem, at) in problems" :key="at"><ProblemNote v-if="problem" :error="problem" /></template>
  <p v-if="cameFrom" class="quiet">Conducted by {{ cameFrom }}: it is looked at here, and never run.</p>
  <p v-if="elsewhere" class="caution">
    {{ elsewhere.name }} is busy with {{ elsewhere.unit_serial }}.
    <RouterLink :to="`/campaigns/${elsewhere.campaign_id}/live`">Watch that campaign</RouterLink>
  </p>
  <p v-if="waiting" class="caution waits" role="status">
    Waiting to start: <strong>{{ waiting }}</strong>
    <a-button v-if="mayHurry" size="small" @click="emit('hurry')">Start anyway …</a-button>
  </p>
  <p v-if="waiting && meanwhile" class="quiet meanwhile">
    Meanwhile, on {{ meanwhile.bench }}:
    <RouterLink :to="`/campaigns/${meanwhile.campaign_id}/live`"
      >campaign {{ meanwhile.campaign_id }} of {{ meanwhile.unit_serial }}</RouterLink
    >
  </p>
</template>

<style scoped>
.meanwhile a {
  text-decoration: underline;
}
.waits {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 8px;
}
</style>
