<script setup lang="ts">
// Methods: what campaigns were planned under, and what each has otherwise than is proposed today.
import { useQuery } from '@tanstack/vue-query'
import client, { answered } from '../../api/client'
import type { MethodUsedView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { useLabMethods } from '../../trade/methods'
import { counted, day } from '../../trade/format'
import LabMethods from './LabMethods.vue'

const {
  data: methods,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['methods'], queryFn: () => answered(client.GET('/api/methods')) })
const { data: lab } = useLabMethods()

const between = (one: MethodUsedView) =>
  day(one.first) === day(one.last) ? day(one.first) : `${day(one.first)} to ${day(one.last)}`
type Difference = MethodUsedView['differences'][number]
const COLUMNS: Column<Difference>[] = [
  { key: 'field', head: 'Value', text: (each) => each.field, look: 'mono', unsorted: true },
  { key: 'here', head: 'Here', text: (each) => each.here, num: true, unsorted: true },
  { key: 'today', head: 'Proposed today', text: (each) => each.today, num: true, unsorted: true },
  { key: 'origin', head: 'Where today’s is from', text: (each) => each.origin, look: 'quiet', unsorted: true },
]
</script>

<template>
  <PageFrame
    title="Methods"
    :trail="[{ name: 'Gear', to: '/gear' }, { name: 'Methods' }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template #head>
      <h1>Methods</h1>
      <p class="quiet">
        Every number of the procedure that a lab may set. A campaign keeps the method that it was planned under.
      </p>
    </template>
    <LabMethods v-if="lab" :lab="lab" />
    <h2 class="used">What was used, the latest first</h2>
    <p v-if="methods && !methods.length" class="quiet">No campaign is planned yet.</p>
    <section v-for="one in methods" :key="one.latest_campaign_id" class="section">
      <header>
        <h2>{{ one.name }}</h2>
        <span class="quiet">
          {{ counted(one.campaigns, 'campaign') }}, {{ between(one) }}; the latest is
          <RouterLink :to="`/campaigns/${one.latest_campaign_id}`">campaign {{ one.latest_campaign_id }}</RouterLink>
        </span>
      </header>
      <p v-if="!one.differences.length" class="same">What is proposed today.</p>
      <DataTable
        v-else
        :id="(each) => each.field"
        :name="`What ${one.name} has otherwise than is proposed today`"
        :rows="one.differences"
        :columns="COLUMNS"
        plain
      />
    </section>
  </PageFrame>
</template>

<style scoped>
.used {
  margin: 26px 0 0;
  font-size: 18px;
}
.same {
  padding: 8px 0;
}
header a {
  text-decoration: underline;
}
</style>
