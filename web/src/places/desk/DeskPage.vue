<script setup lang="ts">
// The desk: small calculators on the same core as everything else. What is typed stays in the address, to be shared.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import LoadComposer from './LoadComposer.vue'
import TestTones from './TestTones.vue'
import ToUnit from './ToUnit.vue'

const route = useRoute()
const router = useRouter()
const {
  data: calculators,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['desk'],
  staleTime: Infinity,
  queryFn: () => answered(client.GET('/api/desk')),
})
const chosen = computed(
  () => calculators.value?.find((c) => c.name === route.query.of) ?? calculators.value?.[0] ?? null,
)
const tones = computed(() => route.query.of === 'tones')
/** Calculators whose volts can become a reading. */
const SORTS = { power: 'volts_rms', peak: 'volts_peak' } as const
const sort = computed(() => SORTS[chosen.value?.name as keyof typeof SORTS] ?? null)
const asked = (name: string) => {
  const text = route.query[name]
  return typeof text === 'string' && text !== '' && Number.isFinite(Number(text)) ? Number(text) : null
}
/** Typed numbers by field; examples stand in until somebody types. */
const typed = ref<Record<string, number | null>>({})
watch(
  chosen,
  (calculator) => {
    const fields = calculator?.fields ?? []
    typed.value = Object.fromEntries(fields.map((f) => [f.name, asked(f.name) ?? f.example]))
  },
  { immediate: true },
)
watch(
  typed,
  (values) => {
    if (chosen.value && !tones.value) {
      const { shelf } = route.query
      void router.replace({ query: { of: chosen.value.name, ...values, ...(shelf ? { shelf } : {}) } })
    }
  },
  { deep: true },
)
/** All of them, once all of them are numbers. */
const values = computed(() => {
  const all = Object.entries(typed.value)
  const told = all.filter((one): one is [string, number] => one[1] !== null)
  return told.length === all.length ? Object.fromEntries(told) : {}
})
const { data: results, error: refused } = useQuery({
  queryKey: ['desk', () => chosen.value?.name, values],
  enabled: computed(() => chosen.value !== null && Object.keys(values.value).length > 0),
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () =>
    answered(
      client.POST('/api/desk/{name}', {
        params: { path: { name: chosen.value!.name } },
        body: { values: values.value },
      }),
    ),
})
const choose = (name: string) => router.replace({ query: { of: name } })
</script>

<template>
  <PageFrame
    :title="tones ? 'Test tones' : (chosen?.title ?? 'Desk')"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template #head><h1>Desk</h1></template>
  </PageFrame>
  <div v-if="chosen" class="two">
    <nav aria-label="Calculators">
      <button
        v-for="c in calculators"
        :key="c.name"
        :aria-current="c.name === chosen.name && !tones ? 'true' : undefined"
        @click="choose(c.name)"
      >
        {{ c.title }}
      </button>
      <button :aria-current="tones ? 'true' : undefined" @click="choose('tones')">Test tones</button>
    </nav>
    <section v-if="tones"><TestTones /></section>
    <section v-else>
      <h2>{{ chosen.title }}</h2>
      <p class="formula">
        <span class="mono">{{ chosen.formula }}</span> <span class="quiet">{{ chosen.source }}</span>
      </p>
      <form @submit.prevent>
        <NumberField
          v-for="f in chosen.fields"
          :key="`${chosen.name} ${f.name}`"
          v-model="typed[f.name]!"
          :label="f.words"
          required
          :problem="saysOf(refused, f.name)"
        />
      </form>
      <ProblemNote v-if="refused" :error="refused" />
      <dl v-else aria-live="polite">
        <template v-for="r in results" :key="r.words">
          <dt>{{ r.words }}</dt>
          <dd>{{ r.value }}</dd>
        </template>
      </dl>
      <LoadComposer
        v-if="chosen.name === 'loads'"
        :ohms="values.ohms ?? 0"
        :watts="values.watts ?? 0"
        :tolerance="values.tolerance ?? 0"
      />
      <ToUnit v-if="sort" :volts="String(typed[sort] ?? '')" :sort="sort" :ohms="String(typed.ohms ?? '')" />
      <p v-if="chosen.caution" class="caution">{{ chosen.caution }}</p>
    </section>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(160px, 220px) minmax(0, 760px);
  gap: 44px;
  padding-top: 14px;
}
nav {
  display: grid;
  align-content: start;
}
nav button {
  font: inherit;
  text-align: left;
  color: inherit;
  background: none;
  border: none;
  border-left: 3px solid transparent;
  border-bottom: 1px solid var(--rule);
  padding: 7px 10px;
  cursor: pointer;
}
nav button:hover {
  background: var(--hover);
}
nav button[aria-current] {
  background: var(--selected);
  border-left-color: var(--certified);
}
.formula {
  padding: 4px 0 14px;
}
.formula .quiet {
  margin-left: 12px;
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
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 8px 26px;
  align-items: baseline;
  margin: 20px 0;
  padding-top: 14px;
  border-top: 1px solid var(--rule-strong);
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  font-family: var(--mono);
  font-size: 18px;
}
.caution {
  padding: 6px 10px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
    gap: 16px;
  }
}
</style>
