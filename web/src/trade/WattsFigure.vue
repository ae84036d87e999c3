<script setup lang="ts">
// A power in a table whose heading has the unit; its ± U stands beside it on demand, in its tip always.
import Quantity from '../kit/Quantity.vue'
import { watts } from './format'
import { useSpreads } from './spreads'

defineProps<{ value: number | null | undefined; u?: number | null }>()
const { shown } = useSpreads()
</script>

<template>
  <Quantity :value="value" :expanded="u" unit="W" :plain="watts" :spread="shown" bare />
</template>
