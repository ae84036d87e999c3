<script setup lang="ts">
// In an open form: what somebody else has changed of the same thing meanwhile.
import { useChangedMeanwhile } from '../api/now'

const props = defineProps<{ subject: string; open: boolean }>()
const changes = useChangedMeanwhile(
  () => props.subject,
  () => props.open,
)
</script>

<template>
  <ul v-if="changes.length" class="changed" role="status">
    <li v-for="c in changes" :key="c.id">
      Meanwhile <strong>{{ c.person }}</strong> {{ c.action }}: {{ c.text }}. Look at it before you send this.
    </li>
  </ul>
</template>

<style scoped>
.changed {
  margin: 0 0 10px;
  padding: 8px 12px;
  list-style: none;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
</style>
