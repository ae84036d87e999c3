<script setup lang="ts">
// Test tones to save, so that any source can play them.
import { computed, reactive, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

const BURSTS = ['1 kHz', '40 Hz', '20 cycles', '8 cycles', '1 cycle', 'shaped']
const tone = reactive({
  kind: 'sine',
  hz: 1000,
  seconds: 30,
  level: 0,
  from: -20,
  step: 1,
  burst: '1 kHz',
  depth: 'pcm24',
})
// What is asked for stays in the address, to be shared.
const route = useRoute()
const router = useRouter()
for (const [name, example] of Object.entries(tone)) {
  const asked = route.query[name]
  if (typeof asked === 'string') Object.assign(tone, { [name]: typeof example === 'number' ? Number(asked) : asked })
}
watch(tone, (now) => void router.replace({ query: { of: 'tones', ...now } }))
const named = computed(() => tone.kind === 'burst' && !tone.burst.includes('cycle'))
const levels = computed(() => {
  if (tone.kind !== 'steps') return [tone.level]
  const count = Math.min(60, Math.floor(Math.abs(tone.from) / Math.max(0.1, tone.step)) + 1)
  return Array.from({ length: count }, (_, i) => Math.min(0, Number((tone.from + i * tone.step).toFixed(2))))
})
const address = computed(() => {
  const query = new URLSearchParams({ hz: String(tone.hz), seconds: String(tone.seconds), depth: tone.depth })
  for (const level of levels.value) query.append('level', String(level))
  if (tone.kind === 'burst') query.set('burst', tone.burst)
  return `/api/desk/tone.wav?${query}`
})
</script>

<template>
  <h2>Test tones</h2>
  <p class="formula quiet">
    Whole cycles, level changes at zero crossings; 0 dB is full scale. WAV, 48 kHz, one channel.
  </p>
  <form @submit.prevent>
    <label>
      Signal
      <select v-model="tone.kind">
        <option value="sine">steady sine</option>
        <option value="steps">sine in steps</option>
        <option value="burst">bursts</option>
      </select>
    </label>
    <label v-if="tone.kind === 'burst'">
      Burst
      <select v-model="tone.burst">
        <option v-for="b in BURSTS" :key="b">{{ b }}</option>
      </select>
    </label>
    <label v-if="!named"
      >Frequency, Hz <input v-model.number="tone.hz" type="number" min="1" max="20000" step="any"
    /></label>
    <label>
      {{ tone.kind === 'steps' ? 'Each step, s' : 'Length, s' }}
      <input v-model.number="tone.seconds" type="number" min="0.1" max="300" step="any" />
    </label>
    <template v-if="tone.kind === 'steps'">
      <label>From, dB <input v-model.number="tone.from" type="number" min="-60" max="0" step="any" /></label>
      <label>Step, dB <input v-model.number="tone.step" type="number" min="0.1" max="20" step="any" /></label>
    </template>
    <label v-else>Peak, dB <input v-model.number="tone.level" type="number" min="-60" max="0" step="any" /></label>
    <label>
      Samples
      <select v-model="tone.depth">
        <option value="pcm24">24 bit</option>
        <option value="float32">32 bit float</option>
      </select>
    </label>
  </form>
  <p class="save"><a class="out" :href="address" download>Save the tone as WAV</a></p>
  <p class="caution">
    Start with the level down: a full-scale tone from a source that was left loud reaches the load at once.
  </p>
</template>

<style scoped>
.formula {
  padding: 4px 0 14px;
  font-size: 14px;
}
form {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 10px 16px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 14px;
  align-content: end;
}
.save {
  padding: 20px 0;
}
.caution {
  padding: 6px 10px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
</style>
