<script setup lang="ts">
// Photographs of a unit: taken on the spot or chosen, several at once; each opens with its markers.
import { computed, ref } from 'vue'
import { PHOTOGRAPHS, fileAt, useKept } from '../../api/kept'
import type { PhotographView } from '../../api/kept'
import { useAct } from '../../kit/act'
import FileButton from '../../kit/FileButton.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import PhotographDialog from './PhotographDialog.vue'
import { sendPhotograph } from './photographs'

const props = defineProps<{ unit: number; mayChange: boolean }>()
const { open: photographs } = useKept(PHOTOGRAPHS, () => props.unit)
const shown = ref<PhotographView | null>(null)
const left = ref(0)
const { act, pending, problem } = useAct(
  async (chosen: File[]) => {
    left.value = chosen.length
    for (const file of chosen) {
      await sendPhotograph(props.unit, file, file.name)
      left.value -= 1
    }
  },
  { takesLong: true },
)
const words = computed(() =>
  pending.value ? `${left.value} left to send` : photographs.value.length ? `${photographs.value.length}` : '',
)
</script>

<template>
  <section class="section">
    <header>
      <h2>Photographs</h2>
      <span class="quiet" role="status">{{ words }}</span>
      <span class="spacer" />
      <FileButton v-if="mayChange" label="Add photographs" accept="image/*" multiple :disabled="pending" @files="act" />
    </header>
    <ProblemNote v-if="problem" :error="problem" />
    <p v-if="!photographs.length" class="quiet empty">
      None yet. Outside, terminals, label and carton first; where a picture was taken is not kept.
    </p>
    <ul v-else class="pictures">
      <li v-for="one in photographs" :key="one.id">
        <button type="button" @click="shown = one">
          <img :src="fileAt(one.entry.file, true)" :alt="one.entry.caption || one.entry.place || 'Photograph'" />
          <span>{{ one.entry.caption || one.entry.place || 'no caption' }}</span>
          <span v-if="one.entry.markers.length" class="quiet">{{ one.entry.markers.length }} marked</span>
        </button>
      </li>
    </ul>
    <PhotographDialog
      v-if="shown"
      :key="shown.id"
      :unit="unit"
      :kept="shown"
      :may-change="mayChange"
      @close="shown = null"
    />
  </section>
</template>

<style scoped>
.pictures {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 14px;
  margin: 12px 0 0;
  padding: 0;
  list-style: none;
}
.pictures button {
  display: grid;
  gap: 2px;
  width: 100%;
  padding: 0 0 6px;
  font: inherit;
  font-size: 14px;
  color: var(--ink);
  text-align: left;
  background: var(--sheet);
  border: 1px solid var(--rule);
  cursor: zoom-in;
}
.pictures button > span {
  padding: 0 8px;
}
.pictures img {
  width: 100%;
  aspect-ratio: 4 / 3;
  object-fit: cover;
}
.empty {
  padding: 14px 0;
}
</style>
