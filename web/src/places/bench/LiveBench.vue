<script setup lang="ts">
// The live bench: the ladder of runs, the traces as they grow, the reading sheet, and the one next thing to do.
import { computed, ref } from 'vue'
import { useBench, useCampaign } from '../../api/queries'
import PageFrame from '../../kit/PageFrame.vue'
import { figure } from '../../kit/quantity'
import { POLICY_WORDS } from '../../trade/format'
import { campaignTrail } from '../../trade/trails'
import { answerAt } from './answerAt'
import AskedByHand from './AskedByHand.vue'
import BeforePower from './BeforePower.vue'
import BenchControls from './BenchControls.vue'
import HoldNote from './HoldNote.vue'
import LiveCharts from './LiveCharts.vue'
import LiveHead from './LiveHead.vue'
import LiveNotes from './LiveNotes.vue'
import LiveReasons from './LiveReasons.vue'
import ReadingSheet from './ReadingSheet.vue'
import RunLadder from './RunLadder.vue'
import { useBenchKeys } from './useBenchKeys'
import { useBenchWork } from './useBenchWork'
import { useShownRun } from './useShownRun'

const props = defineProps<{ id: number }>()
const { data: campaign, error, isPending, refetch } = useCampaign(() => props.id)
const bench = useBench(() => campaign.value?.bench_id)
const shown = useShownRun(() => props.id, campaign)
const { runs, run, attempt, live, waiting, item, goOn, announcement } = shown
const work = useBenchWork(() => props.id, campaign, bench, shown)
const { asking, overlap, ticked, gainsApart, mayMeasure, watching, busyElsewhere, blocked, another, off, action } = work
const controls = ref<InstanceType<typeof BenchControls>>()
const showsList = computed(() => !attempt.value || (item.value !== null && !live.value))
const allDone = computed(() => runs.value.length > 0 && runs.value.every((r) => r.state === 'done'))
const claimed = (claim: number) => campaign.value?.claims.find((c) => c.id === claim)?.watts

async function answer(reason: string, cause: string | null) {
  if (await work.answer(reason, cause)) controls.value?.focus()
}

useBenchKeys(shown, work)
</script>

<template>
  <PageFrame
    :title="campaign ? `${live ? 'Running' : 'Bench'}, ${campaign.unit_serial}` : ''"
    :trail="campaign ? campaignTrail(campaign, 'Live') : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <template v-if="campaign && run">
    <p class="visually-hidden" aria-live="polite">{{ announcement }}</p>
    <HoldNote v-if="bench && watching" :bench="bench" />
    <HoldNote v-else-if="bench?.asked_by" :bench="bench" />
    <AskedByHand
      v-if="!busyElsewhere"
      :asked="bench?.question"
      :may-answer="mayMeasure && !watching"
      :answer="answerAt(bench?.id)"
    />
    <div class="bench">
      <aside class="runs">
        <h2>
          Runs
          <span class="quiet"
            >on {{ campaign.bench }}, {{ POLICY_WORDS[campaign.policy] }},
            {{ figure(campaign.supply_volts, 1) }} V</span
          >
        </h2>
        <RunLadder :runs="runs" :selected="run.id" @select="shown.choose(runs.find((r) => r.id === $event))" />
        <RouterLink v-if="allDone" class="sheet-link" :to="`/campaigns/${campaign.id}`"
          >Read the campaign sheet</RouterLink
        >
      </aside>
      <section class="middle">
        <LiveHead :campaign="campaign" :run="run" :connected="shown.connected.value" />
        <LiveNotes
          :problems="[shown.problem.value, asking ? null : work.problem.value]"
          :elsewhere="busyElsewhere ? bench : undefined"
          :came-from="campaign.came_from"
          :waiting="waiting"
          :may-hurry="mayMeasure"
          :bench="bench?.id"
          @hurry="asking = 'hurry'"
        />
        <BeforePower
          v-if="showsList"
          v-model:overlap="overlap"
          v-model:ticked="ticked"
          :campaign="campaign"
          :run="run"
          :next="item"
          :busy="work.busy.value || !mayMeasure"
          :gains-apart="gainsApart"
          @see="work.see"
          @skip="work.askToSkip"
        />
        <LiveCharts
          v-else
          :run="run"
          :points="shown.points.value"
          :pulses="shown.pulses.value"
          :steps="shown.steps.value"
          :limits="shown.limits.value"
          :marks="shown.marks.value"
        />
      </section>
      <aside class="right">
        <ReadingSheet
          :run="run"
          :point="shown.points.value.at(-1) ?? null"
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
      :busy="work.busy.value"
      :blocked="blocked"
      :live="live"
      :watched="watching"
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
        <button v-if="attempt && mayMeasure" class="keys" @click="asking = 'comment'">Comment <kbd>C</kbd></button>
      </span>
      <template #holder>
        <HoldNote v-if="bench && !watching && !bench.asked_by" :bench="bench" />
      </template>
    </BenchControls>
    <LiveReasons
      :asking="asking"
      :campaign="campaign.id"
      :pending="work.busy.value"
      :problem="work.problem.value"
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
.sheet-link {
  display: block;
  padding: 12px 8px;
  font-weight: 600;
}
@media (max-width: 900px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
  .runs {
    order: 2;
  }
  .middle {
    min-height: 0;
  }
}
@media (min-width: 901px) and (max-width: 1100px) {
  .bench {
    grid-template-columns: 200px minmax(0, 1fr) 220px;
    gap: 16px;
  }
}
</style>
