<script setup lang="ts">
// The live bench: the ladder of runs, the traces as they grow, the reading sheet, and the one next thing to do.
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import client, { ApiError, answered } from '../../api/client'
import { useCampaignFeed } from '../../api/feed'
import { useRule } from '../../api/rule'
import { useWho } from '../../kit/who'
import { refreshEvidence, useBench, useCampaign } from '../../api/queries'
import { openLayers, useKeys } from '../../kit/keys'
import { figure } from '../../kit/quantity'
import { CAUSES, END_WORDS, MODE_WORDS, POLICY_WORDS, channelName, place, watts } from '../../trade/format'
import type { RunView } from '../../api/types'
import ProblemNote from '../../kit/ProblemNote.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import Trail from '../../kit/Trail.vue'
import BeforePower from './BeforePower.vue'
import BenchControls from './BenchControls.vue'
import { ITEM_WORDS, firstOfWiring, nextItem } from './beforePower'
import DistortionChart from './DistortionChart.vue'
import HoldNote from './HoldNote.vue'
import PulseChart from './PulseChart.vue'
import ReadingSheet from './ReadingSheet.vue'
import RunLadder from './RunLadder.vue'
import SupplyChart from './SupplyChart.vue'
import { useSwitchOff } from './switchOff'

type Asking = 'repeat' | 'skip' | 'hurry' | 'comment' | null

const props = defineProps<{ id: number }>()
const queries = useQueryClient()
const rule = useRule()
const person = useWho()
const { data: campaign, error } = useCampaign(() => props.id)
const bench = useBench(() => campaign.value?.bench_id)
const firstKnown = ref<number>()
watch(campaign, (now) => (firstKnown.value ??= now?.last_step_id), { immediate: true })
const feed = useCampaignFeed(() => props.id, firstKnown)
const problem = ref<unknown>(null)
const chosenRun = ref<number | null>(null)
const busy = ref(false)
const asking = ref<Asking>(null)
const skipping = ref('')
const gainsApart = ref(false)
const controls = ref<InstanceType<typeof BenchControls>>()
const overlap = ref<number | null>(0)
/** Controls of the unit that were looked at, by name; all of them together are one item before power. */
const ticked = ref<string[]>([])

const runs = computed(() => campaign.value?.runs ?? [])
const running = computed(() => runs.value.find((r) => r.state === 'running') ?? null)
const next = computed(() => runs.value.find((r) => r.state === 'waiting') ?? null)
const run = computed(
  () => runs.value.find((r) => r.id === chosenRun.value) ?? running.value ?? next.value ?? runs.value.at(-1) ?? null,
)
const attempt = computed(() => run.value?.attempts.at(-1) ?? null)
const steps = computed(() => (attempt.value ? (feed.byAttempt.value.get(attempt.value.id) ?? []) : []))
const points = computed(() => steps.value.flatMap((s) => (s.point ? [s.point] : [])))
const pulses = computed(() => steps.value.filter((s) => s.pulses).at(-1)?.pulses ?? null)
const live = computed(() => run.value?.state === 'running')
/** What the run waits for before it starts: heat, or the supply. */
const waiting = computed(() =>
  live.value && steps.value.at(-1)?.kind === 'waiting' ? steps.value.at(-1)!.waiting : '',
)
const item = computed(() => (campaign.value && run.value ? nextItem(campaign.value, run.value) : null))
const showsList = computed(() => !attempt.value || (item.value !== null && !live.value))
const busyElsewhere = computed(
  () => bench.value !== undefined && bench.value.state !== 'idle' && bench.value.campaign_id !== props.id,
)
const watching = computed(() => !!bench.value?.holder && bench.value.holder !== person.name.value)
const allDone = computed(() => runs.value.length > 0 && runs.value.every((r) => r.state === 'done'))
const goOn = computed(() => run.value?.state === 'done' && next.value !== null && next.value.id !== run.value.id)
/** The next run hangs on the same loads: nothing has to be touched before it. */
const sameWiring = computed(() => goOn.value && next.value?.wiring === run.value?.wiring)
const limits = computed(() => {
  const certified = campaign.value?.thd_n_limit_percent ?? 1
  const clipping = campaign.value?.uncertified_limit_percent ?? 10
  const first = { percent: certified, word: `limit ${certified} %` }
  return run.value?.mode === 'uncertified' ? [first, { percent: clipping, word: `clipping ${clipping} %` }] : [first]
})
/** Of an uncertified run, both its ends: the last point within the certified limit, and where it went to. */
const marks = computed(() => {
  const now = run.value
  if (now?.mode !== 'uncertified') return []
  const alike = (r: RunView) =>
    r.mode === 'certified' && place(r) === place(now) && r.group === now.group && r.supply_volts === now.supply_volts
  const ends = [
    { watts: runs.value.find(alike)?.chosen?.weakest_watts, word: 'certified' },
    { watts: attempt.value?.weakest_watts, word: 'uncertified' },
  ]
  return ends.flatMap((end) => (end.watts ? [{ watts: end.watts, word: `${end.word} ${watts(end.watts)} W` }] : []))
})
const announcement = computed(() => {
  if (!run.value) return ''
  const what = `${MODE_WORDS[run.value.mode]}, ${place(run.value)}`
  if (waiting.value) return `${what} waits: ${waiting.value}`
  if (live.value) return `Running ${what}`
  return attempt.value?.end ? `${what}: ${END_WORDS[attempt.value.end]}` : ''
})

// Whatever happened in the shown attempt before this page was opened.
watch(
  () => attempt.value?.id,
  (id) => {
    if (id !== undefined) void feed.catchUp(id).catch((failure: unknown) => (problem.value = failure))
  },
  { immediate: true },
)
const unticked = computed(() => campaign.value?.test_controls.filter((one) => !ticked.value.includes(one)) ?? [])
watch(unticked, (left, before) => {
  if (!left.length && before?.length && item.value?.item === 'controls') void see('controls', false)
})
// Of another wiring nothing was looked at yet.
watch(
  () => run.value?.wiring,
  () => {
    ticked.value = []
    overlap.value = 0
    gainsApart.value = false
  },
)
// A run that begins anywhere is what everyone wants to see.
watch(
  () => running.value?.id,
  (id) => {
    if (id !== undefined) chosenRun.value = id
  },
  { immediate: true },
)

/** Do something at the bench; whatever comes of it, everyone's figures are read afresh. */
async function act(what: () => Promise<unknown>): Promise<boolean> {
  if (busy.value || !(await person.required())) return false
  busy.value = true
  problem.value = null
  try {
    await what()
    asking.value = null
    return true
  } catch (failure) {
    problem.value = failure
    gainsApart.value = failure instanceof ApiError && failure.problem.code === 'gains-misfit'
    return false
  } finally {
    busy.value = false
    refreshEvidence(queries)
  }
}

async function start(cause: string | null = null, reason = '') {
  const target = sameWiring.value && !cause ? next.value : run.value
  if (!target || live.value) return
  if (target.attempts.length && !cause) return void (asking.value = 'repeat')
  const body = { cause: cause as keyof typeof CAUSES | null, reason }
  const started = await act(() =>
    answered(client.POST('/api/runs/{run_id}/attempts', { params: { path: { run_id: target.id } }, body })),
  )
  if (started) chosenRun.value = target.id
}

async function see(what: string, turn: boolean, skip: string | null = null) {
  const target = run.value
  if (!target || !campaign.value) return
  const body = { item: what as 'clamp', ticked: ticked.value, turn, skip, overlap_db: overlap.value ?? 0 }
  const path = { campaign_id: props.id, wiring: target.wiring }
  const seen = await act(async () => {
    const after = await answered(
      client.POST('/api/campaigns/{campaign_id}/wirings/{wiring}/preparations', { params: { path }, body }),
    )
    queries.setQueryData(['campaign', props.id, rule], after)
  })
  if (seen) gainsApart.value = false
}

const powered = computed(() => !!bench.value && bench.value.state !== 'idle')
/** Whose run an Off would end that is not this person's on this page; empty where there is none. */
const another = computed(() => {
  const now = bench.value
  if (!now || !powered.value) return ''
  const whose = now.holder ?? now.person ?? ''
  if (whose !== person.name.value) return `${whose || 'somebody'}’s run`
  return now.campaign_id === props.id ? '' : `the run of ${now.unit_serial}`
})
const off = useSwitchOff(
  () => bench.value?.id,
  () => another.value !== '',
)

const hurry = (reason: string) =>
  act(() =>
    answered(client.POST('/api/bench/hurry', { params: { query: { bench: bench.value?.id } }, body: { reason } })),
  )
const comment = (text: string) =>
  act(() =>
    answered(
      client.POST('/api/attempts/{attempt_id}/remarks', {
        params: { path: { attempt_id: attempt.value!.id } },
        body: { text },
      }),
    ),
  )

function askToSkip(what: string) {
  skipping.value = what
  asking.value = 'skip'
}

async function answer(reason: string, cause: string | null) {
  const asked = asking.value
  if (asked === 'repeat') await start(cause, reason)
  else if (asked === 'skip') await see(skipping.value, false, reason)
  else if (asked === 'hurry') await hurry(reason)
  else if (asked === 'comment') await comment(reason)
  if (asking.value === null) controls.value?.focus()
}

/** The one next thing to do; the big button and the space bar do the same. */
const action = computed<{ words: string; act: () => void; wide?: boolean }>(() => {
  const now = run.value
  if (!now) return { words: '', act: () => undefined }
  if (live.value) return { words: 'Stop the run', act: off.press }
  if (sameWiring.value) return { words: `Start ${next.value!.mode} ${place(next.value!)}`, act: () => void start() }
  if (goOn.value && next.value) {
    const to = next.value
    return { words: `Rewire: wiring ${to.wiring}, ${place(to)}`, act: () => (chosenRun.value = to.id) }
  }
  if (item.value) {
    if (item.value.item === 'gains' && gainsApart.value)
      return { words: 'Turn the gains and match again', act: () => void see('gains', true) }
    const what = item.value.item
    const names = what === 'controls' ? (campaign.value?.test_controls ?? []) : []
    if (names.length) {
      const [control] = unticked.value
      // The last one stands there until the server has heard of all.
      const words = `${control ?? names.at(-1)}: in position`
      return { words, act: () => (control ? (ticked.value = [...ticked.value, control]) : void see('controls', false)) }
    }
    return { words: ITEM_WORDS[what]!.act, act: () => void see(what, false) }
  }
  const words = `${attempt.value ? 'Repeat' : 'Start'} ${now.mode} ${place(now)}`
  return { words, act: () => void start() }
})
const blocked = computed(
  () => !live.value && (busyElsewhere.value || watching.value || (!!running.value && !live.value)),
)

function move(by: 1 | -1) {
  const at = runs.value.findIndex((r) => r.id === run.value?.id)
  const to = runs.value[at + by]
  if (to) chosenRun.value = to.id
}

const acts = () => !blocked.value && !busy.value && !watching.value
useKeys([
  // Off comes before whatever an open layer makes of the key: what is powered is switched off first.
  {
    key: 'Escape',
    does: 'off: mute the source, switch the amplifier off',
    act: off.press,
    when: () => powered.value || openLayers.value === 0,
    always: true,
  },
  {
    key: 'Space',
    does: 'the next thing to do: see to an item, start, stop, go on',
    act: () => action.value.act(),
    when: acts,
  },
  {
    key: 'n',
    does: 'next, previous run',
    act: () => (goOn.value && next.value ? (chosenRun.value = next.value.id) : move(1)),
  },
  { key: 'p', does: 'next, previous run', act: () => move(-1) },
  {
    key: 'r',
    does: 'repeat the run, with the reason',
    act: () => (asking.value = 'repeat'),
    when: () => acts() && !live.value && attempt.value !== null,
  },
  {
    key: 'c',
    does: 'comment on the attempt',
    act: () => (asking.value = 'comment'),
    when: () => attempt.value !== null,
  },
  ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((wiring) => ({
    key: String(wiring),
    ...(wiring === 1 ? { does: 'jump to a wiring', shown: '1 … 9' } : {}),
    act: () => (chosenRun.value = firstOfWiring(runs.value, wiring)!.id),
    when: () => firstOfWiring(runs.value, wiring) !== undefined,
  })),
])
const claimed = (id: number) => campaign.value?.claims.find((c) => c.id === id)?.watts
</script>

<template>
  <ProblemNote v-if="error" :error="error" />
  <template v-if="campaign && run">
    <Trail
      :steps="[
        { name: campaign.series_name },
        { name: campaign.model_name, to: `/models/${campaign.model_id}` },
        { name: campaign.unit_serial, to: `/units/${campaign.unit_id}` },
        { name: `Campaign ${campaign.id}`, to: `/campaigns/${campaign.id}` },
        { name: 'Live' },
      ]"
    />
    <p class="visually-hidden" aria-live="polite">{{ announcement }}</p>
    <HoldNote v-if="bench && watching" :bench="bench" />
    <HoldNote v-else-if="bench?.asked_by" :bench="bench" />
    <div class="bench">
      <aside>
        <h2>
          Runs
          <span class="quiet">{{ POLICY_WORDS[campaign.policy] }}, {{ figure(campaign.supply_volts, 1) }} V</span>
        </h2>
        <RunLadder :runs="runs" :selected="run.id" @select="chosenRun = $event" />
        <RouterLink v-if="allDone" class="sheet-link" :to="`/campaigns/${campaign.id}`"
          >Read the campaign sheet</RouterLink
        >
      </aside>
      <section class="middle">
        <header>
          <h1>
            {{ MODE_WORDS[run.mode] }}, {{ place(run) }}
            <span class="quiet">
              {{ run.group }}, {{ run.burst ? `burst “${run.burst}”` : `${run.tone_hz} Hz` }},
              {{ campaign.policy === 'bank' ? 'floating bank' : `${figure(run.supply_volts, 1)} V` }}
            </span>
            <span v-if="run.exploratory" class="mark">not evidence</span>
          </h1>
          <span v-if="!feed.connected.value" class="danger small">Connection lost – reconnecting …</span>
        </header>
        <ProblemNote v-if="problem" :error="problem" />
        <p v-if="busyElsewhere" class="busy">
          {{ bench?.name }} is busy with {{ bench?.unit_serial }}.
          <RouterLink :to="`/campaigns/${bench?.campaign_id}/live`">Watch that campaign</RouterLink>
        </p>
        <p v-if="waiting" class="busy waits" role="status">
          Waiting to start: <strong>{{ waiting }}</strong>
          <a-button size="small" @click="asking = 'hurry'">Start anyway …</a-button>
        </p>
        <BeforePower
          v-if="showsList"
          v-model:overlap="overlap"
          v-model:ticked="ticked"
          :campaign="campaign"
          :run="run"
          :next="item"
          :busy="busy"
          :gains-apart="gainsApart"
          @see="see"
          @skip="askToSkip"
        />
        <template v-else>
          <DistortionChart
            :points="points"
            :channels="run.channels"
            :limits="limits"
            :marks="marks"
            :height="run.mode === 'burst' ? 240 : 340"
          />
          <p class="legend quiet">
            <span v-for="(c, index) in run.channels" :key="c">
              <svg width="26" height="8" aria-hidden="true">
                <line
                  x1="0"
                  x2="26"
                  y1="4"
                  y2="4"
                  :stroke="`var(--ch-${(index % 5) + 1})`"
                  stroke-width="2"
                  :stroke-dasharray="index % 2 ? '5 3' : undefined"
                />
              </svg>
              {{ run.bridged ? 'pair' : 'channel' }} {{ channelName(run, c) }}
            </span>
            <span class="right">
              <svg width="26" height="8" aria-hidden="true">
                <line x1="0" x2="26" y1="4" y2="4" stroke="var(--supply)" stroke-width="2" />
              </svg>
              volts
              <template v-if="run.mode !== 'burst'">
                <svg width="26" height="8" aria-hidden="true">
                  <line x1="0" x2="26" y1="4" y2="4" stroke="var(--ink-2)" stroke-width="2" stroke-dasharray="5 3" />
                </svg>
                amps
              </template>
            </span>
          </p>
          <PulseChart v-if="run.mode === 'burst' && pulses" :pulses="pulses" :height="92" />
          <SupplyChart :steps="steps" :height="run.mode === 'burst' ? 150 : 170" :amps="run.mode !== 'burst'" />
        </template>
      </section>
      <aside class="right">
        <ReadingSheet
          :run="run"
          :point="points.at(-1) ?? null"
          :attempt="attempt?.end ? attempt : null"
          :verdicts="run.verdicts.filter((v) => attempt?.end && v.attempt_id === attempt.id)"
          :rule="campaign.rule"
          :claimed="claimed"
        />
      </aside>
    </div>
    <BenchControls
      ref="controls"
      :words="watching ? announcement : action.words"
      :busy="busy"
      :blocked="blocked"
      :live="live"
      :watched="watching ? (bench?.holder ?? null) : null"
      :off="off.state.value"
      :another="another"
      :switched-off-by="bench?.off_by ?? null"
      @act="action.act"
      @off="off.press"
    >
      <a-button v-if="goOn && !watching" size="large" :disabled="blocked" @click="asking = 'repeat'"
        >Repeat <kbd>R</kbd></a-button
      >
      <span class="quiet hint">
        <RouterLink v-if="attempt?.end" :to="`/attempts/${attempt.id}`">Open this run</RouterLink>
        <button v-if="attempt" class="keys" @click="asking = 'comment'">Comment <kbd>C</kbd></button>
      </span>
      <template #holder>
        <HoldNote v-if="bench && !watching && !bench.asked_by" :bench="bench" />
      </template>
    </BenchControls>
    <ReasonDialog
      :open="asking === 'repeat'"
      title="Why is this run repeated?"
      act="Repeat the run"
      hint="All attempts are kept; the sheet shows the last valid one unless you choose another."
      :causes="CAUSES"
      @done="answer"
      @cancel="asking = null"
    />
    <ReasonDialog
      :open="asking === 'skip'"
      title="Why can this be left out?"
      act="Skip it"
      hint="The reason stands with every reading of this wiring."
      @done="answer"
      @cancel="asking = null"
    />
    <ReasonDialog
      :open="asking === 'hurry'"
      title="Why need the run not wait?"
      act="Start it"
      hint="The reason stands with the reading."
      @done="answer"
      @cancel="asking = null"
    />
    <ReasonDialog
      :open="asking === 'comment'"
      title="Comment on this attempt"
      act="Keep the comment"
      @done="answer"
      @cancel="asking = null"
    />
  </template>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr) 276px;
  gap: 24px;
  align-items: start;
}
aside h2 {
  padding-bottom: 6px;
  border-bottom: 1px solid var(--rule-strong);
}
aside h2 .quiet {
  font-weight: 400;
}
.middle {
  background: var(--sheet);
  padding: 12px 14px 6px;
  min-height: 590px;
}
.middle header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  margin-bottom: 8px;
}
.middle h1 {
  font-size: 20px;
}
.middle h1 .quiet {
  font-weight: 400;
  font-size: 15px;
}
.small {
  font-size: 14px;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  font-size: 13px;
  padding: 2px 4px 6px 54px;
}
.legend svg {
  vertical-align: middle;
}
.legend .right {
  margin-left: auto;
}
.busy {
  padding: 8px 12px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.hint {
  font-size: 14px;
}
.keys {
  font: inherit;
  color: inherit;
  background: none;
  border: none;
  cursor: pointer;
}
.waits {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 8px;
}
.mark {
  border: 1px solid var(--doubt);
  color: var(--doubt);
  padding: 0 5px;
  font-size: 13px;
  font-weight: 400;
  vertical-align: 2px;
}
.sheet-link {
  display: block;
  padding: 12px 8px;
  font-weight: 600;
}
@media (max-width: 1100px) {
  .bench {
    grid-template-columns: 200px minmax(0, 1fr) 220px;
    gap: 16px;
  }
}
</style>
