<script setup lang="ts">
// In an open form: who else has one open on the same thing, and what they have changed of it meanwhile.
import { useChangedMeanwhile, useEditors } from '../api/now'

const props = defineProps<{ subject: string; open: boolean }>()
const changes = useChangedMeanwhile(
  () => props.subject,
  () => props.open,
)
const editors = useEditors(
  () => props.subject,
  () => props.open,
)
</script>

<template>
  <p v-if="editors.length" class="changed" role="status">
    <strong>{{ editors.join(' and ') }}</strong> {{ editors.length > 1 ? 'have' : 'has' }} this open, too.
  </p>
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
