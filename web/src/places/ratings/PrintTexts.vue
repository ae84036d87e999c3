<script setup lang="ts">
// How a published rating is worded where it is printed; what a reader would need and does not find is said.
import { API } from '../../kit/base'
import { useQuery } from '@tanstack/vue-query'
import client, { answered } from '../../api/client'

const props = defineProps<{ id: number }>()
const { data: texts } = useQuery({
  queryKey: ['rating-texts', () => props.id],
  queryFn: () => answered(client.GET('/api/ratings/{rating_id}/texts', { params: { path: { rating_id: props.id } } })),
})
</script>

<template>
  <section v-if="texts">
    <h2>To print</h2>
    <p class="line">{{ texts.line }}</p>
    <p v-if="texts.lacks.length" class="quiet">A reader would miss {{ texts.lacks.join(', ') }}.</p>
    <p class="files no-print">
      <a :href="`${API}/ratings/${id}/label.svg`" download>Label (SVG)</a>
      <a :href="`${API}/ratings/${id}/texts`" :download="`rating-${id}.json`">Data for web shops (JSON)</a>
    </p>
  </section>
</template>

<style scoped>
section {
  padding-top: 14px;
}
h2 {
  margin: 0 0 4px;
  padding-bottom: 4px;
  border-bottom: 1px solid var(--rule);
  font-size: 15px;
}
.line {
  margin: 4px 0;
  padding: 6px 10px;
  background: var(--sheet);
  user-select: all;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}
</style>
