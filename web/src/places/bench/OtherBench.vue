<script setup lang="ts">
// A wiring that is carried over to another bench: a campaign of its own there, because somebody says so.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useBenches } from '../../api/queries'
import type { CampaignView } from '../../api/types'
import { useAct } from '../../kit/act'
import FormDialog from '../../kit/FormDialog.vue'
import PickOne from '../../kit/PickOne.vue'
import { counted } from '../../trade/format'

const props = defineProps<{ campaign: CampaignView; wiring: number }>()
const router = useRouter()
const mayPlan = useMay('plan')
const { data: benches } = useBenches()
const others = computed(() =>
  (benches.value ?? []).filter((b) => b.name !== props.campaign.bench).map((b) => ({ value: b.name, label: b.name })),
)
const runs = computed(() => props.campaign.runs.filter((run) => run.wiring === props.wiring))
/** Nothing of it was begun, and it is not all that there is: that is moved on Today. */
const may = computed(
  () =>
    mayPlan.value &&
    others.value.length > 0 &&
    runs.value.length < props.campaign.runs.length &&
    runs.value.every((run) => !run.attempts.length),
)
const asked = ref(false)
const bench = ref<string | null>(null)
const taking = useAct(async () => {
  const made = await answered(
    client.POST('/api/campaigns/{campaign_id}/wirings/{wiring}/bench', {
      params: { path: { campaign_id: props.campaign.id, wiring: props.wiring } },
      body: { bench: bench.value ?? '' },
    }),
  )
  asked.value = false
  await router.push(`/campaigns/${made.id}/live`)
})

function ask() {
  bench.value = others.value[0]?.value ?? null
  asked.value = true
}
</script>

<template>
  <a-button v-if="may" size="small" type="text" class="ask" @click="ask">Run this wiring on another bench …</a-button>
  <FormDialog
    :open="asked"
    :title="`Wiring ${wiring} on another bench`"
    act="Carry it over"
    :pending="taking.pending.value"
    :problem="taking.problem.value"
    :hint="`${counted(runs.length, 'run')} of ${campaign.unit_serial} become a campaign of their own there. The unit lies on one bench at a time: whoever goes on there carries it over, and sees to everything before power again.`"
    @done="taking.act()"
    @cancel="asked = false"
  >
    <PickOne v-model="bench" label="Bench" :choices="others" />
  </FormDialog>
</template>

<style scoped>
.ask {
  justify-self: start;
  margin: -4px 0 0 -7px;
  color: var(--ink-2);
  text-decoration: underline;
}
</style>
