<script setup lang="ts">
// The campaign sheet: every run's figures, verdict by claim; out as CSV and JSON.
import { computed } from 'vue'
import { useCampaign } from '../../api/queries'
import type { RunView } from '../../api/types'
import { spread, END_WORDS, conditions, day, figure, percent, place, watts } from '../../parts/format'
import ProblemNote from '../../parts/ProblemNote.vue'
import ReachChart from '../../parts/ReachChart.vue'
import Trail from '../../parts/Trail.vue'
import VerdictMark from '../../parts/VerdictMark.vue'

const props = defineProps<{ id: number }>()
const { data: campaign, error } = useCampaign(() => props.id)
const left = computed(() => campaign.value?.runs.filter((r) => r.state !== 'done').length ?? 0)
const claims = computed(() => campaign.value?.claims.filter((c) => !c.withdrawn) ?? [])
const channelsOf = (run: RunView) => run.chosen?.readings ?? []
</script>

<template>
  <ProblemNote v-if="error" :error="error" />
  <template v-if="campaign">
    <Trail
      :steps="[
        { name: campaign.series_name },
        { name: campaign.model_name, to: `/models/${campaign.model_id}` },
        { name: campaign.unit_serial, to: `/units/${campaign.unit_id}` },
        { name: `Campaign ${campaign.id}` },
      ]"
    />
    <header class="head">
      <div>
        <h1>
          Campaign sheet <span class="mono quiet">{{ campaign.unit_serial }}</span>
        </h1>
        <p class="quiet">
          {{ campaign.model_name }} · certified, {{ campaign.thd_n_limit_percent }} % THD+N · supply set to
          {{ campaign.supply_volts }} V · {{ campaign.bench }} · {{ campaign.created_by }},
          {{ day(campaign.created_at) }}
        </p>
      </div>
      <div class="actions">
        <a class="out" :href="`/api/campaigns/${campaign.id}/sheet.csv`" download>Save as CSV</a>
        <a
          class="out"
          :href="`/api/campaigns/${campaign.id}`"
          :download="`${campaign.unit_serial}-campaign-${campaign.id}.json`"
          >Save as JSON</a
        >
        <RouterLink v-slot="{ navigate }" :to="`/campaigns/${campaign.id}/live`" custom>
          <a-button :type="left ? 'primary' : 'default'" @click="navigate">{{
            left ? `Go on: ${left} runs left` : 'Open the live bench'
          }}</a-button>
        </RouterLink>
      </div>
    </header>

    <section class="section">
      <header><h2>Reach of this unit</h2></header>
      <ReachChart :reaches="campaign.reaches" />
    </section>

    <section class="section">
      <header>
        <h2>Runs</h2>
        <span class="quiet">certified; amps with the clamp's zero taken off; efficiency over all driven channels</span>
      </header>
      <table class="figures sheet">
        <thead>
          <tr>
            <th scope="col">Load</th>
            <th scope="col">Channel</th>
            <th class="num" scope="col">W</th>
            <th class="num" scope="col">THD+N<br />%</th>
            <th class="num" scope="col">Weakest<br />± U, W</th>
            <th class="num" scope="col">Average<br />W</th>
            <th class="num" scope="col">Before →<br />at reading, V</th>
            <th class="num" scope="col">Current<br />A</th>
            <th class="num" scope="col">Efficiency<br />%</th>
            <th class="num" scope="col">Sink<br />°C</th>
            <th scope="col">End</th>
            <th scope="col">Verdicts</th>
          </tr>
        </thead>
        <tbody v-for="r in campaign.runs" :key="r.id">
          <tr v-if="!r.chosen" class="first">
            <td>
              <strong>{{ place(r) }}</strong> <span class="quiet">{{ r.group }}</span>
            </td>
            <td colspan="11" class="quiet">{{ r.state === 'running' ? 'running now' : 'not run yet' }}</td>
          </tr>
          <tr v-for="(c, i) in channelsOf(r)" :key="c.channel" :class="{ first: i === 0 }">
            <td v-if="i === 0" :rowspan="channelsOf(r).length">
              <RouterLink :to="`/attempts/${r.chosen!.id}`"
                ><strong>{{ place(r) }}</strong></RouterLink
              >
              <div class="quiet">{{ r.group }}, {{ r.tone_hz }} Hz</div>
              <div v-if="r.attempts.length > 1" class="quiet">
                attempt {{ r.chosen!.number }} of {{ r.attempts.length }}
              </div>
            </td>
            <td>{{ r.bridged ? `${c.channel} + ${c.channel + 1}` : c.channel }}</td>
            <td class="num">{{ watts(c.watts) }}</td>
            <td class="num">{{ percent(c.thd_n_percent) }}</td>
            <template v-if="i === 0">
              <td class="num strong" :rowspan="channelsOf(r).length">
                {{ watts(r.chosen!.weakest_watts) }}<br /><span class="quiet"
                  >± {{ spread(r.chosen!.expanded_watts) }}</span
                >
              </td>
              <td class="num" :rowspan="channelsOf(r).length">{{ watts(r.chosen!.average_watts) }}</td>
              <td class="num" :rowspan="channelsOf(r).length">
                {{ figure(r.chosen!.start_volts, 2) }} → {{ figure(r.chosen!.supply_volts, 2) }}
              </td>
              <td class="num" :rowspan="channelsOf(r).length">{{ figure(r.chosen!.supply_amps, 1) }}</td>
              <td class="num" :rowspan="channelsOf(r).length">{{ figure(r.chosen!.efficiency_percent, 1) }}</td>
              <td class="num" :rowspan="channelsOf(r).length">{{ figure(r.chosen!.temperature_c, 1) }}</td>
              <td :rowspan="channelsOf(r).length" :class="{ danger: !r.chosen!.at_limit }" class="end">
                {{ r.chosen!.end ? END_WORDS[r.chosen!.end] : 'running' }}
                <template v-if="r.chosen!.tripped_watts !== null"> at {{ watts(r.chosen!.tripped_watts) }} W</template>
              </td>
              <td :rowspan="channelsOf(r).length">
                <div v-for="v in r.verdicts" :key="v.claim_id" class="verdict" :title="v.reason">
                  <span class="mono">{{ claims.find((k) => k.id === v.claim_id)?.watts }} W</span>
                  <VerdictMark :kind="v.kind" class="wraps" />
                </div>
              </td>
            </template>
          </tr>
          <tr v-if="r.chosen && !channelsOf(r).length" class="first">
            <td>
              <RouterLink :to="`/attempts/${r.chosen.id}`"
                ><strong>{{ place(r) }}</strong></RouterLink
              >
            </td>
            <td colspan="11" class="danger">No reading: {{ r.chosen.end ? END_WORDS[r.chosen.end] : 'running' }}</td>
          </tr>
        </tbody>
      </table>
    </section>

    <section class="section">
      <header><h2>Verdicts by claim</h2></header>
      <table class="figures">
        <tbody>
          <tr v-for="c in claims" :key="c.id">
            <td class="num">{{ c.watts }} W</td>
            <td class="nowrap">{{ c.group }}, {{ place(c) }}</td>
            <td class="quiet">{{ c.document }} · {{ conditions(c) }}</td>
            <td><VerdictMark v-if="c.verdict" :kind="c.verdict.kind" class="wraps" /></td>
            <td class="reason">{{ c.verdict?.reason }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </template>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  gap: 24px;
  align-items: flex-end;
}
.actions {
  display: flex;
  gap: 16px;
  align-items: center;
  white-space: nowrap;
}
h1 .mono {
  font-weight: 400;
  font-size: 18px;
  margin-left: 6px;
}
.sheet td {
  border-bottom: none;
  padding-top: 4px;
  padding-bottom: 2px;
}
.sheet .first td {
  border-top: 1px solid var(--rule);
  padding-top: 7px;
}
.sheet .strong {
  font-weight: 600;
}
.sheet .quiet {
  font-size: 13px;
  font-weight: 400;
}
.end {
  max-width: 110px;
}
.verdict {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.wraps {
  white-space: normal;
}
.reason {
  font-size: 14px;
  max-width: 420px;
}
.nowrap {
  white-space: nowrap;
}
</style>
