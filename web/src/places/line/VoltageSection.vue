<script setup lang="ts">
// How a unit's power follows its supply, load by load; what it says of other voltages is always marked an estimate.
import { computed, ref } from 'vue'
import type { VoltageFitView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { place, watts } from '../../trade/format'
import VoltageChart from './VoltageChart.vue'
import WattsFigure from '../../trade/WattsFigure.vue'

const props = defineProps<{ fits: VoltageFitView[] }>()
const picked = ref(0)
const fit = computed(() => props.fits[Math.min(picked.value, props.fits.length - 1)])
const CHARACTERS = {
  regulated: 'regulated: the supply hardly matters',
  unregulated: 'unregulated: about the square of the voltage',
  '': '',
} as const
const sort = computed(() => CHARACTERS[fit.value?.character ?? ''])
</script>

<template>
  <section v-if="fit" class="section">
    <header>
      <h2>Power against supply voltage</h2>
      <span class="quiet">certified runs; line and band are estimates, never evidence</span>
      <span class="spacer" />
      <div role="group" aria-label="Load" class="picker">
        <button v-for="(f, index) in fits" :key="index" :aria-pressed="index === picked" @click="picked = index">
          {{ f.group }} {{ place(f) }}
        </button>
      </div>
    </header>
    <div class="two">
      <VoltageChart :fit="fit" :height="230" />
      <div>
        <p v-if="fit.exponent !== null">
          Exponent <span class="mono">{{ figure(fit.exponent, 2) }}</span>
          <span class="quiet">
            (95 %: {{ figure(fit.exponent_low, 2) }} to {{ figure(fit.exponent_high, 2) }})<template v-if="sort"
              >, {{ sort }}</template
            ></span
          >
        </p>
        <p v-else class="quiet">
          Three voltages over at least 1 V tell the exponent; until then anything from 0 to 2.3 is possible.
        </p>
        <table class="figures">
          <tbody>
            <tr v-for="p in fit.points" :key="p.attempt_id">
              <td class="num">{{ figure(p.volts, 2) }} V</td>
              <td class="num">
                <RouterLink :to="`/attempts/${p.attempt_id}`"
                  ><WattsFigure :value="p.watts" :u="p.expanded_watts" /> W</RouterLink
                >
              </td>
              <td class="quiet">measured</td>
            </tr>
            <tr v-for="e in fit.at_claims" :key="`e${e.volts}`">
              <td class="num">{{ figure(e.volts, 1) }} V</td>
              <td class="num">{{ watts(e.watts) }} W</td>
              <td class="quiet">estimated at the claim's voltage, {{ watts(e.low) }} to {{ watts(e.high) }} W</td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
  </section>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1.25fr 1fr;
  gap: 40px;
  padding-top: 10px;
}
.picker {
  display: flex;
}
.picker button {
  font: inherit;
  font-size: 13px;
  padding: 2px 9px;
  color: var(--ink-2);
  background: var(--sheet);
  border: 1px solid var(--rule);
  cursor: pointer;
}
.picker button[aria-pressed='true'] {
  color: var(--ink);
  background: var(--selected);
  border-color: var(--certified);
}
</style>
