<script setup lang="ts">
// Search and go: models, units and campaigns by any part of their names.
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useFound } from '../api/queries'
import { openLayers, useKeys, useLayer } from '../kit/keys'

interface Goal {
  name: string
  what: string
  to: string
}

const router = useRouter()
const open = ref(false)
const words = ref('')
const picked = ref(0)
const field = ref<HTMLInputElement>()
// Words for what is shown of a campaign are this box's own; the records know only its name.
const asked = computed(() => words.value.replace(/\b(live|sheet|bench)\b/gi, ' ').trim())
const { data: onRecord, isFetching } = useFound(asked, open)
// Enter was pressed before there was an answer: a fast typist does not lose it.
const eager = ref(false)
const MOST = 9
const PLACES: Goal[] = ['Line', 'Bench', 'Evidence', 'Gear', 'Desk', 'Words'].map((name) => ({
  name,
  what: 'place',
  to: `/${name.toLowerCase()}`,
}))

const goals = computed<Goal[]>(() => [
  ...PLACES,
  ...(onRecord.value ?? []).flatMap((one): Goal[] => {
    if (one.kind === 'model') return [{ name: one.name, what: one.of, to: `/models/${one.id}` }]
    if (one.kind === 'attempt') return [{ name: one.name, what: one.of, to: `/attempts/${one.id}` }]
    if (one.kind === 'claim') return [{ name: one.name, what: `claim, ${one.of}`, to: `/models/${one.model_id}` }]
    if (one.kind === 'instrument') return [{ name: one.name, what: one.of, to: '/gear' }]
    if (one.kind === 'unit') return [{ name: one.name, what: `unit, ${one.of}`, to: `/units/${one.id}` }]
    return [
      { name: one.name, what: `${one.of}, sheet`, to: `/campaigns/${one.id}` },
      { name: `${one.name}, live`, what: `${one.of}, bench`, to: `/campaigns/${one.id}/live` },
    ]
  }),
])
const found = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return goals.value
    .filter((goal) => wanted.every((word) => `${goal.name} ${goal.what}`.toLowerCase().includes(word)))
    .slice(0, MOST)
})
watch(words, () => {
  picked.value = 0
  eager.value = false
})
watch(isFetching, (busy) => {
  if (busy || !eager.value) return
  eager.value = false
  go(found.value[picked.value])
})

async function show() {
  open.value = true
  words.value = ''
  await nextTick()
  field.value?.focus()
}
function go(goal: Goal | undefined) {
  if (!goal || !open.value) return
  open.value = false
  void router.push(goal.to)
}
function chosen(event: KeyboardEvent) {
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (step) picked.value = Math.min(Math.max(0, picked.value + step), found.value.length - 1)
  else if (event.key === 'Enter' && !found.value.length) eager.value = isFetching.value
  else if (event.key === 'Enter') go(found.value[picked.value])
  else return
  event.preventDefault()
}
useKeys([
  { key: '/', does: 'go to anything on record', act: show },
  {
    key: 'Ctrl+k',
    shown: 'Ctrl+K',
    does: 'go to anything on record',
    act: show,
    when: () => openLayers.value === 0,
    always: true,
  },
])
useLayer(open, () => (open.value = false))
</script>

<template>
  <button class="bar-button" @click="show">Go to … <kbd>/</kbd></button>
  <div v-if="open" class="over" role="dialog" aria-label="Go to" @keydown="chosen" @click.self="open = false">
    <div class="box">
      <input
        ref="field"
        v-model="words"
        type="text"
        role="combobox"
        aria-expanded="true"
        aria-controls="goals"
        :aria-activedescendant="`goal-${picked}`"
        aria-label="Model, unit, campaign, attempt, document, instrument"
        placeholder="Model, unit, campaign, attempt, document, instrument"
      />
      <ul id="goals" role="listbox" aria-label="Found">
        <li
          v-for="(goal, index) in found"
          :id="`goal-${index}`"
          :key="goal.to"
          role="option"
          :aria-selected="index === picked"
          @click="go(goal)"
        >
          {{ goal.name }} <span class="quiet">{{ goal.what }}</span>
        </li>
      </ul>
      <p v-if="!found.length" class="quiet none">{{ isFetching ? 'Looking …' : 'Nothing by that name.' }}</p>
    </div>
  </div>
</template>

<style scoped>
.over {
  position: fixed;
  inset: 0;
  z-index: 20;
  background: rgb(0 0 0 / 25%);
}
.box {
  width: 520px;
  max-width: 92vw;
  margin: 90px auto 0;
  padding: 12px;
  background: var(--sheet);
  border: 1px solid var(--rule-strong);
}
input {
  width: 100%;
  padding: 8px 10px;
  font: inherit;
  font-size: 17px;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  padding: 5px 8px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--selected);
}
.none {
  padding: 8px;
}
</style>
