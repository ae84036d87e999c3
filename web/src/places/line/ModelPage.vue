<script setup lang="ts">
// A model: what it gives at each load, what is claimed where, and its units.
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useAct } from '../../kit/act'
import ChangedNote from '../../trade/ChangedNote.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import { useModel } from '../../api/queries'
import type { ClaimView } from '../../api/types'
import { conditions, day, ohms, place } from '../../trade/format'
import PageFrame from '../../kit/PageFrame.vue'
import ReachChart from '../../trade/ReachChart.vue'
import VerdictMark from '../../trade/VerdictMark.vue'
import ClaimForm from './ClaimForm.vue'
import WattsFigure from '../../trade/WattsFigure.vue'
import DecisionRule from '../../trade/DecisionRule.vue'

const props = defineProps<{ id: number }>()
const {
  data: model,
  error,
  isPending,
  refetch,
  hasNextPage,
  fetchNextPage,
  isFetchingNextPage,
} = useModel(() => props.id)
const adding = ref(false)
const withdrawing = ref<ClaimView | null>(null)
const standing = computed(() => model.value?.claims.filter((c) => !c.withdrawn) ?? [])
const withdrawn = computed(() => model.value?.claims.filter((c) => c.withdrawn) ?? [])

const {
  act: withdraw,
  pending,
  problem,
  forget,
} = useAct(
  (reason: string) =>
    answered(
      client.POST('/api/claims/{claim_id}/withdrawal', {
        params: { path: { claim_id: withdrawing.value!.id } },
        body: { reason },
      }),
    ),
  { done: () => (withdrawing.value = null) },
)
function askToWithdraw(claim: ClaimView | null) {
  forget()
  withdrawing.value = claim
}

const documentOf = (id: number) => standing.value.find((c) => c.id === id)
</script>

<template>
  <PageFrame
    :title="model?.name ?? ''"
    :trail="model ? [{ name: 'Line', to: '/line' }, { name: model.series_name }, { name: model.name }] : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <template v-if="model">
    <header class="head">
      <h1>{{ model.name }}</h1>
      <p class="quiet">
        {{ model.description }} · class {{ model.topology }} ·
        {{ model.regulated ? 'regulated' : 'unregulated' }} supply, {{ model.supply_low_volts }}–{{
          model.supply_high_volts
        }}
        V
      </p>
    </header>

    <section class="section">
      <header>
        <h2>Reach</h2>
        <span class="quiet">weakest channel of the weakest unit; “bridged” per pair</span>
      </header>
      <ReachChart :reaches="model.reaches" named />
    </section>

    <section class="section">
      <header>
        <h2>Claims</h2>
        <span class="quiet">{{ standing.length }} published</span>
        <span class="spacer" />
        <DecisionRule />
        <a-button @click="adding = true">Add a claim</a-button>
      </header>
      <p v-if="!standing.length" class="empty quiet">
        Nothing is claimed yet. Add what manual, carton and web page state, each with its conditions.
      </p>
      <table v-else class="figures claims">
        <thead>
          <tr>
            <th class="num" scope="col">Claim</th>
            <th scope="col">At</th>
            <th scope="col">Conditions</th>
            <th scope="col">Document</th>
            <th scope="col">Verdict</th>
            <th scope="col">Why</th>
            <th scope="col"><span class="visually-hidden">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in standing" :key="c.id">
            <td class="num">{{ c.watts }} W</td>
            <td class="nowrap">
              {{ c.group }}, {{ place(c) }}<br v-if="c.kind !== 'continuous'" />
              <span v-if="c.kind !== 'continuous'" class="quiet">“{{ c.kind }}”</span>
            </td>
            <td class="conditions">{{ conditions(c) }}</td>
            <td>{{ c.document }}</td>
            <td>
              <VerdictMark
                v-if="c.verdict"
                :kind="c.verdict.kind"
                :outcome="c.verdict.outcome"
                :doubted="!!c.verdict.doubts.length"
                class="wraps"
              />
            </td>
            <td class="why">
              <RouterLink v-if="c.verdict?.attempt_id" :to="`/attempts/${c.verdict.attempt_id}`">{{
                c.verdict.reason
              }}</RouterLink>
              <template v-else>{{ c.verdict?.reason }}</template>
              <div v-if="c.verdict?.settle" class="quiet">Would settle it: {{ c.verdict.settle }}</div>
              <div v-for="other in c.conflicts_with" :key="other" class="danger">
                Against {{ documentOf(other)?.watts }} W in {{ documentOf(other)?.document }}
              </div>
            </td>
            <td>
              <a-button size="small" type="text" @click="askToWithdraw(c)">Withdraw</a-button>
            </td>
          </tr>
        </tbody>
      </table>
      <details v-if="withdrawn.length" class="withdrawn">
        <summary>{{ withdrawn.length }} withdrawn</summary>
        <ul>
          <li v-for="c in withdrawn" :key="c.id">
            {{ c.watts }} W at {{ c.group }}, {{ place(c) }} ({{ c.document }}) – {{ c.withdrawn?.reason }}
            <span class="quiet">{{ c.withdrawn?.by }}, {{ day(c.withdrawn!.at) }}</span>
          </li>
        </ul>
      </details>
    </section>

    <section class="section">
      <header>
        <h2>Units</h2>
        <span class="quiet">{{ model.units_in_all }}</span>
      </header>
      <table class="figures">
        <thead>
          <tr>
            <th scope="col">Serial number</th>
            <th scope="col">Lot</th>
            <th scope="col">Revision</th>
            <th scope="col">Where from</th>
            <th scope="col">Received</th>
            <th v-for="r in model.reaches" :key="`${r.group}${r.load_ohms}${r.bridged}`" class="num" scope="col">
              {{ r.group }}<br />{{ ohms(r.load_ohms) }}{{ r.bridged ? ' br.' : '' }}, W
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="u in model.units" :key="u.id" class="link">
            <td>
              <RouterLink :to="`/units/${u.id}`" class="mono">{{ u.serial }}</RouterLink>
            </td>
            <td class="mono">{{ u.lot }}</td>
            <td>{{ u.revision }}</td>
            <td>{{ u.origin }}</td>
            <td class="nowrap">{{ day(u.received_at) }}</td>
            <td v-for="r in u.reaches" :key="`${r.group}${r.load_ohms}${r.bridged}`" class="num">
              <WattsFigure :value="r.certified_watts" :u="r.expanded_watts" />
            </td>
          </tr>
        </tbody>
      </table>
      <a-button v-if="hasNextPage" class="more" :loading="isFetchingNextPage" @click="fetchNextPage()"
        >Show more units</a-button
      >
    </section>

    <ClaimForm :open="adding" :model="model" @close="adding = false" />
    <ReasonDialog
      :open="withdrawing !== null"
      title="Withdraw this claim: why is it no longer made?"
      act="Withdraw the claim"
      danger
      :hint="
        withdrawing
          ? `${withdrawing.watts} W at ${withdrawing.group}, ${place(withdrawing)} (${withdrawing.document}). It stays on record as withdrawn.`
          : ''
      "
      :pending="pending"
      :problem="problem"
      @done="withdraw"
      @cancel="askToWithdraw(null)"
    >
      <ChangedNote :subject="`model/${id}`" :open="withdrawing !== null" />
    </ReasonDialog>
  </template>
</template>

<style scoped>
.nowrap {
  white-space: nowrap;
}
.claims .num {
  padding-right: 22px;
}
.conditions {
  max-width: 190px;
}
.why {
  max-width: 380px;
  font-size: 14px;
}
.why a {
  color: var(--ink);
}
.wraps {
  white-space: normal;
  max-width: 130px;
}
.empty {
  padding: 14px 0;
}
.more {
  margin-top: 12px;
}
.withdrawn {
  margin-top: 10px;
  font-size: 14px;
}
</style>
