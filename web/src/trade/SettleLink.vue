<script setup lang="ts">
// What run would settle a verdict, as a link that adds that run to a plan of the unit.
import { computed } from 'vue'
import type { VerdictView } from '../api/types'
import { planWith } from './planWith'

const props = defineProps<{ verdict: VerdictView; unitId: number }>()
const to = computed(() => planWith(props.unitId, props.verdict.settling_runs, props.verdict.settling_limit))
</script>

<template>
  <span v-if="verdict.settle" class="settle quiet">
    Would settle it: {{ verdict.settle }}
    <RouterLink v-if="verdict.settling_runs.length" :to="to">{{
      verdict.settling_runs.length > 1 ? 'Add those runs to a plan' : 'Add that run to a plan'
    }}</RouterLink>
  </span>
</template>

<style scoped>
.settle a {
  text-decoration: underline;
}
.settle {
  display: block;
  font-size: 14px;
}
</style>
