<script setup lang="ts">
// Who holds the bench. Others watch and may ask to take over; the holder answers, or silence does after a minute.
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useAct } from '../../kit/act'
import { useWho } from '../../kit/who'
import type { BenchView } from '../../api/types'
import ProblemNote from '../../kit/ProblemNote.vue'

const props = defineProps<{ bench: BenchView }>()
const person = useWho()
/** Which bench the calls are about. */
const mayMeasure = useMay('measure')
const here = computed(() => ({ params: { query: { bench: props.bench.id } } }))
const mine = computed(() => props.bench.holder !== null && props.bench.holder === person.name.value)
const theirs = computed(() => props.bench.holder !== null && !mine.value)
const askedByMe = computed(() => props.bench.asked_by !== null && props.bench.asked_by === person.name.value)

const { act, pending, problem } = useAct((call: () => Promise<unknown>) => call())
const ask = () => act(() => answered(client.POST('/api/bench/hold', here.value)))
const answer = (grant: boolean) =>
  act(() => answered(client.POST('/api/bench/hold/answer', { ...here.value, body: { grant } })))
const leave = () => act(() => answered(client.POST('/api/bench/hold/leave', here.value)))
</script>

<template>
  <div v-if="mine && bench.asked_by" class="hold asked" role="alert">
    <strong>{{ bench.asked_by }}</strong> asks to take over the bench.
    <a-button size="small" type="primary" @click="answer(true)">Hand it over</a-button>
    <a-button size="small" @click="answer(false)">Keep it</a-button>
    <span class="quiet">Without an answer it passes on in {{ Math.ceil(bench.asked_seconds_left ?? 0) }} s.</span>
  </div>
  <p v-else-if="!mayMeasure" class="hold" role="status">
    <span
      ><strong>You are watching.</strong> Off is yours as everybody’s; the rest takes a technician or an engineer.</span
    >
  </p>
  <div v-else-if="theirs" class="hold" role="status">
    <span>
      <strong>{{ bench.holder }}</strong> is working at the bench; you are watching.
    </span>
    <span v-if="askedByMe" class="quiet">
      You have asked to take over; {{ Math.ceil(bench.asked_seconds_left ?? 0) }} s left to answer.
    </span>
    <a-button v-else-if="!bench.asked_by" size="small" :loading="pending" @click="ask">Ask to take over</a-button>
  </div>
  <p v-else-if="mine" class="quiet held">
    You hold the bench. <button class="plain" @click="leave">Leave it to others</button>
  </p>
  <ProblemNote v-if="problem" :error="problem" />
</template>

<style scoped>
.hold {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
  padding: 7px 12px;
  margin-bottom: 10px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.hold .quiet {
  color: inherit;
}
.asked {
  border-left: 3px solid var(--doubt);
}
.held {
  font-size: 13px;
}
.plain {
  font: inherit;
  color: inherit;
  background: none;
  border: none;
  padding: 0;
  cursor: pointer;
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
