<script setup lang="ts">
// By which rule verdicts are given, in words, to be changed on the spot.
import { useRule } from '../api/rule'

const rule = useRule()
</script>

<template>
  <label class="rule quiet">
    Judged by the
    <select v-model="rule" aria-label="Decision rule">
      <option value="guarded">guarded rule: ± U kept free</option>
      <option value="simple">simple rule: the figure as it is</option>
    </select>
  </label>
</template>

<style scoped>
.rule {
  display: inline-flex;
  align-items: baseline;
  gap: 6px;
  font-size: 14px;
  white-space: nowrap;
}
select {
  width: auto;
}
</style>
