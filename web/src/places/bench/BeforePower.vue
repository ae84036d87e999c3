<script setup lang="ts">
// What to see to before this run is started: loads, controls, and the usual cautions.
import type { CampaignView, RunView } from '../../api/types'
import { ohms } from '../../parts/format'

defineProps<{ campaign: CampaignView; run: RunView }>()
</script>

<template>
  <div class="before">
    <section>
      <h2>Connect</h2>
      <ul>
        <li v-for="channel in run.channels" :key="channel">
          <template v-if="run.bridged">Channels {{ channel }} + {{ channel + 1 }}, bridged</template>
          <template v-else>Channel {{ channel }}</template>
          into <strong>{{ ohms(run.load_ohms) }}</strong>
        </li>
        <li v-for="c in run.companions" :key="`c${c.channel}`" class="quiet">
          Channel {{ c.channel }} into {{ ohms(c.load_ohms) }}: loaded and driven, not read
        </li>
        <li>Supply at the terminals: {{ run.supply_volts }} V</li>
      </ul>
      <p v-if="run.bridged" class="warn">
        Bridged outputs are not ground-referenced: an earthed oscilloscope probe shorts them. Use a differential probe.
      </p>
    </section>
    <section>
      <h2>Controls in test position</h2>
      <ul>
        <li v-for="control in campaign.test_controls" :key="control">{{ control }}</li>
      </ul>
    </section>
    <section class="cautions">
      <h2>Before power</h2>
      <ul>
        <li>Fuse within reach of the supply; a disconnect within arm's reach.</li>
        <li>Cable and lugs sized for the current; no rings or watches; nobody alone.</li>
        <li>Dummy loads reach burn temperature: clear space, airflow, keep hands off.</li>
        <li>Smoke or smell: power off first. Your local rules and qualified people come first.</li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.before {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 18px 32px;
  padding: 6px 4px;
}
.cautions {
  grid-column: 1 / -1;
}
ul {
  margin: 6px 0 0;
  padding-left: 18px;
}
.warn {
  margin-top: 8px;
  padding: 6px 10px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
</style>
