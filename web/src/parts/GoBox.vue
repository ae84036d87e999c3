<script setup lang="ts">
// Search and go: models, units and campaigns by any part of their names.
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useCampaigns, useLine } from '../api/queries'

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
const { data: line } = useLine(open)
const { data: campaigns } = useCampaigns(open)
const MOST = 9

const goals = computed<Goal[]>(() => [
  { name: 'Line', what: 'place', to: '/line' },
  { name: 'Bench', what: 'place', to: '/bench' },
  { name: 'Evidence', what: 'place', to: '/evidence' },
  { name: 'Gear', what: 'place', to: '/gear' },
  { name: 'Desk', what: 'place', to: '/desk' },
  ...(line.value?.series ?? [])
    .flatMap((s) => s.models)
    .map((m) => ({ name: m.name, what: m.description, to: `/models/${m.id}` })),
  ...(campaigns.value?.items ?? []).flatMap((c) => [
    { name: c.unit_serial, what: `unit, ${c.model_name}`, to: `/units/${c.unit_id}` },
    { name: `Campaign ${c.id}`, what: `${c.unit_serial}, sheet`, to: `/campaigns/${c.id}` },
    { name: `Campaign ${c.id}, live`, what: `${c.unit_serial}, bench`, to: `/campaigns/${c.id}/live` },
  ]),
])
const found = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  const unique = new Map(goals.value.map((goal) => [goal.to, goal]))
  return [...unique.values()]
    .filter((goal) => wanted.every((word) => `${goal.name} ${goal.what}`.toLowerCase().includes(word)))
    .slice(0, MOST)
})
watch(words, () => (picked.value = 0))

async function show() {
  open.value = true
  words.value = ''
  await nextTick()
  field.value?.focus()
}
function go(goal: Goal | undefined) {
  if (!goal) return
  open.value = false
  void router.push(goal.to)
}
function keyed(event: KeyboardEvent) {
  const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, select')
  const asked = (event.key.toLowerCase() === 'k' && (event.ctrlKey || event.metaKey)) || (event.key === '/' && !typing)
  if (!asked) return
  event.preventDefault()
  void show()
}
function chosen(event: KeyboardEvent) {
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (step) picked.value = Math.min(Math.max(0, picked.value + step), found.value.length - 1)
  else if (event.key === 'Enter') go(found.value[picked.value])
  else if (event.key === 'Escape') open.value = false
  else return
  event.preventDefault()
  event.stopPropagation() // Escape closes this box; it must not reach the bench as “off” without being meant
}
onMounted(() => window.addEventListener('keydown', keyed))
onUnmounted(() => window.removeEventListener('keydown', keyed))
</script>

<template>
  <button class="opener" @click="show">Go to … <kbd>/</kbd></button>
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
        aria-label="Model, unit or campaign"
        placeholder="Model, unit or campaign"
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
      <p v-if="!found.length" class="quiet none">Nothing by that name.</p>
    </div>
  </div>
</template>

<style scoped>
.opener {
  font: inherit;
  font-size: 14px;
  color: var(--ink-2);
  background: none;
  border: none;
  cursor: pointer;
  white-space: nowrap;
}
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
  font-size: 17px;
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
