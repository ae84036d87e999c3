<script setup lang="ts">
// The queue: what is on the bench, what waits, what is done.
import { useBenches, useCampaigns } from '../../api/queries'
import { figure } from '../../kit/quantity'
import { POLICY_WORDS, minutes, moment } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import ProblemNote from '../../kit/ProblemNote.vue'

const { items: open, error, data, hasNextPage: moreOpen, fetchNextPage: showOpen } = useCampaigns('open')
const { items: done, hasNextPage: moreDone, fetchNextPage: showDone } = useCampaigns('done')
const { data: benches } = useBenches()
</script>

<template>
  <h1>Bench</h1>
  <template v-for="bench in benches" :key="bench.id">
    <p v-if="bench.state === 'running'" class="now">
      {{ bench.name }} is running <strong>{{ bench.model_name }}</strong>
      <span class="mono">{{ bench.unit_serial }}</span>
      <template v-if="bench.supply_volts">
        at <span class="mono">{{ figure(bench.supply_volts, 2) }} V</span></template
      >, started by {{ bench.person }}{{ bench.elsewhere ? ' at another server' : '' }}.
      <RouterLink :to="`/campaigns/${bench.campaign_id}/live`">Watch it live</RouterLink>
      <span v-if="bench.problem" class="danger">{{ bench.problem }}</span>
    </p>
    <p v-else class="now quiet">
      {{ bench.name }} is {{ bench.state === 'idle' ? 'idle' : `being prepared for ${bench.unit_serial}`
      }}{{ bench.holder ? `; ${bench.holder} holds it` : '' }}.
    </p>
  </template>
  <ProblemNote v-if="error" :error="error" />
  <section class="section">
    <header>
      <h2>To do</h2>
      <span class="quiet">campaigns with runs left</span>
    </header>
    <p v-if="data && !open.length" class="quiet empty">
      Nothing waits. Choose a unit on the <RouterLink to="/line">line</RouterLink> and plan a campaign for it.
    </p>
    <table v-else class="figures">
      <tbody>
        <tr v-for="c in open" :key="c.id" class="link">
          <td>
            <RouterLink :to="`/campaigns/${c.id}/live`">Campaign {{ c.id }}</RouterLink>
          </td>
          <td>{{ c.model_name }}</td>
          <td class="mono">{{ c.unit_serial }}</td>
          <td v-if="(benches?.length ?? 0) > 1" class="nowrap">{{ c.bench }}</td>
          <td class="num">{{ figure(c.supply_volts, 1) }} V</td>
          <td class="nowrap"><ModeMark v-for="m in c.modes" :key="m" :mode="m" class="mode-of" /></td>
          <td>{{ c.running ? 'running' : `${c.runs_done} of ${c.runs} runs` }}</td>
          <td class="num">{{ minutes(c.minutes_left) }} left</td>
          <td class="quiet">{{ c.created_by }}, {{ moment(c.created_at) }}</td>
        </tr>
      </tbody>
    </table>
    <a-button v-if="moreOpen" class="more" @click="showOpen()">Show older ones</a-button>
  </section>
  <section class="section">
    <header><h2>Done</h2></header>
    <table class="figures">
      <tbody>
        <tr v-for="c in done" :key="c.id" class="link">
          <td>
            <RouterLink :to="`/campaigns/${c.id}`">Campaign {{ c.id }}</RouterLink>
          </td>
          <td>{{ c.model_name }}</td>
          <td class="mono">{{ c.unit_serial }}</td>
          <td class="num">{{ figure(c.supply_volts, 1) }} V</td>
          <td class="nowrap"><ModeMark v-for="m in c.modes" :key="m" :mode="m" class="mode-of" /></td>
          <td>{{ c.runs === 1 ? '1 run' : `${c.runs} runs` }}, {{ POLICY_WORDS[c.policy] }}</td>
          <td class="quiet">{{ c.created_by }}, {{ moment(c.created_at) }}</td>
        </tr>
      </tbody>
    </table>
    <a-button v-if="moreDone" class="more" @click="showDone()">Show older ones</a-button>
  </section>
</template>

<style scoped>
.now {
  margin-top: 6px;
}
.mode-of {
  margin-right: 5px;
}
.nowrap {
  white-space: nowrap;
}
.empty {
  padding: 14px 0;
}
.more {
  margin-top: 12px;
}
</style>
