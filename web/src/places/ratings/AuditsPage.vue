<script setup lang="ts">
// Production audits: which units of which month proved what is promised, and which are owed.
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import client, { answered } from '../../api/client'
import { AUDIT_PLANS } from '../../api/kept'
import type { AuditPlanView } from '../../api/kept'
import { useMay } from '../../api/me'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import { counted } from '../../trade/format'
import AuditSection from './AuditSection.vue'

const AuditPlanForm = defineAsyncComponent(() => import('./AuditPlanForm.vue'))
const {
  data: audits,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['audits'], queryFn: () => answered(client.GET('/api/audits')) })
const { data: board } = useQuery({
  queryKey: ['board', ''],
  queryFn: () => answered(client.GET('/api/ratings', { params: { query: { price: 'list' } } })),
})
/** How many audits show all that they are at once; the others once they are asked for. */
const UNFOLDED = 3
const mayPropose = useMay('propose')
const mayPlan = useMay('plan')

/** Models with a published rating, each with its loads. */
const published = computed(
  () =>
    board.value?.series
      .flatMap((series) => series.models)
      .map((model) => ({ ...model, cells: model.cells.filter((cell) => cell.rated_watts !== null) }))
      .filter((model) => model.cells.length) ?? [],
)
const choices = computed(() => published.value.map((model) => ({ value: model.id, label: model.name })))
const chosen = ref<number | null>(null)
/** The form that is open: of which model, and what it changes. */
const form = ref<{ model: { id: number; name: string }; kept: AuditPlanView | null } | null>(null)
const cellsOf = (id: number) => published.value.find((model) => model.id === id)?.cells ?? []
function plan() {
  const model = published.value.find((one) => one.id === chosen.value)
  if (model) form.value = { model, kept: null }
}
async function change(audit: { id: number; model_id: number; model_name: string }) {
  const found = (await AUDIT_PLANS.list(audit.model_id)).find((one) => one.id === audit.id)
  if (found) form.value = { model: { id: audit.model_id, name: audit.model_name }, kept: found }
}
const owed = computed(() => audits.value?.reduce((sum, one) => sum + one.owed, 0) ?? 0)
</script>

<template>
  <PageFrame
    title="Audits"
    :trail="[{ name: 'Ratings', to: '/ratings' }, { name: 'Audits' }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <header class="head">
      <div>
        <h1>Audits</h1>
        <p class="quiet">
          Units of production prove month by month what is published.
          {{ audits?.length ? (owed ? `${counted(owed, 'unit')} owed now.` : 'Nothing is owed now.') : '' }}
        </p>
      </div>
      <form v-if="mayPropose && choices.length" class="plan" @submit.prevent="plan">
        <PickOne v-model="chosen" label="Model" :choices="choices" placeholder="choose one" />
        <a-button html-type="submit" :disabled="!chosen">Plan an audit</a-button>
      </form>
    </header>
    <p v-if="audits && !audits.length" class="quiet none">
      No audit is planned.
      {{ choices.length ? 'Choose a model and say how many of its units are to be looked at.' : '' }}
      <template v-if="!choices.length"
        >It proves what is published: <RouterLink to="/ratings">publish a rating</RouterLink> first.</template
      >
    </p>
    <AuditSection
      v-for="(one, at) in audits"
      :key="one.id"
      :row="one"
      :unfolded="at < UNFOLDED"
      :may-plan="mayPlan"
      :may-propose="mayPropose"
      @change="change(one)"
    />
    <AuditPlanForm
      v-if="form"
      :key="form.kept?.id ?? 0"
      :model="form.model"
      :published="cellsOf(form.model.id)"
      :kept="form.kept"
      @close="form = null"
    />
  </PageFrame>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  justify-content: space-between;
  align-items: flex-end;
}
.plan {
  display: flex;
  gap: 10px;
  align-items: end;
}
.none {
  padding: 16px 0;
}
.none a {
  text-decoration: underline;
}
</style>
