<script setup lang="ts">
// One attempt: its reading, wave, spectrum, level sweep, conditions, files and history.
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useAttempt } from '../../api/queries'
import { useMay } from '../../api/me'
import { useAct } from '../../kit/act'
import { useKeys } from '../../kit/keys'
import PageFrame from '../../kit/PageFrame.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import FindingsList from '../../trade/FindingsList.vue'
import { moment, place } from '../../trade/format'
import AttemptCharts from './AttemptCharts.vue'
import AttemptConditions from './AttemptConditions.vue'
import AttemptHead from './AttemptHead.vue'
import AttemptReading from './AttemptReading.vue'
import AttemptsList from './AttemptsList.vue'
import BudgetTable from './BudgetTable.vue'

const props = defineProps<{ id: number }>()
const { data: page, error, isPending, refetch } = useAttempt(() => props.id)
const attempt = computed(() => page.value?.attempt)
const trail = computed(() =>
  page.value
    ? [
        { name: page.value.model_name, to: `/models/${page.value.model_id}` },
        { name: page.value.unit_serial, to: `/units/${page.value.unit_id}` },
        { name: `Campaign ${page.value.campaign_id}`, to: `/campaigns/${page.value.campaign_id}` },
        { name: `Attempt ${page.value.attempt.id}` },
      ]
    : [],
)
const title = computed(() =>
  page.value ? `${page.value.unit_serial}, ${place(page.value.run)} ${page.value.run.mode}` : '',
)

const overruling = ref<string | null>(null)
const overrules = useAct(
  (reason: string) =>
    answered(
      client.POST('/api/attempts/{attempt_id}/overrulings', {
        params: { path: { attempt_id: props.id } },
        body: { code: overruling.value!, reason },
      }),
    ),
  { done: () => (overruling.value = null) },
)
const commenting = ref(false)
const comments = useAct(
  (text: string) =>
    answered(
      client.POST('/api/attempts/{attempt_id}/remarks', {
        params: { path: { attempt_id: props.id } },
        body: { text },
      }),
    ),
  { done: () => (commenting.value = false) },
)
const withdrawing = ref(false)
const mayMeasure = useMay('measure')
const mayPlan = useMay('plan')
const maySign = useMay('sign')
/** What the person may set aside: an engineer notes and doubts, a reviewer what makes a reading invalid. */
const weights = computed(() => [
  ...(mayPlan.value ? (['doubt'] as const) : []),
  ...(maySign.value ? (['invalid'] as const) : []),
])
/** Withdraw the reading, or let it count again: whichever it is not now. */
const withdrawals = useAct(
  (reason: string) =>
    answered(
      client.POST('/api/attempts/{attempt_id}/withdrawal', {
        params: { path: { attempt_id: props.id } },
        body: { reason, withdrawn: !attempt.value?.withdrawn },
      }),
    ),
  { done: () => (withdrawing.value = false) },
)
useKeys([
  { key: 'c', does: 'comment on the attempt', act: () => (commenting.value = true), when: () => !!attempt.value },
])
</script>

<template>
  <PageFrame :title="title" :trail="trail" :pending="isPending" :error="error" @retry="refetch">
    <template v-if="page && attempt">
      <AttemptHead :page="page" />
      <p v-if="attempt.withdrawn" class="withdrawn" role="status">
        Withdrawn: “{{ attempt.withdrawn.reason }}” – {{ attempt.withdrawn.by }}, {{ moment(attempt.withdrawn.at) }}. It
        stays on record and counts nowhere.
      </p>
      <ul v-if="attempt.circumstances.length" class="circumstances">
        <li v-for="what in attempt.circumstances" :key="what">{{ what }}</li>
      </ul>
      <FindingsList :findings="attempt.findings" :overrules="weights" @overrule="overruling = $event" />
      <p v-for="r in attempt.remarks" :key="r.at" class="remark">
        “{{ r.text }}” <span class="quiet">– {{ r.by }}, {{ moment(r.at) }}</span>
      </p>
      <p class="no-print">
        <button v-if="mayMeasure" class="plain" @click="commenting = true">
          Comment on this attempt … <kbd>C</kbd>
        </button>
        <button v-if="mayPlan && attempt.readings.length" class="plain" @click="withdrawing = true">
          {{ attempt.withdrawn ? 'Let the reading count again …' : 'Withdraw the reading …' }}
        </button>
      </p>
      <div class="grid">
        <AttemptCharts :page="page" />
        <AttemptReading :page="page" />
      </div>
      <AttemptConditions :page="page" />
      <BudgetTable v-if="page.budget" :budget="page.budget" />
      <AttemptsList :run="page.run" :shown="attempt.id" />
    </template>
    <ReasonDialog
      :open="overruling !== null"
      title="Why can this finding be set aside?"
      act="Set it aside"
      hint="The reason is recorded with your name; the finding stays readable."
      :pending="overrules.pending.value"
      :problem="overrules.problem.value"
      @done="overrules.act"
      @cancel="overruling = null"
    />
    <ReasonDialog
      :open="withdrawing"
      :title="attempt?.withdrawn ? 'Why does this reading count again?' : 'Why is this reading withdrawn?'"
      :act="attempt?.withdrawn ? 'Let it count again' : 'Withdraw it'"
      hint="It stays on record with the reason and your name."
      :pending="withdrawals.pending.value"
      :problem="withdrawals.problem.value"
      @done="withdrawals.act"
      @cancel="withdrawing = false"
    />
    <ReasonDialog
      :open="commenting"
      title="Comment on this attempt"
      act="Keep the comment"
      :pending="comments.pending.value"
      :problem="comments.problem.value"
      @done="comments.act"
      @cancel="commenting = false"
    />
  </PageFrame>
</template>

<style scoped>
.circumstances {
  margin: 0 0 10px;
  padding: 8px 12px 8px 28px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.withdrawn {
  margin: 0 0 10px;
  padding: 8px 12px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.remark {
  margin-bottom: 10px;
}
.plain {
  font: inherit;
  font-size: 14px;
  color: var(--ink-2);
  background: none;
  border: none;
  padding: 0 18px 8px 0;
  cursor: pointer;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(480px, 100%), 1fr));
  gap: 14px;
}
.grid :deep(.panel) {
  min-width: 0;
  background: var(--sheet);
  padding: 10px 14px;
}
.grid :deep(.panel > header) {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: baseline;
  font-size: 14px;
  min-height: 28px;
}
</style>
