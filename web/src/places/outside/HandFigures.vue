<script setup lang="ts">
// What a reading by hand comes to: its watts, what they are worked out from, and what the checks say.
import type { HandView, ReadPlaceView } from '../../api/types'
import { figure } from '../../kit/quantity'
import FindingsList from '../../trade/FindingsList.vue'
import { percent, spread, watts } from '../../trade/format'

defineProps<{ shown: HandView; places: readonly ReadPlaceView[] }>()
</script>

<template>
  <p class="main">
    <span class="mono">{{ watts(shown.weakest_watts, shown.expanded_watts) }}</span> W
  </p>
  <p class="quiet">± {{ spread(shown.expanded_watts) }} W, weakest; average {{ watts(shown.average_watts) }} W</p>
  <table class="figures">
    <tbody>
      <tr v-for="(c, i) in shown.channels" :key="c.channel">
        <td>{{ places[i]?.name }}</td>
        <td class="num">{{ watts(c.watts) }} W</td>
        <td class="quiet">{{ c.how }}</td>
      </tr>
    </tbody>
  </table>
  <dl>
    <dt>Sag</dt>
    <dd>{{ figure(shown.sag_volts, 2) }} V</dd>
    <template v-if="shown.supply_amps !== null">
      <dt>Current, idle taken off</dt>
      <dd>{{ figure(shown.supply_amps, 1) }} A</dd>
    </template>
    <dt>Efficiency</dt>
    <dd>{{ percent(shown.efficiency_percent) }} %</dd>
    <template v-if="shown.equivalent">
      <dt>Stands for</dt>
      <dd>{{ shown.equivalent }}</dd>
    </template>
  </dl>
  <FindingsList :findings="shown.findings" />
</template>
