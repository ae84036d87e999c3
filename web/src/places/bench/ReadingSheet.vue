<script setup lang="ts">
// The reading as it stands: one line per channel, the weakest set large, the supply below.
import { computed } from 'vue'
import type { AttemptView, DecisionRule, PointView, RunView, VerdictView } from '../../api/types'
import { RULE_WORDS } from '../../api/rule'
import { figure } from '../../kit/quantity'
import { END_WORDS, U_HOLDS, channelName, decibels, percent, spread, watts } from '../../trade/format'
import FindingsList from '../../trade/FindingsList.vue'
import VerdictMark from '../../trade/VerdictMark.vue'

const props = defineProps<{
  run: RunView
  point: PointView | null
  attempt: AttemptView | null
  verdicts: VerdictView[]
  rule: DecisionRule
  claimed: (claimId: number) => number | undefined
}>()
const REACHED = {
  certified: 'certified, at the limit',
  uncertified: 'uncertified, clipping',
  burst: 'burst, at the onset of clipping',
  proof: 'proof, held what is claimed',
} as const
const rows = computed(() => props.attempt?.readings ?? props.point?.channels ?? [])
const weakest = computed(() => props.attempt?.weakest_watts ?? props.point?.weakest_watts ?? null)
const average = computed(() => props.attempt?.average_watts ?? props.point?.average_watts ?? null)
const supply = computed(() => (props.attempt?.readings.length ? props.attempt : props.point))
const state = computed(() => {
  if (props.attempt?.end) return props.attempt.at_limit ? REACHED[props.run.mode] : END_WORDS[props.attempt.end]
  if (!props.point) return 'no reading yet'
  const phases: Record<string, string> = {
    rising: 'level rising',
    closing_in: 'closing in',
    dwell: 'dwell',
    pushing_on: 'on past the onset of clipping',
  }
  return phases[props.point.phase] ?? props.point.phase
})
</script>

<template>
  <div class="sheet" :data-ended="!!attempt?.end" :data-mode="run.mode">
    <p class="state quiet" role="status">{{ state }}</p>
    <p class="main">
      <span class="mono">{{ watts(weakest, attempt?.expanded_watts) }}</span> <span class="unit">W</span>
    </p>
    <p class="quiet caption">
      weakest {{ run.bridged ? 'pair' : 'channel'
      }}<template v-if="attempt?.expanded_watts != null"> ± {{ spread(attempt.expanded_watts) }} W</template>
      <template v-if="rows.length > 1"> · average {{ watts(average) }} W</template>
    </p>
    <p v-if="attempt?.expanded_watts != null" class="quiet holds">{{ U_HOLDS }}</p>
    <table class="figures">
      <thead>
        <tr>
          <th scope="col">{{ run.bridged ? 'Pair' : 'Channel' }}</th>
          <th class="num" scope="col">W</th>
          <th class="num" scope="col">V rms</th>
          <th class="num" scope="col">THD+N %</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in rows" :key="c.channel">
          <td>{{ channelName(run, c.channel) }}</td>
          <td class="num">{{ watts(c.watts, 'expanded_watts' in c ? c.expanded_watts : null) }}</td>
          <td class="num">{{ figure(c.volts_rms, 2) }}</td>
          <td class="num">{{ percent(c.thd_n_percent) }}</td>
        </tr>
      </tbody>
    </table>
    <dl>
      <template v-if="attempt?.start_volts != null">
        <dt>Supply before</dt>
        <dd>{{ figure(attempt.start_volts, 2) }} V</dd>
      </template>
      <dt>Supply, loaded</dt>
      <dd>{{ figure(supply?.supply_volts, 2) }} V</dd>
      <template v-if="run.mode !== 'burst'">
        <dt>Current</dt>
        <dd>{{ figure(supply?.supply_amps, 1) }} A</dd>
        <dt>Efficiency</dt>
        <dd>{{ figure(supply?.efficiency_percent, 1) }} %</dd>
      </template>
      <dt>Heat sink</dt>
      <dd>{{ figure(supply?.temperature_c, 1) }} °C</dd>
      <dt>Hottest load</dt>
      <dd>{{ figure(supply?.load_c, 1) }} °C</dd>
      <template v-if="attempt?.largest_watts != null">
        <dt>Largest burst</dt>
        <dd>{{ watts(attempt.largest_watts) }} W</dd>
      </template>
      <template v-if="attempt && run.headroom_db !== null">
        <dt>Headroom</dt>
        <dd>{{ decibels(run.headroom_db) }} dB</dd>
      </template>
      <template v-if="attempt?.equivalent">
        <dt>Stands for</dt>
        <dd>{{ attempt.equivalent }}</dd>
      </template>
      <template v-if="attempt?.tripped_watts != null">
        <dt class="danger">Tripped at</dt>
        <dd class="danger">{{ watts(attempt.tripped_watts) }} W</dd>
      </template>
    </dl>
    <p v-if="attempt?.fault" class="danger fault">{{ attempt.fault }}</p>
    <ul v-if="attempt?.circumstances.length" class="circumstances">
      <li v-for="what in attempt.circumstances" :key="what">{{ what }}</li>
    </ul>
    <FindingsList v-if="attempt" :findings="attempt.findings" brief />
    <p v-for="r in attempt?.remarks ?? []" :key="r.at" class="quiet fault">“{{ r.text }}” – {{ r.by }}</p>
    <p v-if="verdicts.length" class="quiet holds">Judged by the {{ RULE_WORDS[rule] }}</p>
    <ul v-if="verdicts.length" class="verdicts">
      <li v-for="v in verdicts" :key="v.claim_id">
        <span class="mono">{{ claimed(v.claim_id) }} W</span>
        <VerdictMark :kind="v.kind" :outcome="v.outcome" :doubted="!!v.doubts.length" :simulated="v.simulated" />
        <span class="reason quiet">{{ v.reason }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.state {
  font-size: 14px;
}
.main {
  font-size: clamp(48px, 5.6vw, 76px);
  line-height: 1;
  white-space: nowrap;
}
.main .mono {
  font-weight: 500;
}
.unit {
  font-size: 28px;
  color: var(--ink-2);
}
[data-ended='true'] .main {
  color: var(--certified);
}
[data-ended='true'][data-mode='uncertified'] .main {
  color: var(--uncertified);
}
[data-ended='true'][data-mode='burst'] .main {
  color: var(--burst);
}
.caption {
  font-size: 14px;
  margin-bottom: 8px;
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 3px 10px;
  margin: 10px 0;
  font-size: 14px;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  font-family: var(--mono);
  font-size: 14px;
  text-align: right;
}
.verdicts {
  list-style: none;
  margin: 0;
  padding: 8px 0 0;
  border-top: 1px solid var(--rule);
}
.verdicts li {
  padding: 4px 0;
}
.reason {
  display: block;
  font-size: 13px;
  line-height: 1.35;
}
.holds {
  font-size: 13px;
}
.circumstances {
  margin: 0 0 8px;
  padding-left: 16px;
  font-size: 13px;
  line-height: 1.35;
  color: var(--doubt);
}
.fault {
  font-size: 14px;
  margin-bottom: 8px;
}
</style>
