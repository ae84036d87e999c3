<script setup lang="ts">
// Proposes what units bear at every load of a series that has no rating; what became of each stays to be read.
import { ref } from 'vue'
import client, { answered } from '../../api/client'
import type { SeriesProposalView } from '../../api/types'
import { useAct } from '../../kit/act'
import FormDialog from '../../kit/FormDialog.vue'
import { counted, place } from '../../trade/format'

const props = defineProps<{ series: { id: number; name: string } }>()
const emit = defineEmits<{ close: [] }>()
const told = ref<SeriesProposalView[] | null>(null)
const { act, pending, problem } = useAct(
  () =>
    answered(client.POST('/api/series/{series_id}/proposals', { params: { path: { series_id: props.series.id } } })),
  { takesLong: true, done: (found) => (told.value = found) },
)
</script>

<template>
  <FormDialog
    open
    :title="`Propose ${series.name}`"
    :act="told ? 'Close' : 'Propose them'"
    :hint="
      told
        ? ''
        : 'At every load that has no rating yet, what its units bear is proposed at the reference voltage and 1 % THD+N, for 95 % of units at 95 % confidence. Each is signed or sent back by itself.'
    "
    :pending="pending"
    :problem="problem"
    :width="640"
    @done="told ? emit('close') : act()"
    @cancel="emit('close')"
  >
    <p v-if="pending" role="status">Every unit is looked at …</p>
    <template v-if="told">
      <p role="status">{{ counted(told.filter((one) => one.rating_id).length, 'rating') }} proposed.</p>
      <ul tabindex="0" aria-label="What became of each load">
        <li v-for="one in told" :key="`${one.model_id}${one.group}${one.load_ohms}${one.bridged}`">
          {{ one.model }}, {{ one.group }}, {{ place(one) }}:
          <RouterLink v-if="one.rating_id" :to="`/ratings/${one.rating_id}`">{{ one.watts }} W</RouterLink>
          <span v-else class="quiet">{{ one.why }}</span>
        </li>
      </ul>
    </template>
  </FormDialog>
</template>

<style scoped>
ul {
  max-height: 46vh;
  margin: 6px 0;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}
li {
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}
</style>
