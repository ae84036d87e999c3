<script setup lang="ts">
// A password with its label, to be looked at on demand: a long one is seldom typed right unseen.
import { ref, useId } from 'vue'

defineProps<{ label: string; fresh?: boolean; problem?: string }>()
const value = defineModel<string>({ required: true })
const id = useId()
const isShown = ref(false)
</script>

<template>
  <div class="password-field">
    <label :for="id">{{ label }}</label>
    <span class="row">
      <a-input
        :id="id"
        v-model:value="value"
        :type="isShown ? 'text' : 'password'"
        :maxlength="200"
        :status="problem ? 'error' : ''"
        :aria-invalid="problem ? 'true' : undefined"
        :aria-describedby="problem ? `${id}-told` : undefined"
        :autocomplete="fresh ? 'new-password' : 'current-password'"
      />
      <a-button :aria-pressed="isShown" :aria-label="`Show the ${label.toLowerCase()}`" @click="isShown = !isShown">
        {{ isShown ? 'Hide' : 'Show' }}
      </a-button>
    </span>
    <p v-if="problem" :id="`${id}-told`" class="told" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.password-field {
  display: grid;
  gap: 2px;
  font-size: 14px;
}
.row {
  display: flex;
  gap: 6px;
}
.told {
  margin: 0;
  font-size: 13px;
  color: var(--danger);
}
</style>
