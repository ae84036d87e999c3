<script setup lang="ts">
// Asks once per browser who is working here.
import { ref, watch } from 'vue'
import FormDialog from './FormDialog.vue'
import { useWho } from './who'

const { asking, name, answer } = useWho()
const given = ref('')
watch(
  asking,
  (open) => {
    if (open) given.value = name.value
  },
  { immediate: true },
)
</script>

<template>
  <FormDialog
    :open="asking"
    title="Who is working here?"
    act="Keep this name"
    hint="Your name is stored with every run, claim and decision you make from this browser."
    :ready="!!given.trim()"
    @done="answer(given)"
    @cancel="answer(null)"
  >
    <a-input v-model:value="given" :maxlength="80" aria-label="Your name" />
  </FormDialog>
</template>
