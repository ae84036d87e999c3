<script setup lang="ts">
// Which run a reading from outside is of: mode, group, load and wiring.
import type { GroupView, Mode } from '../../api/types'

defineProps<{ groups: readonly GroupView[] }>()
const sheet = defineModel<{
  mode: Mode
  group: string
  load: number | ''
  load_measured: number | ''
  bridged: boolean
}>({ required: true })
const channels = (groups: readonly GroupView[]) =>
  (groups.find((g) => g.name === sheet.value.group) ?? groups[0])?.channels.length ?? 1
</script>

<template>
  <fieldset>
    <legend>Run</legend>
    <label>
      Mode
      <select v-model="sheet.mode">
        <option value="certified">Certified</option>
        <option value="uncertified">Uncertified</option>
        <option value="burst">Burst</option>
      </select>
    </label>
    <label v-if="groups.length > 1">
      Group
      <select v-model="sheet.group">
        <option v-for="g in groups" :key="g.name">{{ g.name }}</option>
      </select>
    </label>
    <label>Load, Ω <input v-model.number="sheet.load" type="number" step="any" min="0.1" required /></label>
    <label>Measured, Ω <input v-model.number="sheet.load_measured" type="number" step="any" min="0.1" /></label>
    <label v-if="channels(groups) > 1" class="check">
      <input v-model="sheet.bridged" type="checkbox" /> bridged pairs
    </label>
  </fieldset>
</template>
