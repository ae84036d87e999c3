<script setup lang="ts">
// A uPlot chart that follows its box, its data and the theme. Everything drawn comes from `options` and `data`.
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { onMounted, onUnmounted, ref, watch } from 'vue'
import { useThemeMode } from '../app/theme/mode'

const props = defineProps<{
  /** Made anew for each theme, so that colours are read afresh. */
  options: () => Omit<uPlot.Options, 'width' | 'height'>
  data: uPlot.AlignedData
  height: number
  /** What the chart shows, for those who do not see it. */
  label: string
}>()
const box = ref<HTMLElement>()
const { mode } = useThemeMode()
let plot: uPlot | null = null
let observer: ResizeObserver | null = null

function draw() {
  if (!box.value) return
  plot?.destroy()
  plot = new uPlot(
    { pxAlign: 0, ...props.options(), width: box.value.clientWidth, height: props.height },
    props.data,
    box.value,
  )
}

onMounted(async () => {
  // A canvas falls back to another font unless the wanted one is there already.
  await Promise.all([
    document.fonts.load('12px "Source Sans 3 Variable"'),
    document.fonts.load('12px "JetBrains Mono Variable"'),
  ])
  draw()
  observer = new ResizeObserver(() => {
    if (box.value) plot?.setSize({ width: box.value.clientWidth, height: props.height })
  })
  if (box.value) observer.observe(box.value)
})
onUnmounted(() => {
  observer?.disconnect()
  plot?.destroy()
})
watch(
  () => props.data,
  (data) => plot?.setData(data),
)
watch([mode, () => props.options, () => props.height], draw)
</script>

<template>
  <div ref="box" class="plot" role="img" :aria-label="label" />
</template>

<style scoped>
.plot {
  min-width: 0;
  /* Until it is drawn anew, a wider drawing does not widen the page. */
  overflow: hidden;
}
</style>
