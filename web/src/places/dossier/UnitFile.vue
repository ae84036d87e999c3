<script setup lang="ts">
// What is kept with a unit besides its readings: how it came, photographs, inside, listening.
import { computed } from 'vue'
import { useMay } from '../../api/me'
import { useModel, useUnit } from '../../api/queries'
import PageFrame from '../../kit/PageFrame.vue'
import { unitTrail } from '../../trade/trails'
import InsideSection from './InsideSection.vue'
import ListeningSection from './ListeningSection.vue'
import PhotographsSection from './PhotographsSection.vue'
import SaidList from './SaidList.vue'

const props = defineProps<{ id: number }>()
const { data, error, isPending, refetch } = useUnit(() => props.id)
const { data: model } = useModel(() => data.value?.model.id ?? 0)
const mayMeasure = useMay('measure')
/** What another unit of the model has to be compared with. */
const siblings = computed(() => model.value?.units ?? [])
const others = computed(() => siblings.value.filter((one) => one.id !== props.id).slice(0, 5))
const beside = computed(
  () => `/side-by-side?kind=unit&id=${[props.id, ...others.value.map((one) => one.id)].join(',')}`,
)
</script>

<template>
  <PageFrame
    :title="data ? `${data.unit.serial}: its file` : ''"
    :trail="data ? unitTrail(data, 'Its file') : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <template v-if="data">
    <header>
      <h1>
        <span class="mono">{{ data.unit.serial }}</span>: how it came, inside, listening
      </h1>
      <nav class="no-print" aria-label="This unit">
        <RouterLink v-if="others.length" :to="beside">Side by side with others of its model</RouterLink>
        <RouterLink :to="`/history/unit/${id}`">History</RouterLink>
      </nav>
    </header>
    <section class="section">
      <header><h2>How it came</h2></header>
      <SaidList :said="data.said" />
    </section>
    <PhotographsSection :unit="id" :may-change="mayMeasure" />
    <InsideSection :unit="id" :attention="data.attention" :may-change="mayMeasure" />
    <ListeningSection :unit="id" :siblings="siblings" :may-change="mayMeasure" />
  </template>
</template>

<style scoped>
header nav {
  display: flex;
  gap: 18px;
}
</style>
