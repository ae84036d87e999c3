<script setup lang="ts">
// Asks once per browser who is working here.
import { ref, watch } from 'vue'
import { usePerson } from '../api/person'
import { useLayer } from '../kit/keys'

const { asking, name, answer } = usePerson()
const given = ref('')
useLayer(asking, () => answer(null))
watch(asking, (open) => {
  if (open) given.value = name.value
})
</script>

<template>
  <a-modal
    :open="asking"
    title="Who is working here?"
    ok-text="Keep this name"
    :ok-button-props="{ disabled: !given.trim() }"
    @ok="answer(given)"
    @cancel="answer(null)"
  >
    <p class="quiet">Your name is stored with every run, claim and decision you make from this browser.</p>
    <a-input
      v-model:value="given"
      class="name"
      :maxlength="80"
      aria-label="Your name"
      autofocus
      @press-enter="given.trim() && answer(given)"
    />
  </a-modal>
</template>

<style scoped>
.name {
  margin-top: 10px;
}
</style>
