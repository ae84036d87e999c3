<script setup lang="ts">
// By which rule the verdicts of this page are given, in words, to be changed on the spot.
import { computed, defineAsyncComponent } from 'vue'
import { RULES, RULE_WORDS, useRule } from '../api/rule'
import type { DecisionRule } from '../api/types'

// The list to choose from is the largest part of the first page's script: the page is drawn before it comes.
const PickOne = defineAsyncComponent(() => import('../kit/PickOne.vue'))

const props = defineProps<{
  /** The rule that one campaign is judged by; none where there are several. */
  inForce?: DecisionRule
}>()
const rule = useRule()
const words = (one: DecisionRule) =>
  one === 'as_stored' && props.inForce && rule.value === 'as_stored'
    ? `${RULE_WORDS[props.inForce]} (stored with the campaign)`
    : RULE_WORDS[one]
const choices = computed(() => RULES.map((one) => ({ value: one, label: words(one) })))
function choose(picked: DecisionRule | null) {
  if (picked) rule.value = picked
}
</script>

<template>
  <span class="rule quiet">
    Judged by the
    <PickOne
      class="no-print"
      bare
      label="Decision rule"
      :choices="choices"
      :model-value="rule"
      @update:model-value="choose"
    />
    <strong class="print-only">{{ words(rule) }}</strong>
  </span>
</template>

<style scoped>
.rule {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  flex-wrap: wrap;
  font-size: 14px;
}
.rule :deep(.ant-select) {
  min-width: 250px;
}
.print-only {
  display: none;
}
@media print {
  .print-only {
    display: inline;
  }
}
</style>
