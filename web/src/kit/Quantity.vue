<script setup lang="ts">
// A value with its expanded uncertainty, both to the same place; the U stands in its tip where it is not shown.
import { computed } from 'vue'
import { figure, withSpread } from './quantity'

const props = withDefaults(
  defineProps<{
    value: number | null | undefined
    expanded?: number | null
    unit: string
    /** How it is written where no U is known. */
    plain?: (value: number) => string
    /** Whether ± U stands beside it. */
    spread?: boolean
    /** The unit stands in the heading. */
    bare?: boolean
  }>(),
  { expanded: null, plain: (value: number) => figure(value, 2), spread: true },
)
const both = computed(() => (props.value == null ? null : withSpread(props.value, props.expanded)))
const text = computed(() => (props.value == null ? '–' : (both.value?.value ?? props.plain(props.value))))
</script>

<template>
  <span class="quantity" :title="both ? `± ${both.spread} ${unit} at 95 %` : undefined"
    >{{ text }}<span v-if="both && spread" class="quiet"> ± {{ both.spread }}</span
    ><template v-if="!bare">&nbsp;{{ unit }}</template></span
  >
</template>

<style scoped>
.quantity {
  white-space: nowrap;
}
</style>
