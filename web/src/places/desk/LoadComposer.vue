<script setup lang="ts">
// From the resistors on a shelf, the best networks for a wanted load, drawn.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useBenches } from '../../api/queries'
import { useAddress } from '../../kit/address'
import PickOne from '../../kit/PickOne.vue'
import TextField from '../../kit/TextField.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import NetworkPicture from './NetworkPicture.vue'

const props = defineProps<{ ohms: number; watts: number; tolerance: number }>()
const KEY = 'rulvek.shelf'
const route = useRoute()
const router = useRouter()
const shelf = computed({
  get: () => String(route.query.shelf ?? localStorage.getItem(KEY) ?? ''),
  set: (text) => {
    localStorage.setItem(KEY, text)
    void router.replace({ query: { ...route.query, shelf: text || undefined } })
  },
})
const written = ref<string | null>(shelf.value)
watch(shelf, (now) => (written.value = now))
/** Whose boxes are joined where nothing is typed. */
const { data: benches } = useBenches()
const bench = useAddress<string>('bench', '')
const choices = computed(() => (benches.value ?? []).map((one) => ({ value: one.name, label: one.name })))
const chosen = computed({
  get: () => choices.value.find((one) => one.value === bench.value)?.value ?? choices.value[0]?.value ?? null,
  set: (name) => (bench.value = name ?? ''),
})
const body = computed(() => ({
  ohms: props.ohms,
  watts: props.watts,
  tolerance: props.tolerance,
  shelf: shelf.value,
  bench: choices.value.some((one) => one.value === bench.value) ? bench.value : undefined,
}))
const { data: composed, error } = useQuery({
  queryKey: ['composed', body],
  enabled: computed(() => props.ohms > 0 && props.watts > 0 && props.tolerance > 0),
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () => answered(client.POST('/api/desk/loads/networks', { body: body.value })),
})
// A shelf that is remembered is in the address as well, so that a colleague sees the same.
watch(
  () => route.query.of,
  () => {
    const kept = localStorage.getItem(KEY)
    if (kept && !route.query.shelf) shelf.value = kept
  },
  { immediate: true },
)
</script>

<template>
  <!-- Taken when it is complete: a shelf that is half written is no shelf. -->
  <div class="from">
    <PickOne v-if="choices.length > 1" v-model="chosen" label="Boxes of" :choices="choices" :disabled="!!shelf" />
    <TextField
      v-model="written"
      class="shelf"
      label="Or what lies on the shelf"
      :max="500"
      placeholder="4 × 4 Ω 500 W; 2 × 8 Ω 300 W"
      @focusout="shelf = written ?? ''"
      @keydown.enter="shelf = written ?? ''"
    />
  </div>
  <p v-if="composed && !shelf" class="quiet">{{ chosen ?? 'The bench' }} has {{ composed.shelf }}.</p>
  <ProblemNote v-if="error" :error="error" />
  <template v-else-if="composed">
    <NetworkPicture v-for="(n, i) in composed.networks" :key="i" :network="n" />
    <p v-if="!composed.networks.length" class="none">
      Nothing on the shelf makes this load<template v-if="composed.too_weak">
        and stands the power; {{ composed.too_weak }} have the value but not the watts</template
      >.
    </p>
  </template>
</template>

<style scoped>
.from {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: end;
  padding: 14px 0 6px;
}
.shelf {
  display: grid;
  flex: 1 1 320px;
  gap: 2px;
  font-size: 14px;
}
.none {
  padding: 14px 0;
}
</style>
