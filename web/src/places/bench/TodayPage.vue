<script setup lang="ts">
// Today: what waits for each bench, in the order that is proposed; moved by hand, and wanted by a day.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import type { QueueView, SettlingView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import DateField from '../../kit/DateField.vue'
import FormDialog from '../../kit/FormDialog.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import { counted, day, minutes, moment } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import { planWith } from '../../trade/planWith'
import { isByHand, movedBy } from './todayOrder'

type Day = QueueView['days'][number]
type Slot = Day['slots'][number]
const {
  data: queue,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['queue'], queryFn: () => answered(client.GET('/api/queue')), refetchInterval: 60_000 })
const { data: audits } = useQuery({ queryKey: ['audits'], queryFn: () => answered(client.GET('/api/audits')) })
const owed = computed(() => audits.value?.filter((one) => one.owed) ?? [])
const { data: open } = useQuery({
  queryKey: ['settling'],
  queryFn: () => answered(client.GET('/api/queue/settling')),
})
const SETTLING: Column<SettlingView>[] = [
  { key: 'model', head: 'Model', text: (one) => one.model_name },
  { key: 'claims', head: 'Claims open', text: (one) => `${one.claims}`, value: (one) => one.claims, num: true },
  {
    key: 'runs',
    head: 'Runs',
    text: (one) =>
      counted(one.runs.length, 'run') + (one.limit_percent === null ? '' : ` to ${one.limit_percent} % THD+N`),
  },
  {
    key: 'takes',
    head: 'Takes',
    text: (one) => (one.minutes === null ? 'no bench can stand them' : minutes(one.minutes)),
    value: (one) => one.minutes ?? Infinity,
  },
  {
    key: 'on',
    head: 'On',
    text: (one) =>
      one.benches.length > 1 && one.benches.length === queue.value?.days.length ? 'any bench' : one.benches.join(', '),
  },
  {
    key: 'waits',
    head: 'Waits already',
    text: (one) => (one.waiting.length ? counted(one.waiting.length, 'campaign') : 'nothing'),
    value: (one) => one.waiting.length,
  },
  { key: 'plan', head: '', text: () => '', unsorted: true },
]
const settlesOf = (one: SettlingView) => planWith(one.unit_id ?? 0, one.runs, one.limit_percent)
const mayPlan = useMay('plan')

const hour = (iso: string) => new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
const isToday = (iso: string) => new Date(iso).toDateString() === new Date().toDateString()
const when = (iso: string) => (isToday(iso) ? hour(iso) : moment(iso))
const times = (count: number) => (count === 0 ? 'never' : count === 1 ? 'once' : `${count} times`)
const waits = computed(
  () => queue.value?.days.some((one) => one.slots.length) || queue.value?.unplaced.length || owed.value.length,
)
const byHand = computed(() => isByHand(queue.value?.days ?? []))

const ordering = useAct((campaigns: number[]) => answered(client.PUT('/api/queue/order', { body: { campaigns } })))
const shift = (bench: string, slot: Slot, by: -1 | 1) =>
  ordering.act(movedBy(queue.value?.days ?? [], bench, slot.campaign_id, by))
const moving = useAct((slot: Slot, bench: string) =>
  answered(
    client.POST('/api/queue/{campaign_id}/bench', {
      params: { path: { campaign_id: slot.campaign_id } },
      body: { bench },
    }),
  ),
)
const asked = shallowRef<Slot>()
const wanted = ref({ due_on: null as string | null, anywhere: false })
function ask(slot: Slot) {
  wanted.value = { due_on: slot.due_on, anywhere: slot.anywhere }
  wanting.forget()
  asked.value = slot
}
const wanting = useAct(
  () =>
    answered(
      client.PUT('/api/queue/{campaign_id}', {
        params: { path: { campaign_id: asked.value!.campaign_id } },
        body: wanted.value,
      }),
    ),
  { done: () => (asked.value = undefined) },
)

const columns = (bench: Day): Column<Slot>[] => [
  { key: 'when', head: 'When', text: (s) => `${when(s.starts_at)} – ${hour(s.ends_at)}`, unsorted: true },
  { key: 'campaign', head: 'Campaign', text: (s) => `Campaign ${s.campaign_id}`, unsorted: true },
  { key: 'unit', head: 'Unit', text: (s) => s.unit_serial, look: 'mono', unsorted: true },
  { key: 'model', head: 'Model', text: (s) => s.model_name, unsorted: true },
  { key: 'modes', head: 'Modes', text: (s) => s.modes.join(', '), unsorted: true },
  { key: 'takes', head: 'Takes', text: (s) => `${counted(s.runs_left, 'run')}, ${minutes(s.minutes)}`, unsorted: true },
  { key: 'loads', head: 'Loads', text: (s) => (s.rewired ? 'wired otherwise' : 'stay as they are'), unsorted: true },
  {
    key: 'wanted',
    head: 'Wanted',
    text: (s) => (s.due_on ? day(s.due_on) : 'no day') + (s.late_minutes ? `, late by ${minutes(s.late_minutes)}` : ''),
    unsorted: true,
  },
  ...(mayPlan.value
    ? [
        {
          key: 'act',
          head: '',
          text: (s: Slot) => (s.planned_for === bench.bench ? '' : s.planned_for),
          num: true,
          unsorted: true,
        },
      ]
    : []),
]
</script>

<template>
  <PageFrame
    title="Today"
    :trail="[{ name: 'Bench', to: '/bench' }, { name: 'Today' }]"
    :pending="isPending"
    :error="error"
    :empty="!!queue && !waits"
    @retry="refetch"
  >
    <template #head>
      <h1>Today</h1>
    </template>
    <template #empty>
      <p class="quiet">
        Nothing waits. Choose a unit on the <RouterLink to="/line">line</RouterLink> and plan a campaign for it.
      </p>
    </template>
    <template v-if="queue">
      <p class="told">
        In this order loads are wired otherwise {{ times(queue.proposed.rewirings) }},
        {{
          queue.proposed.late_minutes
            ? `what is wanted comes ${minutes(queue.proposed.late_minutes)} late in all`
            : 'nothing is late'
        }}, and all is done by {{ when(queue.proposed.ends_at) }}.
        <span class="quiet">
          First come, first served: {{ times(queue.first_come.rewirings) }},
          {{ queue.first_come.late_minutes ? `${minutes(queue.first_come.late_minutes)} late` : 'nothing late' }}, done
          by {{ when(queue.first_come.ends_at) }}.
        </span>
      </p>
      <p class="quiet told">
        <template v-if="queue.paced_runs >= 5">
          The last {{ queue.paced_runs }} runs took {{ figure(queue.pace, 2) }} times what was predicted, half of them
          {{ figure(queue.pace_low, 2) }} to {{ figure(queue.pace_high, 2) }} times: that is in the times here.
        </template>
        <template v-else>Times are as they were predicted; too few runs were taken to learn from.</template>
        <template v-if="queue.hours"> Work is done {{ queue.hours }}.</template>
        <template v-if="queue.people">
          So many set up benches at the same time: {{ queue.people }}; runs go on without them.
        </template>
        <a-button
          v-if="byHand && mayPlan"
          size="small"
          class="take"
          :loading="ordering.pending.value"
          @click="ordering.act([])"
          >Take the proposed order</a-button
        >
      </p>
      <ProblemNote v-if="ordering.problem.value" :error="ordering.problem.value" />
      <ProblemNote v-if="moving.problem.value" :error="moving.problem.value" />
      <section v-for="one in queue.days" :key="one.bench_id" class="section">
        <header>
          <h2>{{ one.bench }}</h2>
          <span class="quiet">
            <template v-if="one.running"
              >busy with
              <RouterLink :to="`/campaigns/${one.running}/live`">campaign {{ one.running }}</RouterLink> until about
              {{ when(one.free_at) }}</template
            ><template v-else>free</template>
          </span>
        </header>
        <p v-if="!one.slots.length" class="quiet none">Nothing waits for it.</p>
        <DataTable
          v-else
          :id="(s) => s.campaign_id"
          :name="`What waits for ${one.bench}`"
          :rows="one.slots"
          :columns="columns(one)"
          :to="(s) => `/campaigns/${s.campaign_id}/live`"
          plain
        >
          <template #modes="{ row: s }"><ModeMark v-for="m in s.modes" :key="m" :mode="m" class="mode-of" /></template>
          <template #loads="{ row: s }"
            ><span :class="{ quiet: !s.rewired }">{{
              s.rewired ? 'wired otherwise' : 'stay as they are'
            }}</span></template
          >
          <template #wanted="{ row: s }"
            ><span :class="{ quiet: !s.due_on, danger: s.late_minutes > 0 }"
              >{{ s.due_on ? day(s.due_on) : 'no day'
              }}{{ s.late_minutes > 0 ? `, late by ${minutes(s.late_minutes)}` : '' }}</span
            ></template
          >
          <template #act="{ row: s }">
            <span class="acts">
              <a-button
                v-if="s.planned_for !== one.bench"
                size="small"
                :loading="moving.pending.value"
                @click="moving.act(s, one.bench)"
                >Move it here from {{ s.planned_for }}</a-button
              >
              <span v-if="s.clash" class="danger by-hand">its unit is on {{ s.clash }} then</span>
              <span v-if="s.by_hand" class="quiet by-hand" title="Somebody put it here">by hand</span>
              <a-button
                size="small"
                :aria-label="`Campaign ${s.campaign_id} earlier`"
                :disabled="s === one.slots[0]"
                @click="shift(one.bench, s, -1)"
                >Earlier</a-button
              >
              <a-button
                size="small"
                :aria-label="`Campaign ${s.campaign_id} later`"
                :disabled="s === one.slots.at(-1)"
                @click="shift(one.bench, s, 1)"
                >Later</a-button
              >
              <a-button size="small" :aria-label="`When campaign ${s.campaign_id} is wanted`" @click="ask(s)"
                >Wanted …</a-button
              >
            </span>
          </template>
        </DataTable>
      </section>
      <section v-if="owed.length" class="section">
        <header>
          <h2>Audits due</h2>
          <RouterLink to="/ratings/audits">All audits</RouterLink>
        </header>
        <ul class="owed">
          <li v-for="one in owed" :key="one.id">
            <RouterLink :to="`/models/${one.model_id}`">{{ one.model_name }}</RouterLink>:
            {{ counted(one.owed, 'unit') }} owed now. <span class="quiet">{{ one.words }}</span>
          </li>
        </ul>
      </section>
      <section v-if="open?.settling.length" class="section">
        <header>
          <h2>Runs that would settle a claim</h2>
          <span v-if="open.more" class="quiet">and of {{ counted(open.more, 'more model') }}</span>
        </header>
        <DataTable
          :id="(one) => `${one.model_id} ${one.limit_percent}`"
          name="Runs that would settle a claim"
          :rows="open.settling"
          :columns="SETTLING"
          :to="(one) => `/models/${one.model_id}`"
          sort-name="settling"
          plain
        >
          <template #plan="{ row: one }">
            <RouterLink v-if="one.unit_id && mayPlan" :to="settlesOf(one)" class="plan"
              >{{ one.runs.length > 1 ? 'Plan them' : 'Plan it' }} for
              <span class="mono">{{ one.unit_serial }}</span></RouterLink
            >
            <span v-else-if="!one.unit_id" class="quiet">no unit of it came yet</span>
          </template>
        </DataTable>
      </section>
      <p v-for="one in queue.unplaced" :key="one.campaign_id" class="danger">
        <RouterLink :to="`/campaigns/${one.campaign_id}`">Campaign {{ one.campaign_id }}</RouterLink> of
        <span class="mono">{{ one.unit_serial }}</span> was planned for {{ one.bench }}, which is not here.
      </p>
    </template>
    <FormDialog
      :open="!!asked"
      :title="`When campaign ${asked?.campaign_id} is wanted`"
      act="Keep it"
      :pending="wanting.pending.value"
      :problem="wanting.problem.value"
      hint="Until the end of that day. What is wanted sooner goes before, as far as that makes nothing else late."
      @done="wanting.act()"
      @cancel="asked = undefined"
    >
      <div class="wanted">
        <DateField v-model="wanted.due_on" label="Wanted on" :problem="saysOf(wanting.problem.value, 'due_on')" />
        <a-checkbox v-model:checked="wanted.anywhere" :disabled="asked?.begun"
          >Any bench that can stand it may have it{{ asked?.begun ? ': it was begun, and stays' : '' }}</a-checkbox
        >
      </div>
    </FormDialog>
  </PageFrame>
</template>

<style scoped>
.told {
  margin: 6px 0 0;
}
.take {
  margin-left: 10px;
}
.none {
  padding: 10px 0;
}
.plan {
  text-decoration: underline;
}
.acts {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.by-hand {
  font-size: 13px;
}
.owed a,
.danger a,
section > header a {
  text-decoration: underline;
}
.owed {
  margin: 8px 0;
  padding-left: 18px;
}
.mode-of {
  margin-right: 5px;
}
.danger {
  color: var(--danger);
}
.wanted {
  display: grid;
  gap: 12px;
}
</style>
