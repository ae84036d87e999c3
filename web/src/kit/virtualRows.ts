// Of a long table only the rows about what is looked at are drawn; all of them for print.
import { useWindowVirtualizer } from '@tanstack/vue-virtual'
import { computed, onMounted, onUnmounted, ref, watchPostEffect } from 'vue'
import type { Ref } from 'vue'

/** Shorter tables are drawn as a whole: they can be searched by the browser and read from end to end. */
export const VIRTUAL_FROM = 120
const ROW_PX = 37
const BEYOND = 25

/** One row to draw: its place among all of them. */
export interface DrawnRow {
  index: number
}

/**
 * Which rows of a table to draw, and the room to leave for those above and below.
 *
 * @param count how many rows there are
 * @param body the table's body
 */
export function useVirtualRows(count: () => number, body: Ref<HTMLElement | null>) {
  const printing = ref(false)
  const isLong = computed(() => count() > VIRTUAL_FROM && !printing.value)
  const top = ref(0)
  const rows = useWindowVirtualizer(
    computed(() => ({
      count: isLong.value ? count() : 0,
      estimateSize: () => ROW_PX,
      overscan: BEYOND,
      scrollMargin: top.value,
    })),
  )
  // What lies above the table comes and goes.
  watchPostEffect(() => {
    if (isLong.value && body.value) top.value = body.value.getBoundingClientRect().top + window.scrollY
  })
  const drawn = computed<DrawnRow[]>(() =>
    isLong.value ? rows.value.getVirtualItems() : Array.from({ length: count() }, (_, index) => ({ index })),
  )
  const above = computed(() => {
    const [first] = isLong.value ? rows.value.getVirtualItems() : []
    return first ? first.start - top.value : 0
  })
  const below = computed(() => {
    const last = isLong.value ? rows.value.getVirtualItems().at(-1) : undefined
    return last ? rows.value.getTotalSize() - (last.end - top.value) : 0
  })
  const begins = () => (printing.value = true)
  const ends = () => (printing.value = false)
  onMounted(() => {
    addEventListener('beforeprint', begins)
    addEventListener('afterprint', ends)
  })
  onUnmounted(() => {
    removeEventListener('beforeprint', begins)
    removeEventListener('afterprint', ends)
  })
  /** To be told of each row that is drawn: rows are as high as what stands in them. */
  const measure = (row: unknown) => {
    if (isLong.value && row instanceof Element) rows.value.measureElement(row)
  }
  return { isLong, drawn, above, below, measure }
}
