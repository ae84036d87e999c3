<script setup lang="ts">
// What to see to before a wiring is powered: how it is wired, the list with what was found, and the usual cautions.
import { computed } from 'vue'
import type { CampaignView, PreparationView, RunView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { decibels } from '../../trade/format'
import PickOne from '../../kit/PickOne.vue'
import WiringPicture from '../../trade/WiringPicture.vue'
import { ITEM_WORDS } from './beforePower'
import OtherBench from './OtherBench.vue'

const props = defineProps<{
  campaign: CampaignView
  run: RunView
  next: PreparationView | null
  busy: boolean
  gainsApart: boolean
}>()
const emit = defineEmits<{ see: [item: string, turn: boolean]; skip: [item: string] }>()
/** How many dB harder than full output the source may drive; a recording's quiet passages need some. */
const overlap = defineModel<number | null>('overlap', { default: 0 })
/** The controls that were looked at one by one, by name. */
const ticked = defineModel<string[]>('ticked', { default: () => [] })
const OVERLAPS = [0, 5, 10, 15].map((db) => ({ value: db, label: `${db} dB` }))
const wiring = computed(() => props.campaign.wirings.find((w) => w.number === props.run.wiring))
const supply = computed(() =>
  props.campaign.policy === 'bank' ? 'floating bank' : `${figure(props.run.supply_volts, 1)} V`,
)
</script>

<template>
  <div v-if="wiring" class="before">
    <WiringPicture :connections="wiring.connections" :boxes="wiring.boxes" :read="run.channels" :supply="supply" />
    <ol class="list" aria-label="Before power">
      <li
        v-for="item in wiring.preparations"
        :key="item.item"
        :data-state="item.state"
        :aria-current="item.item === next?.item ? 'step' : undefined"
      >
        <svg class="tick" width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
          <path
            v-if="item.state === 'done'"
            d="M3 8.5L6.5 12L13 4.5"
            fill="none"
            stroke="currentColor"
            stroke-width="2"
          />
          <path v-else-if="item.state === 'skipped'" d="M3 13L13 3" stroke="currentColor" stroke-width="2" />
          <circle v-else cx="8" cy="8" r="4.5" fill="none" stroke="currentColor" stroke-width="1.5" />
        </svg>
        <div class="what">
          <strong>{{ ITEM_WORDS[item.item]?.what }}</strong>
          <span v-if="item.state !== 'open'" class="quiet">
            {{ item.state === 'skipped' ? `skipped: ${item.found}` : item.found }}
            <template v-if="item.deviations.length">
              (<span class="mono">{{ item.deviations.map((d) => decibels(d)).join(' / ') }}</span> dB)
            </template>
            – {{ item.by }}
          </span>
          <span v-else-if="item.lapsed" class="lapsed">to be seen to again: {{ item.lapsed }}</span>
          <ul v-if="item.state === 'open' && item.item === 'controls' && item.item === next?.item" class="controls">
            <li v-for="control in campaign.test_controls" :key="control">
              <label><input v-model="ticked" type="checkbox" :value="control" :disabled="busy" /> {{ control }}</label>
            </li>
          </ul>
        </div>
        <div v-if="item.item === next?.item" class="acts">
          <PickOne v-if="item.item === 'gains'" v-model="overlap" class="overlap" label="Overlap" :choices="OVERLAPS" />
          <a-button
            v-if="item.item === 'gains' && gainsApart"
            size="small"
            type="primary"
            :loading="busy"
            @click="emit('see', 'gains', true)"
            >Turn them on the unit</a-button
          >
          <a-button
            v-else-if="item.item !== 'controls'"
            size="small"
            :loading="busy"
            @click="emit('see', item.item, false)"
            >{{ ITEM_WORDS[item.item]?.act }}</a-button
          >
          <a-button size="small" :disabled="busy" @click="emit('skip', item.item)">Skip …</a-button>
        </div>
        <a-button
          v-else-if="item.state !== 'open' && item.item !== 'controls'"
          size="small"
          type="text"
          :disabled="busy"
          @click="emit('see', item.item, false)"
          >Again</a-button
        >
      </li>
    </ol>
    <OtherBench :campaign="campaign" :wiring="run.wiring" />
    <p class="cautions quiet">
      Fuse within reach of the supply, a disconnect within arm's reach; cable and lugs sized for the current; no rings
      or watches; nobody alone. Dummy loads reach burn temperature. Smoke or smell: power off first. Local rules and
      qualified people come first.
    </p>
  </div>
</template>

<style scoped>
.lapsed {
  font-size: 14px;
  color: var(--doubt);
}
.before {
  display: grid;
  gap: 12px;
}
.before :deep(svg[role='img']) {
  max-height: 250px;
}
.list {
  list-style: none;
  margin: 0;
  padding: 0;
  border-top: 1px solid var(--rule);
}
.list > li {
  display: grid;
  grid-template-columns: 20px 1fr auto;
  gap: 8px;
  align-items: start;
  padding: 5px 6px;
  border-bottom: 1px solid var(--rule);
  border-left: 3px solid transparent;
}
.list > li[aria-current] {
  background: var(--selected);
  border-left-color: var(--certified);
}
.tick {
  margin-top: 3px;
  color: var(--rule-strong);
}
[data-state='done'] .tick {
  color: var(--certified);
}
[data-state='skipped'] .tick {
  color: var(--doubt);
}
.what strong {
  font-weight: 600;
  margin-right: 8px;
}
.what .quiet {
  font-size: 14px;
}
.controls {
  margin: 2px 0 0;
  padding: 0;
  list-style: none;
  font-size: 14px;
  columns: 2;
}
.controls label {
  display: block;
  padding: 2px 0;
}
.controls input {
  accent-color: var(--certified);
}
.acts {
  display: flex;
  gap: 6px;
  align-items: center;
}
.overlap {
  font-size: 14px;
  white-space: nowrap;
}
.cautions {
  font-size: 13px;
  line-height: 1.35;
}
</style>
