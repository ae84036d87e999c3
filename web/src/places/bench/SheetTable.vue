<script setup lang="ts">
// Every run's figures, one line per run, grouped by load: what was read, by which supply, how it ended.
import { computed } from 'vue'
import type { CampaignView, RunView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { END_WORDS, channelName, decibels, hertz, place, spread, watts } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import VerdictMark from '../../trade/VerdictMark.vue'

const props = defineProps<{ campaign: CampaignView }>()
/** Runs by group and load, whatever the order between groups was when they were made. */
const loads = computed(() => {
  const found = new Map<string, RunView[]>()
  for (const run of props.campaign.runs) {
    const key = `${run.group}/${run.load_ohms}/${run.bridged}`
    found.set(key, [...(found.get(key) ?? []), run])
  }
  const groups = [...new Set(props.campaign.runs.map((run) => run.group))]
  return [...found.values()].sort((a, b) => groups.indexOf(a[0]!.group) - groups.indexOf(b[0]!.group))
})
const claimed = (id: number) => props.campaign.claims.find((c) => c.id === id)?.watts
/** How it ended, with the watts at which it tripped, or the largest that a burst gave. */
function endOf(run: RunView): string {
  const chosen = run.chosen
  if (!chosen?.end) return ''
  if (run.proof) return run.proof
  if (chosen.tripped_watts !== null) return `${END_WORDS[chosen.end]} at ${watts(chosen.tripped_watts)} W`
  if (chosen.largest_watts !== null && chosen.at_limit) return `at onset; largest ${watts(chosen.largest_watts)} W`
  return END_WORDS[chosen.end]
}
/** What keeps or doubts the reading; notes are left to its own page. */
const standing = (run: RunView) =>
  (run.chosen?.findings ?? []).filter((f) => f.severity !== 'note' && f.overruled_by === null)
const channels = (run: RunView) =>
  (run.chosen?.readings ?? []).map((r) => ({
    name: channelName(run, r.channel),
    watts: watts(r.watts, r.expanded_watts),
  }))
</script>

<template>
  <div class="scrolls" role="region" aria-label="Runs" tabindex="0">
    <table class="figures sheet">
      <thead>
        <tr>
          <th scope="col">Load</th>
          <th scope="col">Mode</th>
          <th scope="col">By channel, W</th>
          <th class="num" scope="col">Weakest<br />± U, W</th>
          <th class="num" scope="col">Average<br />W</th>
          <th class="num" scope="col">Before → at<br />reading, V</th>
          <th class="num" scope="col">Sag<br />V</th>
          <th class="num" scope="col">Current<br />A</th>
          <th class="num" scope="col">Effic.<br />%</th>
          <th class="num" scope="col">Head-<br />room, dB</th>
          <th class="num" scope="col">Sink<br />°C</th>
          <th class="num" scope="col">Att.</th>
          <th scope="col">End</th>
          <th scope="col">Verdicts</th>
        </tr>
      </thead>
      <tbody v-for="(runs, at) in loads" :key="at">
        <tr v-for="(r, index) in runs" :key="r.id" :class="{ first: index === 0 }">
          <td v-if="index === 0" :rowspan="runs.length" class="load">
            <strong>{{ place(r) }}</strong>
            <div class="quiet">{{ r.group }}</div>
            <div v-if="r.exploratory" class="danger">not evidence</div>
          </td>
          <td class="nowrap">
            <component :is="r.chosen ? 'RouterLink' : 'span'" :to="r.chosen ? `/attempts/${r.chosen.id}` : undefined">
              <ModeMark :mode="r.mode" named /> {{ r.mode }}
            </component>
            <span v-if="r.mode === 'proof'" class="mono quiet tone">{{ hertz(r.tone_hz) }}</span>
            <span v-if="campaign.policy === 'three_points'" class="mono quiet"> {{ figure(r.supply_volts, 1) }} V</span>
          </td>
          <td v-if="!r.chosen?.readings.length" colspan="10" class="quiet">
            {{ r.state === 'running' ? 'running now' : r.chosen?.end ? 'no reading' : 'not run yet' }}
          </td>
          <template v-else>
            <td class="mono channels">
              <span v-for="c in channels(r)" :key="c.name" :title="`channel ${c.name}`">{{ c.watts }}</span>
              <div v-if="r.chosen.equivalent" class="quiet">as {{ r.chosen.equivalent }}</div>
            </td>
            <td class="num strong">
              {{ watts(r.chosen.weakest_watts, r.chosen.expanded_watts) }}
              <span class="quiet">± {{ spread(r.chosen.expanded_watts) }}</span>
            </td>
            <td class="num">{{ watts(r.chosen.average_watts) }}</td>
            <td class="num">{{ figure(r.chosen.start_volts, 2) }} → {{ figure(r.chosen.supply_volts, 2) }}</td>
            <td class="num">{{ figure(r.chosen.sag_volts, 2) }}</td>
            <td class="num">{{ figure(r.chosen.supply_amps, 1) }}</td>
            <td class="num">{{ figure(r.chosen.efficiency_percent, 1) }}</td>
            <td class="num">{{ r.mode === 'burst' ? decibels(r.headroom_db) : '' }}</td>
            <td class="num">{{ figure(r.chosen.temperature_c, 0) }}</td>
            <td class="num">{{ r.attempts.length }}</td>
          </template>
          <td class="end" :class="{ danger: r.chosen?.end && !r.chosen.at_limit }">
            {{ endOf(r) }}
            <span v-for="f in standing(r)" :key="f.code" class="finding" :data-severity="f.severity" :title="f.message"
              >{{ f.severity }}: {{ f.code }}</span
            >
          </td>
          <td>
            <span v-for="v in r.verdicts" :key="v.claim_id" class="verdict" :title="v.reason">
              <VerdictMark
                :kind="v.kind"
                :outcome="v.outcome"
                :doubted="!!v.doubts.length"
                :simulated="v.simulated"
                bare
              />
              <span class="mono">{{ claimed(v.claim_id) }} W</span>
            </span>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.tone {
  margin-left: 6px;
}
.sheet td {
  border-bottom: none;
  padding: 3px 9px 3px 0;
}
.sheet .first td {
  border-top: 1px solid var(--rule);
  padding-top: 6px;
}
.sheet tbody tr:last-child td {
  padding-bottom: 6px;
}
.sheet .load {
  padding-top: 6px;
}
.sheet .num,
.sheet .mono {
  font-size: 13px;
}
.sheet .strong {
  font-weight: 600;
}
.sheet .quiet {
  font-weight: 400;
  font-size: 13px;
}
.channels span {
  margin-right: 9px;
}
.channels div {
  white-space: nowrap;
}
.nowrap {
  white-space: nowrap;
}
.end {
  font-size: 13px;
  line-height: 1.25;
  max-width: 130px;
}
.finding {
  display: block;
  color: var(--doubt);
}
.finding[data-severity='invalid'] {
  color: var(--danger);
}
.verdict {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  margin-right: 8px;
  white-space: nowrap;
}
</style>
