<script setup lang="ts">
// What others have just done, and that the server does not answer; over every page.
import { router } from './router'
import { latestOfEach, useOthers } from '../api/now'
import { computed, onScopeDispose, watch } from 'vue'

const { told, lostSince } = useOthers()
const CLOCK = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' })

const latest = computed(() => latestOfEach(told))

// A part of the program that was not loaded yet cannot be shown now; once the server is back, it is.
let wanted = ''
const stop = router.onError((_failure, to) => (wanted = to.fullPath))
onScopeDispose(stop)
watch(lostSince, (lost) => {
  if (!lost && wanted) location.assign(router.resolve(wanted).href)
})
</script>

<template>
  <p v-if="lostSince" class="lost no-print" role="alert">
    <strong>The server does not answer.</strong> What you see is as it was at {{ CLOCK.format(lostSince) }}; it goes on
    by itself when the server is back.
  </p>
  <ul class="told no-print" aria-live="polite">
    <li v-for="c in latest" :key="c.id">
      <strong>{{ c.person }}</strong> {{ c.action }}<template v-if="c.text">: {{ c.text }}</template>
      <span v-if="c.before" class="quiet">and {{ c.before }} more</span>
    </li>
  </ul>
</template>

<style scoped>
.lost {
  position: sticky;
  top: 0;
  z-index: 1050;
  margin: 0;
  padding: 8px 24px;
  background: #a5332b;
  color: #fff;
}
.told {
  position: fixed;
  left: 16px;
  bottom: 16px;
  z-index: 15;
  margin: 0;
  padding: 0;
  list-style: none;
  max-width: min(420px, 60vw);
  pointer-events: none;
}
/* Above the bar that keeps Off in reach. */
:global(body:has(footer.controls) .told) {
  bottom: 96px;
}
.told li {
  margin-top: 6px;
  padding: 8px 12px;
  font-size: 14px;
  background: var(--sheet);
  border: 1px solid var(--rule-strong);
  border-left: 3px solid var(--supply);
}
</style>
