<script setup lang="ts">
// A power that has an uncertainty: its ± U stands beside it on demand, and in its tip always.
import { computed } from 'vue'
import { spread, watts } from './format'
import { useSpreads } from './spreads'

const props = defineProps<{ value: number | null | undefined; u: number | null | undefined }>()
const { shown } = useSpreads()
const known = computed(() => props.value != null && props.u != null)
</script>

<template>
  <span :title="known ? `± ${spread(u)} W at 95 %` : undefined"
    >{{ watts(value) }}<span v-if="known && shown" class="quiet"> ± {{ spread(u) }}</span></span
  >
</template>
