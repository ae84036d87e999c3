<script setup lang="ts">
// An audit of a model: its months, what units gave in the one that is picked, and the next unit's proofs.
import { computed, ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { AUDIT_PLANS } from '../../api/kept'
import type { AuditRow, AuditView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import { counted, place } from '../../trade/format'
import AuditMark from './AuditMark.vue'
import IndividualsChart from './IndividualsChart.vue'

const props = defineProps<{ row: AuditRow; unfolded: boolean; mayPlan: boolean; mayPropose: boolean }>()
const emit = defineEmits<{ change: [] }>()
const router = useRouter()
type Found = AuditView['periods'][number]['found'][number]

const open = ref(props.unfolded)
const { data: audit, error } = useQuery({
  queryKey: computed(() => ['audit', props.row.id]),
  queryFn: () => answered(client.GET('/api/audits/{plan_id}', { params: { path: { plan_id: props.row.id } } })),
  enabled: open,
})
const months = computed(() => [...(audit.value?.periods ?? [])].reverse())
const picked = ref('')
const period = computed(() => audit.value?.periods.find((one) => one.first === picked.value) ?? audit.value?.periods[0])
const month = (day: string) =>
  new Date(`${day}T12:00:00Z`).toLocaleDateString('en-GB', { month: 'short', year: 'numeric', timeZone: 'UTC' })
const name = (one: { first: string; last: string }) =>
  month(one.first) === month(one.last) ? month(one.first) : `${month(one.first)} – ${month(one.last)}`
const rating = (id: number) => audit.value?.ratings.find((one) => one.id === id)
const where = (id: number) => {
  const found = rating(id)
  return found ? `${found.group}, ${place(found)}` : ''
}
const gave = (one: Found) =>
  `${one.at_least ? 'at least ' : ''}${figure(one.watts, 1)} W${one.short ? ', less than promised' : ''}`
const COLUMNS: Column<Found>[] = [
  { key: 'unit', head: 'Unit', text: (one) => one.serial, look: 'mono' },
  { key: 'lot', head: 'Lot', text: (one) => one.lot, look: 'mono' },
  { key: 'day', head: 'On', text: (one) => one.day, look: 'nowrap' },
  { key: 'at', head: 'At', text: (one) => where(one.rating_id) },
  { key: 'gave', head: 'Gave', text: gave, value: (one) => one.watts, look: 'nowrap' },
  {
    key: 'promised',
    head: 'Promised',
    unit: 'W',
    text: (one) => `${rating(one.rating_id)?.watts ?? ''}`,
    value: (one) => rating(one.rating_id)?.watts ?? null,
    num: true,
  },
]

const unit = ref<number | null>(null)
const units = computed(() =>
  (audit.value?.candidates ?? []).map((one) => ({
    value: one.unit_id,
    label: one.lot ? `${one.serial}, lot ${one.lot}` : one.serial,
  })),
)
const prove = useAct(
  () =>
    answered(
      client.POST('/api/audit-plans/{plan_id}/campaigns', {
        params: { path: { plan_id: props.row.id } },
        body: { unit_id: unit.value! },
      }),
    ),
  { done: (made) => router.push(`/campaigns/${made.id}/live`) },
)
const close = useAct(() => AUDIT_PLANS.close(props.row.id, true))
</script>

<template>
  <section class="section" :aria-label="`Audit of ${row.model_name}`">
    <header>
      <h2>
        <RouterLink :to="`/models/${row.model_id}`">{{ row.model_name }}</RouterLink>
      </h2>
      <span class="quiet">{{ row.words }}</span>
      <span v-if="!open" class="quiet">{{
        row.owed ? `${counted(row.owed, 'unit')} still owed` : 'nothing is owed now'
      }}</span>
      <span class="spacer" />
      <a-button v-if="!open" type="link" @click="open = true">Show its months</a-button>
      <template v-if="mayPropose">
        <a-button type="link" @click="emit('change')">Change</a-button>
        <a-button type="link" :loading="close.pending.value" @click="close.act()">End it</a-button>
      </template>
    </header>
    <ProblemNote v-if="close.problem.value" :error="close.problem.value" />
    <ProblemNote v-if="error" :error="error" />
    <template v-if="!open || !audit" />
    <p v-else-if="!audit.ratings.length" class="quiet none">
      No rating is published at its loads: there is nothing to prove.
      <RouterLink to="/ratings">See the ratings</RouterLink>
    </p>
    <template v-else>
      <p class="proves">
        <RouterLink v-for="one in audit.ratings" :key="one.id" :to="`/ratings/${one.id}`"
          >{{ one.group }}, {{ place(one) }}: {{ one.watts }} W</RouterLink
        >
      </p>
      <div class="top">
        <div v-if="period" class="months" role="group" :aria-label="`Months of the audit of ${audit.model_name}`">
          <button
            v-for="one in months"
            :key="one.first"
            :aria-pressed="one.first === period.first"
            @click="picked = one.first"
          >
            <span class="when">{{ name(one) }}</span>
            <span class="count">{{ one.done }} of {{ one.wanted }}</span>
            <AuditMark :state="one.state" />
          </button>
        </div>
        <p v-else class="quiet none">It has not begun.</p>
        <form v-if="mayPlan && units.length" class="next" @submit.prevent="unit && prove.act()">
          <PickOne v-model="unit" label="Next unit" :choices="units" placeholder="choose one" />
          <a-button
            html-type="submit"
            :type="audit.owed ? 'primary' : 'default'"
            :disabled="!unit"
            :loading="prove.pending.value"
            >Plan its proofs</a-button
          >
          <span class="quiet">{{
            audit.owed ? `${counted(audit.owed, 'unit')} still owed.` : 'Nothing is owed now.'
          }}</span>
        </form>
      </div>
      <template v-if="period">
        <DataTable
          v-if="period.found.length"
          :id="(one) => one.attempt_id"
          :name="`${audit.model_name}, ${name(period)}`"
          :rows="period.found"
          :columns="COLUMNS"
          :to="(one) => `/attempts/${one.attempt_id}`"
          :sort-name="`audit${audit.id}`"
        />
        <p v-else class="quiet none">No unit proved it in {{ name(period) }}.</p>
        <p v-if="period.begun" class="quiet">
          {{ counted(period.begun, 'unit') }} proved it at some of the loads only.
        </p>
      </template>
      <div v-for="one in audit.ratings" :key="one.id" class="came">
        <h3 v-if="one.chart">{{ one.group }}, {{ place(one) }}: units as they came</h3>
        <IndividualsChart
          v-if="one.chart"
          :chart="one.chart"
          :rated="one.watts"
          :name="`${audit.model_name}, ${one.group}, ${place(one)}`"
        />
      </div>
      <p v-if="mayPlan && audit.owed && !units.length" class="quiet">
        Every unit on record was looked at:
        <RouterLink :to="`/models/${audit.model_id}`">receive another one</RouterLink>.
      </p>
      <ProblemNote v-if="prove.problem.value" :error="prove.problem.value" />
    </template>
  </section>
</template>

<style scoped>
.proves {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  margin: 6px 0;
}
.came {
  max-width: 900px;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 40px;
  justify-content: space-between;
  align-items: end;
  margin: 8px 0 12px;
}
.months {
  display: flex;
  flex: 1 1 320px;
  flex-wrap: wrap;
  gap: 6px;
}
.months button {
  display: grid;
  min-width: 104px;
  gap: 1px;
  justify-items: start;
  padding: 7px 10px;
  font: inherit;
  font-size: 13.5px;
  color: inherit;
  background: var(--sheet);
  border: 1px solid var(--rule);
  cursor: pointer;
}
.months button[aria-pressed='true'] {
  border-color: var(--ink);
  box-shadow: inset 0 -2px 0 var(--ink);
}
.when {
  font-weight: 600;
}
.count {
  font-variant-numeric: tabular-nums;
}
.next {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: end;
}
.none {
  padding: 8px 0;
}
p a {
  text-decoration: underline;
}
.proves a {
  text-decoration: none;
}
</style>
