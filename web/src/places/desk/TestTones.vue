<script setup lang="ts">
// Test tones to save, so that any source can play them.
import { API } from '../../kit/base'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import NumberField from '../../kit/NumberField.vue'
import PickOne from '../../kit/PickOne.vue'

const SIGNALS = [
  { value: 'sine', label: 'Steady sine' },
  { value: 'steps', label: 'Sine in steps' },
  { value: 'burst', label: 'Bursts' },
]
const DEPTHS = [
  { value: 'pcm24', label: '24 bit' },
  { value: 'float32', label: '32 bit float' },
]
const { data: named } = useQuery({
  queryKey: ['bursts'],
  staleTime: Infinity,
  queryFn: () => answered(client.GET('/api/desk/bursts')),
})
const bursts = computed(() => (named.value ?? []).map((name) => ({ value: name, label: name })))
const FIRST = { kind: 'sine', hz: 1000, seconds: 30, level: 0, from: -20, step: 1, burst: '1 kHz', depth: 'pcm24' }
type Tone = { [K in keyof typeof FIRST]: (typeof FIRST)[K] | null }
const tone = reactive<Tone>({ ...FIRST })
// What is asked for stays in the address, to be shared.
const route = useRoute()
const router = useRouter()
for (const [name, example] of Object.entries(FIRST)) {
  const asked = route.query[name]
  if (typeof asked === 'string') Object.assign(tone, { [name]: typeof example === 'number' ? Number(asked) : asked })
}
watch(tone, (now) => void router.replace({ query: { ...route.query, of: 'tones', ...now } }))
/** The named bursts have their own frequency. */
const ownTone = computed(() => tone.kind === 'burst' && !tone.burst?.includes('cycle'))
const MOST_STEPS = 60
const levels = computed(() => {
  if (tone.kind !== 'steps') return [tone.level ?? 0]
  const [from, step] = [tone.from ?? FIRST.from, tone.step ?? FIRST.step]
  const found: number[] = []
  for (let level = from; level <= 0 && found.length < MOST_STEPS; level += step) found.push(Number(level.toFixed(2)))
  return found
})
const address = computed(() => {
  if ([tone.hz, tone.seconds, tone.level, tone.from, tone.step].includes(null)) return undefined
  const query = new URLSearchParams({ hz: String(tone.hz), seconds: String(tone.seconds), depth: tone.depth ?? '' })
  for (const level of levels.value) query.append('level', String(level))
  if (tone.kind === 'burst') query.set('burst', tone.burst ?? '')
  return `${API}/desk/tone.wav?${query}`
})
</script>

<template>
  <h2>Test tones</h2>
  <p class="formula quiet">
    Whole cycles, level changes at zero crossings; 0 dB is full scale. WAV, 48 kHz, one channel.
  </p>
  <form @submit.prevent>
    <PickOne v-model="tone.kind" label="Signal" :choices="SIGNALS" />
    <PickOne v-if="tone.kind === 'burst'" v-model="tone.burst" label="Burst" :choices="bursts" />
    <NumberField v-if="!ownTone" v-model="tone.hz" label="Frequency" unit="Hz" required :min="1" :max="20000" />
    <NumberField
      v-model="tone.seconds"
      :label="tone.kind === 'steps' ? 'Each step' : 'Length'"
      unit="s"
      required
      :min="0.1"
      :max="300"
    />
    <template v-if="tone.kind === 'steps'">
      <NumberField v-model="tone.from" label="From" unit="dB" required :min="-60" :max="0" />
      <NumberField v-model="tone.step" label="Step" unit="dB" required :min="0.1" :max="20" />
    </template>
    <NumberField v-else v-model="tone.level" label="Peak" unit="dB" required :min="-60" :max="0" />
    <PickOne v-model="tone.depth" label="Samples" :choices="DEPTHS" />
  </form>
  <p class="save"><a v-if="address" class="out" :href="address" download>Save the tone as WAV</a></p>
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
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 10px 16px;
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
