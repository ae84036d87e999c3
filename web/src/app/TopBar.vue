<script setup lang="ts">
// The bar: the places, the bench's state in words, and the person.
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useBenches } from '../api/queries'
import KeyList from '../kit/KeyList.vue'
import { figure } from '../kit/quantity'
import { useWho } from '../kit/who'
import { useSpreads } from '../trade/spreads'
import GoBox from './GoBox.vue'
import { useThemeMode } from './theme/mode'

const PLACES = [
  { name: 'Line', to: '/line' },
  { name: 'Bench', to: '/bench' },
  { name: 'Evidence', to: '/evidence' },
  { name: 'Ratings', to: '/ratings' },
  { name: 'Gear', to: '/gear' },
  { name: 'Desk', to: '/desk' },
  { name: 'People', to: '/people' },
]
const route = useRoute()
const who = useWho()
const { mode, toggle } = useThemeMode()
const spreads = useSpreads()
const { data: benches, isError: benchLost } = useBenches()
/** The bench to tell of: one where something goes on, else one that is held, else the only one. */
const bench = computed(() => {
  const all = benches.value ?? []
  const held = all.find((b) => b.state === 'running') ?? all.find((b) => b.state !== 'idle' || b.holder)
  return held ?? (all.length === 1 ? all[0] : undefined)
})
const others = computed(() => (benches.value?.filter((b) => b.state !== 'idle').length ?? 0) - 1)
</script>

<template>
  <header class="bar no-print">
    <RouterLink class="name" to="/line">Rulvek</RouterLink>
    <nav aria-label="Places">
      <RouterLink v-for="p in PLACES" :key="p.name" :to="p.to" :class="{ here: route.meta.place === p.name }">
        {{ p.name }}
      </RouterLink>
    </nav>
    <span class="spacer" />
    <span class="bench" role="status">
      <component
        :is="bench?.campaign_id ? 'RouterLink' : 'span'"
        :to="bench?.campaign_id ? `/campaigns/${bench.campaign_id}/live` : undefined"
      >
        <template v-if="benchLost">The server does not answer</template>
        <template v-else-if="bench?.state === 'running'">
          <span class="running" aria-hidden="true" />{{ bench.name }}{{ bench.simulated ? ', simulated' : '' }} ·
          <!-- Of a bench that another server runs neither need be known. -->
          <template v-if="bench.supply_volts !== null">
            <span class="mono">{{ figure(bench.supply_volts, 2) }} V</span> ·
          </template>
          running{{ bench.unit_serial ? ` ${bench.unit_serial}` : '' }}{{ others > 0 ? ` · ${others} more` : '' }}
        </template>
        <template v-else-if="bench">
          {{ bench.name }}{{ bench.simulated ? ', simulated' : '' }} ·
          {{
            bench.state === 'idle'
              ? 'idle'
              : bench.state === 'testing'
                ? 'being looked at'
                : `preparing ${bench.unit_serial}`
          }}{{ bench.holder ? ` · held by ${bench.holder}` : '' }}
        </template>
        <template v-else-if="benches?.length">{{ benches.length }} benches, all idle</template>
      </component>
    </span>
    <GoBox />
    <KeyList><RouterLink to="/words">Words: what things are called here</RouterLink></KeyList>
    <button
      class="plain"
      title="Every watt with its ± U (Shift+U)"
      :aria-pressed="spreads.shown.value"
      @click="spreads.toggle()"
    >
      ± U
    </button>
    <button class="plain" :title="'Shift+D'" @click="toggle">{{ mode === 'dark' ? 'Paper' : 'Dark' }}</button>
    <RouterLink class="plain person" to="/account">{{ who.name.value }}</RouterLink>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 0 14px;
  min-height: 46px;
  padding: 0 24px;
  border-bottom: 1px solid var(--rule);
  background: var(--sheet);
}
.name {
  font-weight: 700;
  font-size: 18px;
  color: var(--ink);
}
.name:hover {
  text-decoration: none;
}
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  align-self: stretch;
  min-height: 45px;
}
nav a {
  display: flex;
  align-items: center;
  padding: 0 10px;
  color: var(--ink-2);
  border-bottom: 2px solid transparent;
  margin-bottom: -1px;
}
nav a:hover {
  color: var(--ink);
  text-decoration: none;
}
nav a.here {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--certified);
}
.spacer {
  flex: 1;
}
.bench > * {
  color: var(--ink-2);
  font-size: 14px;
  white-space: nowrap;
}
.running {
  display: inline-block;
  width: 8px;
  height: 8px;
  margin-right: 8px;
  background: var(--supply);
  transform: rotate(45deg);
}
.plain {
  font: inherit;
  font-size: 14px;
  background: none;
  border: none;
  color: var(--ink-2);
  cursor: pointer;
  padding: 4px 6px;
  white-space: nowrap;
}
.plain[aria-pressed='true'] {
  color: var(--certified);
  font-weight: 600;
}
.plain:hover {
  color: var(--ink);
}
.person {
  border-left: 1px solid var(--rule);
  padding-left: 18px;
  color: var(--ink);
}
/* One line where there is room for one: of a long state the end is cut, not the person moved. */
@media (min-width: 1200px) {
  .bar {
    flex-wrap: nowrap;
  }
  nav {
    flex-wrap: nowrap;
  }
  .bench {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
}
@media (max-width: 900px) {
  main {
    padding: 12px 14px 60px;
  }
  .bar {
    padding: 0 14px;
    gap: 0 12px;
  }
  nav a {
    padding: 8px 10px;
  }
  .bench {
    white-space: normal;
  }
}
</style>
