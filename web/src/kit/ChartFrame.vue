<script setup lang="ts">
// What every chart has: its title, the same data as a table, and ways to take it along.
import { computed, ref } from 'vue'
import { csvOf, download } from './csv'
import { figure } from './quantity'
import { svgOf } from './svg'

/** A column of the data that is drawn: the first one is what it is drawn against. */
export interface Trace {
  head: string
  unit: string
  values: readonly (number | null)[]
  decimals?: number
  /** What each value stands for, told in its place. */
  names?: readonly string[]
}
const props = defineProps<{
  title: string
  traces: readonly Trace[]
  /** The first axis by decades. */
  log?: boolean
}>()
const asTable = ref(false)
const box = ref<HTMLElement>()
const MOST_ROWS = 400
const count = computed(() => props.traces[0]?.values.length ?? 0)
/** Long traces are thinned evenly in the table; all of them are taken along. */
const shown = computed(() => {
  const stride = Math.max(1, Math.ceil(count.value / MOST_ROWS))
  return Array.from({ length: Math.ceil(count.value / stride) }, (_, i) => i * stride)
})
const heads = computed(() => props.traces.map((t) => [t.head, t.unit].filter(Boolean).join(', ')))
const file = (ending: string) => `${props.title.toLowerCase().replace(/[^a-z0-9]+/g, '-')}.${ending}`

function takeCsv() {
  const rows = Array.from({ length: count.value }, (_, i) => props.traces.map((t) => t.names?.[i] ?? t.values[i]))
  download(file('csv'), csvOf([heads.value, ...rows]), 'text/csv;charset=utf-8')
}
const drawing = () => svgOf(props.title, props.traces, !!props.log)
const takeSvg = () => download(file('svg'), drawing(), 'image/svg+xml')
/** The same drawing, ink on white, as a picture of twice its size. */
function takePng() {
  const image = new Image()
  image.onload = () => {
    const canvas = document.createElement('canvas')
    ;[canvas.width, canvas.height] = [image.width * 2, image.height * 2]
    canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height)
    canvas.toBlob((blob) => blob && download(file('png'), blob, 'image/png'))
  }
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(drawing())}`
}
</script>

<template>
  <figure class="chart-frame">
    <div v-if="asTable" class="scrolls rows" role="region" :aria-label="`${title} as a table`" tabindex="0">
      <table class="figures">
        <thead>
          <tr>
            <th v-for="head in heads" :key="head" class="num" scope="col">{{ head }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in shown" :key="i">
            <td v-for="t in traces" :key="t.head" class="num">
              {{ t.names?.[i] ?? figure(t.values[i], t.decimals ?? 3) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-else ref="box"><slot /></div>
    <figcaption class="no-print">
      <button :aria-pressed="asTable" @click="asTable = !asTable">{{ asTable ? 'Chart' : 'Table' }}</button>
      <button @click="takeCsv">CSV</button>
      <button @click="takeSvg">SVG</button>
      <button @click="takePng">PNG</button>
    </figcaption>
  </figure>
</template>

<style scoped>
.chart-frame {
  margin: 0;
  min-width: 0;
}
.rows {
  max-height: 340px;
  overflow-y: auto;
}
figcaption {
  display: flex;
  gap: 12px;
  justify-content: flex-end;
}
figcaption button {
  font: inherit;
  font-size: 13px;
  color: var(--ink-2);
  background: none;
  border: none;
  padding: 4px 2px;
  min-height: 24px;
  cursor: pointer;
}
figcaption button:hover {
  color: var(--ink);
  text-decoration: underline;
}
</style>
