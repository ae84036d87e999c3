<script setup lang="ts">
// What the live bench shows: the run, its group, signal and supply.
import type { CampaignView, RunView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { MODE_WORDS, hertz, place, watts } from '../../trade/format'

defineProps<{ campaign: CampaignView; run: RunView; connected: boolean }>()
</script>

<template>
  <header>
    <h1>
      {{ MODE_WORDS[run.mode] }}, {{ place(run) }}
      <span class="quiet">
        {{ run.group }}, {{ run.burst ? `burst “${run.burst}”` : hertz(run.tone_hz) }},
        <template v-if="run.hold_watts !== null">to hold {{ watts(run.hold_watts) }} W,</template>
        {{ campaign.policy === 'bank' ? 'floating bank' : `${figure(run.supply_volts, 1)} V` }}
      </span>
      <span v-if="run.exploratory" class="mark">not evidence</span>
    </h1>
    <span v-if="!connected" class="danger small">Connection lost – reconnecting …</span>
  </header>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  margin-bottom: 8px;
}
h1 {
  font-size: 20px;
}
h1 .quiet {
  font-weight: 400;
  font-size: 15px;
}
.small {
  font-size: 14px;
}
.mark {
  border: 1px solid var(--doubt);
  color: var(--doubt);
  padding: 0 5px;
  font-size: 13px;
  font-weight: 400;
  vertical-align: 2px;
}
</style>
