<script setup lang="ts">
// The keys of the bench.
defineProps<{ open: boolean }>()
const emit = defineEmits<{ cancel: [] }>()
</script>

<template>
  <a-modal :open="open" title="Keys on the bench" :footer="null" @cancel="emit('cancel')">
    <dl class="keylist">
      <dt><kbd>Space</kbd></dt>
      <dd>the next thing to do: see to an item, start, stop, go on</dd>
      <dt><kbd>Esc</kbd></dt>
      <dd>off: mute the source, switch the amplifier off</dd>
      <dt><kbd>N</kbd> <kbd>P</kbd></dt>
      <dd>next, previous run</dd>
      <dt><kbd>1</kbd> … <kbd>9</kbd></dt>
      <dd>jump to a wiring</dd>
      <dt><kbd>R</kbd></dt>
      <dd>repeat the run, with the reason</dd>
      <dt><kbd>C</kbd></dt>
      <dd>comment on the attempt</dd>
      <dt><kbd>Shift+U</kbd></dt>
      <dd>every watt with its ± U</dd>
      <dt><kbd>Shift+D</kbd></dt>
      <dd>paper or dark</dd>
      <dt><kbd>/</kbd> <kbd>Ctrl+K</kbd></dt>
      <dd>go to a model, unit or campaign</dd>
      <dt><kbd>Ctrl+Enter</kbd></dt>
      <dd>in the planner: take the plan to the bench</dd>
    </dl>
  </a-modal>
</template>

<style scoped>
.keylist {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 8px 16px;
}
.keylist dd {
  margin: 0;
}
</style>
