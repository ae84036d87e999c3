<script setup lang="ts">
// A photograph with its numbered markers: a click puts the next one, each carries a part; arrow keys move the chosen one.
import { ref } from 'vue'
import { PHOTOGRAPHS, fileAt } from '../../api/kept'
import type { PhotographView } from '../../api/kept'
import TextField from '../../kit/TextField.vue'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'
import { SIDES } from './words'

const props = defineProps<{ unit: number; kept: PhotographView; mayChange: boolean }>()
const emit = defineEmits<{ close: [] }>()
const form = useKeptForm(
  {
    kind: PHOTOGRAPHS,
    of: props.unit,
    kept: props.kept,
    blank: props.kept.entry,
    toDraft: (entry) => entry,
    toEntry: (draft) => draft,
  },
  () => emit('close'),
)
const { draft, says } = form
const chosen = ref<number | null>(null)
const STEP = 0.01
const within = (share: number) => Math.min(1, Math.max(0, Math.round(share * 1e4) / 1e4))

function put(event: MouseEvent) {
  if (!props.mayChange) return
  const frame = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const x = within((event.clientX - frame.left) / frame.width)
  const y = within((event.clientY - frame.top) / frame.height)
  draft.value.markers.push({ x, y, part: '' })
  chosen.value = draft.value.markers.length - 1
}
function putInTheMiddle() {
  draft.value.markers.push({ x: 0.5, y: 0.5, part: '' })
  chosen.value = draft.value.markers.length - 1
}
function move(event: KeyboardEvent, at: number) {
  const [dx, dy] = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] }[
    event.key
  ] ?? [0, 0]
  if (!props.mayChange || (!dx && !dy)) return
  event.preventDefault()
  const marker = draft.value.markers[at]!
  marker.x = within(marker.x + dx!)
  marker.y = within(marker.y + dy!)
}
</script>

<template>
  <KeptDialog
    :form="form"
    :title="kept.entry.caption || kept.entry.place || 'Photograph'"
    :act="mayChange ? 'Keep it' : 'Close'"
    :hint="mayChange ? 'A click on the picture puts a marker; arrow keys move the one that has the focus.' : ''"
    :width="980"
    @close="emit('close')"
  >
    <div class="wide picture" @click="put">
      <img :src="fileAt(kept.entry.file)" :alt="draft.caption || draft.place || 'Photograph'" />
      <button
        v-for="(marker, at) in draft.markers"
        :key="at"
        type="button"
        class="marker mono"
        :class="{ chosen: chosen === at }"
        :style="{ left: `${marker.x * 100}%`, top: `${marker.y * 100}%` }"
        :aria-label="`Marker ${at + 1}: ${marker.part || 'no part yet'}`"
        @click.stop="chosen = at"
        @focus="chosen = at"
        @keydown="move($event, at)"
      >
        {{ at + 1 }}
      </button>
    </div>
    <ol class="wide parts">
      <li v-for="(marker, at) in draft.markers" :key="at" :class="{ chosen: chosen === at }">
        <span class="marker mono" aria-hidden="true">{{ at + 1 }}</span>
        <TextField
          v-if="mayChange"
          v-model="marker.part"
          bare
          :label="`Part at marker ${at + 1}`"
          :max="200"
          placeholder="Fuse 2, not in circuit"
          @focusin="chosen = at"
        />
        <span v-else>{{ marker.part }}</span>
        <a-button
          v-if="mayChange"
          size="small"
          type="text"
          :aria-label="`Drop marker ${at + 1}`"
          @click="draft.markers.splice(at, 1)"
          >Drop</a-button
        >
      </li>
    </ol>
    <template v-if="mayChange">
      <a-button class="wide add" size="small" @click="putInTheMiddle">Put a marker in the middle</a-button>
      <TextField v-model="draft.caption" label="Caption" :max="200" :problem="says('caption')" />
      <div>
        <TextField v-model="draft.place" label="Place on the unit" :max="80" :problem="says('place')" />
        <div class="sides">
          <a-button v-for="side in SIDES" :key="side" size="small" type="text" @click="draft.place = side">{{
            side
          }}</a-button>
        </div>
      </div>
    </template>
  </KeptDialog>
</template>

<style scoped>
.picture {
  position: relative;
  justify-self: center;
  line-height: 0;
  cursor: crosshair;
}
.picture img {
  max-width: 100%;
  max-height: 56vh;
}
.marker {
  display: grid;
  place-items: center;
  min-width: 24px;
  height: 24px;
  padding: 0;
  border: 2px solid #fff;
  background: #1f272d;
  color: #fff;
  font-size: 13px;
  line-height: 1;
}
.picture .marker {
  position: absolute;
  transform: translate(-50%, -50%);
  cursor: pointer;
}
.chosen .marker,
.marker.chosen {
  background: var(--supply);
}
.parts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(380px, 100%), 1fr));
  gap: 0 24px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.parts li {
  display: grid;
  grid-template-columns: 28px 1fr auto;
  gap: 8px;
  align-items: center;
  padding: 3px 0;
}
.add {
  justify-self: start;
}
.text-field {
  align-self: start;
}
.sides {
  display: flex;
  flex-wrap: wrap;
}
</style>
