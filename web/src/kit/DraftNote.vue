<script setup lang="ts">
// Says that the same form was changed in another tab, and asks which counts.
defineProps<{ draft: { elsewhere: { value: object | null }; take: () => void; keep: () => void } }>()
</script>

<template>
  <p v-if="draft.elsewhere.value" class="elsewhere" role="status">
    This form was changed in another window.
    <a-button size="small" @click="draft.take()">Take what stands there</a-button>
    <a-button size="small" @click="draft.keep()">Keep this</a-button>
  </p>
</template>

<style scoped>
.elsewhere {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 0 0 10px;
  padding: 8px 12px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
</style>
