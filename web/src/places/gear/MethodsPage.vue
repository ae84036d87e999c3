<script setup lang="ts">
// Methods: what campaigns were planned under, and what each has otherwise than is proposed today.
import { useQuery } from '@tanstack/vue-query'
import client, { answered } from '../../api/client'
import PageFrame from '../../kit/PageFrame.vue'
import { counted, day } from '../../trade/format'

const {
  data: methods,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['methods'], queryFn: () => answered(client.GET('/api/methods')) })
</script>

<template>
  <PageFrame
    title="Methods"
    :trail="[{ name: 'Gear', to: '/gear' }, { name: 'Methods' }]"
    :pending="isPending"
    :error="error"
    :empty="!!methods && !methods.length"
    @retry="refetch"
  >
    <template #head>
      <h1>Methods</h1>
      <p class="quiet">
        A campaign keeps the method that it was planned under; this is what was used, the latest first.
      </p>
    </template>
    <template #empty><p class="quiet">No campaign is planned yet.</p></template>
    <section v-for="one in methods" :key="one.latest_campaign_id" class="section">
      <header>
        <h2>{{ one.name }}</h2>
        <span class="quiet">
          {{ counted(one.campaigns, 'campaign') }}, {{ day(one.first) }} to {{ day(one.last) }}; the latest is
          <RouterLink :to="`/campaigns/${one.latest_campaign_id}`">campaign {{ one.latest_campaign_id }}</RouterLink>
        </span>
      </header>
      <p v-if="!one.differences.length" class="same">What is proposed today.</p>
      <table v-else class="plain">
        <caption class="visually-hidden">
          What it has otherwise than is proposed today
        </caption>
        <thead>
          <tr>
            <th scope="col">Value</th>
            <th scope="col" class="num">Here</th>
            <th scope="col" class="num">Proposed today</th>
            <th scope="col">Where today’s is from</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="each in one.differences" :key="each.field">
            <td class="mono">{{ each.field }}</td>
            <td class="num mono">{{ each.here }}</td>
            <td class="num mono">{{ each.today }}</td>
            <td class="quiet">{{ each.origin }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </PageFrame>
</template>

<style scoped>
.same {
  padding: 8px 0;
}
section a {
  text-decoration: underline;
}
</style>
