<script setup lang="ts">
// A lab's first hour: the line, the bench, the people; each may wait.
import { useQuery } from '@tanstack/vue-query'
import client, { answered } from '../../api/client'
import { useBenches, useLine } from '../../api/queries'
import PageFrame from '../../kit/PageFrame.vue'

const { data: line } = useLine()
const { data: benches } = useBenches()
const {
  data: people,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['people'],
  queryFn: () => answered(client.GET('/api/people')),
})
</script>

<template>
  <h1>Your lab begins</h1>
  <p class="quiet">Three things, in any order. Each may wait; the places in the bar lead back to them.</p>
  <PageFrame title="Your lab begins" :pending="isPending" :error="error" @retry="refetch" />
  <ol v-if="people" class="steps">
    <li>
      <h2>The line</h2>
      <p>The series and models that your lab tests, with their channels and the loads they are rated for.</p>
      <p class="quiet">
        {{ line?.series.length ? `${line.series.length} series on record.` : 'Nothing on record yet.' }}
      </p>
      <RouterLink to="/line">{{ line?.series.length ? 'Look at the line' : 'Enter the first series' }}</RouterLink>
      <br />
      <RouterLink to="/line/spreadsheet">Or drop a spreadsheet</RouterLink>
    </li>
    <li>
      <h2>The bench</h2>
      <p>
        {{ benches?.map((bench) => bench.name).join(', ') }} stands ready: a simulated bench, to try plans on. What
        readings are taken with belongs on the register of gear.
      </p>
      <RouterLink to="/gear">Look at the gear</RouterLink>
    </li>
    <li>
      <h2>The people</h2>
      <p>Each with an account and roles: what is done is kept under the name of who did it.</p>
      <p class="quiet">
        {{ people.length === 1 ? 'You are alone so far.' : `${people.length} people have an account.` }}
      </p>
      <RouterLink to="/people">Add people</RouterLink>
    </li>
  </ol>
</template>

<style scoped>
.steps {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 20px;
  margin: 20px 0;
  padding: 0;
  list-style: none;
}
.steps li {
  padding: 18px 20px;
  background: var(--sheet);
  border: 1px solid var(--rule);
}
/* Tall enough for a finger where two stand below each other. */
.steps a {
  display: inline-block;
  padding: 3px 0;
}
h2 {
  margin-top: 0;
}
</style>
