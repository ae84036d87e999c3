<script setup lang="ts">
// The live bench: the ladder of runs, the traces as they grow, the reading sheet, start, stop and off.
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import client, { answered } from '../../api/client'
import { useCampaignFeed } from '../../api/feed'
import { usePerson } from '../../api/person'
import { refreshEvidence, useBench, useCampaign } from '../../api/queries'
import { END_WORDS, place } from '../../parts/format'
import ProblemNote from '../../parts/ProblemNote.vue'
import Trail from '../../parts/Trail.vue'
import BeforePower from './BeforePower.vue'
import DistortionChart from './DistortionChart.vue'
import ReadingSheet from './ReadingSheet.vue'
import RunLadder from './RunLadder.vue'
import SupplyChart from './SupplyChart.vue'

const props = defineProps<{ id: number }>()
const queries = useQueryClient()
const person = usePerson()
const { data: campaign, error } = useCampaign(() => props.id)
const { data: bench } = useBench()
const firstKnown = ref<number>()
watch(campaign, (now) => (firstKnown.value ??= now?.last_step_id), { immediate: true })
const feed = useCampaignFeed(() => props.id, firstKnown)
const problem = ref<unknown>(null)
const chosenRun = ref<number | null>(null)
const starting = ref(false)
const repeating = ref(false)
const helping = ref(false)
const reason = ref('')
const REASONS = [
  'Started badly',
  'Supply was low',
  'A connection was wrong',
  'Gains were not matched',
  'Protection tripped',
]

const runs = computed(() => campaign.value?.runs ?? [])
const running = computed(() => runs.value.find((r) => r.state === 'running') ?? null)
const next = computed(() => runs.value.find((r) => r.state === 'waiting') ?? null)
const run = computed(
  () => runs.value.find((r) => r.id === chosenRun.value) ?? running.value ?? next.value ?? runs.value.at(-1) ?? null,
)
const attempt = computed(() => run.value?.attempts.at(-1) ?? null)
const steps = computed(() => (attempt.value ? (feed.byAttempt.value.get(attempt.value.id) ?? []) : []))
const points = computed(() => steps.value.flatMap((s) => (s.point ? [s.point] : [])))
const live = computed(() => run.value?.state === 'running')
const busyElsewhere = computed(
  () => bench.value?.state === 'running' && bench.value.campaign_id !== props.id && !running.value,
)
const allDone = computed(() => runs.value.length > 0 && runs.value.every((r) => r.state === 'done'))
/** After a run the next thing to do is the next run; it is shown first, because loads may have to be changed. */
const goOn = computed(() => run.value?.state === 'done' && next.value !== null && next.value.id !== run.value.id)
const announcement = computed(() => {
  if (!run.value) return ''
  if (live.value) return `Running ${place(run.value)}`
  return attempt.value?.end ? `${place(run.value)}: ${END_WORDS[attempt.value.end]}` : ''
})

// Whatever happened in the shown attempt before this page was opened.
watch(
  () => attempt.value?.id,
  (id) => {
    if (id !== undefined) void feed.catchUp(id).catch((failure: unknown) => (problem.value = failure))
  },
  { immediate: true },
)
// A run that begins anywhere is what everyone wants to see.
watch(
  () => running.value?.id,
  (id) => {
    if (id !== undefined) chosenRun.value = id
  },
  { immediate: true },
)

async function start(why = '') {
  const target = run.value
  if (!target || live.value || starting.value) return
  if (target.attempts.length && !why) {
    repeating.value = true
    return
  }
  if (!(await person.required())) return
  starting.value = true
  problem.value = null
  try {
    await answered(
      client.POST('/api/runs/{run_id}/attempts', { params: { path: { run_id: target.id } }, body: { reason: why } }),
    )
    repeating.value = false
    reason.value = ''
    chosenRun.value = target.id
    refreshEvidence(queries)
  } catch (failure) {
    problem.value = failure
  } finally {
    starting.value = false
  }
}

/** Stop and off are one act: mute the source, switch the amplifier off. It must work without a name, too. */
async function off() {
  problem.value = null
  try {
    await answered(client.POST('/api/bench/off'))
  } catch (failure) {
    problem.value = failure
  }
}

function move(by: 1 | -1) {
  const at = runs.value.findIndex((r) => r.id === run.value?.id)
  const to = runs.value[at + by]
  if (to) chosenRun.value = to.id
}

function keyed(event: KeyboardEvent) {
  const target = event.target instanceof HTMLElement ? event.target : null
  if (event.key === 'Escape' && !repeating.value && !person.asking.value && !helping.value) return void off()
  if (event.ctrlKey || event.metaKey || event.altKey || target?.closest('input, textarea, .ant-modal')) return
  const acts: Record<string, () => void> = {
    ' ': () => (live.value ? void off() : goOn.value && next.value ? (chosenRun.value = next.value.id) : void start()),
    n: () => (goOn.value && next.value ? (chosenRun.value = next.value.id) : move(1)),
    p: () => move(-1),
    r: () => !live.value && attempt.value && (repeating.value = true),
    '?': () => (helping.value = true),
  }
  const act = acts[event.key.toLowerCase()]
  if (!act) return
  event.preventDefault()
  // A focused button would be pressed by the same key a second time.
  target?.blur()
  act()
}
onMounted(() => window.addEventListener('keydown', keyed))
onUnmounted(() => window.removeEventListener('keydown', keyed))
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
    <div class="bench">
      <aside>
        <h2>
          Certified runs <span class="quiet mono">{{ campaign.supply_volts }} V</span>
        </h2>
        <RunLadder :runs="runs" :selected="run.id" @select="chosenRun = $event" />
        <RouterLink v-if="allDone" class="sheet-link" :to="`/campaigns/${campaign.id}`"
          >Read the campaign sheet</RouterLink
        >
      </aside>
      <section class="middle">
        <header>
          <h1>
            {{ place(run) }} <span class="quiet">{{ run.group }}, {{ run.tone_hz }} Hz</span>
          </h1>
          <span v-if="!feed.connected.value" class="danger small">Connection lost – reconnecting …</span>
        </header>
        <ProblemNote v-if="problem" :error="problem" />
        <p v-if="busyElsewhere" class="busy">
          {{ bench?.name }} is busy with {{ bench?.unit_serial }}.
          <RouterLink :to="`/campaigns/${bench?.campaign_id}/live`">Watch that campaign</RouterLink>
        </p>
        <BeforePower v-if="!attempt" :campaign="campaign" :run="run" />
        <template v-else>
          <DistortionChart
            :points="points"
            :channels="run.channels"
            :limit-percent="campaign.thd_n_limit_percent"
            :height="340"
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
              {{ run.bridged ? `pair ${c} + ${c + 1}` : `channel ${c}` }}
            </span>
            <span class="right">
              <svg width="26" height="8" aria-hidden="true">
                <line x1="0" x2="26" y1="4" y2="4" stroke="var(--supply)" stroke-width="2" />
              </svg>
              volts
              <svg width="26" height="8" aria-hidden="true">
                <line x1="0" x2="26" y1="4" y2="4" stroke="var(--ink-2)" stroke-width="2" stroke-dasharray="5 3" />
              </svg>
              amps
            </span>
          </p>
          <SupplyChart :steps="steps" :height="170" />
        </template>
      </section>
      <aside class="right">
        <ReadingSheet
          :run="run"
          :point="points.at(-1) ?? null"
          :attempt="attempt?.end ? attempt : null"
          :verdicts="run.verdicts.filter((v) => attempt?.end && v.attempt_id === attempt.id)"
          :claimed="claimed"
        />
      </aside>
    </div>
    <footer class="controls">
      <a-button v-if="live" size="large" type="primary" class="act" @click="off">
        Stop the run <kbd>Space</kbd>
      </a-button>
      <template v-else-if="goOn && next">
        <a-button size="large" type="primary" class="act" @click="chosenRun = next.id">
          Next: {{ place(next) }} <kbd>Space</kbd>
        </a-button>
        <a-button size="large" :disabled="!!running" @click="repeating = true">Repeat <kbd>R</kbd></a-button>
      </template>
      <a-button
        v-else
        size="large"
        type="primary"
        class="act"
        :loading="starting"
        :disabled="busyElsewhere || !!running"
        @click="start()"
      >
        {{ attempt ? 'Repeat' : 'Start' }} {{ place(run) }} <kbd>Space</kbd>
      </a-button>
      <span class="quiet hint">
        <RouterLink v-if="attempt?.end" :to="`/attempts/${attempt.id}`">Open this run</RouterLink>
        <button class="keys" @click="helping = true">Keys <kbd>?</kbd></button>
      </span>
      <span class="spacer" />
      <a-button size="large" danger class="off" @click="off">Off <kbd>Esc</kbd></a-button>
    </footer>
    <a-modal
      :open="repeating"
      title="Why is this run repeated?"
      ok-text="Repeat the run"
      :ok-button-props="{ disabled: !reason.trim() }"
      @ok="start(reason.trim())"
      @cancel="repeating = false"
    >
      <p class="quiet">Both attempts are kept; the sheet shows the last valid one.</p>
      <div class="reasons">
        <a-button v-for="why in REASONS" :key="why" size="small" @click="reason = why">{{ why }}</a-button>
      </div>
      <a-input
        v-model:value="reason"
        :maxlength="500"
        aria-label="Reason"
        @press-enter="reason.trim() && start(reason.trim())"
      />
    </a-modal>
    <a-modal :open="helping" title="Keys on the bench" :footer="null" @cancel="helping = false">
      <dl class="keylist">
        <dt><kbd>Space</kbd></dt>
        <dd>start or stop the run</dd>
        <dt><kbd>Esc</kbd></dt>
        <dd>off: mute the source, switch the amplifier off</dd>
        <dt><kbd>N</kbd> <kbd>P</kbd></dt>
        <dd>next, previous run</dd>
        <dt><kbd>R</kbd></dt>
        <dd>repeat the run, with the reason</dd>
        <dt><kbd>Shift+D</kbd></dt>
        <dd>paper or dark</dd>
      </dl>
    </a-modal>
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
.controls {
  position: sticky;
  bottom: 0;
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 12px 0;
  margin-top: 12px;
  background: var(--paper);
  border-top: 1px solid var(--rule);
}
.act {
  min-width: 250px;
  height: 48px;
  font-size: 17px;
}
.controls kbd {
  margin-left: 8px;
}
.act kbd {
  color: inherit;
  border-color: currentColor;
}
.controls :deep(.ant-btn-lg) {
  height: 48px;
}
.off {
  min-width: 120px;
  font-weight: 600;
}
.spacer {
  flex: 1;
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
.reasons {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 10px 0;
}
.keylist {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 8px 16px;
}
.keylist dd {
  margin: 0;
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
