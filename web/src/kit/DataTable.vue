<script setup lang="ts" generic="Row extends object">
// A table of records: sorted and filtered on the spot, the whole row a link, read on page by page, taken along as CSV.
import { FlexRender, createColumnHelper, getCoreRowModel, getSortedRowModel, useVueTable } from '@tanstack/vue-table'
import type { SortingState } from '@tanstack/vue-table'
import { computed, h, ref } from 'vue'
import type { VNode } from 'vue'
import { useAddress } from './address'
import { csvOf, download } from './csv'
import { headOf, rawOf } from './columns'
import type { Column } from './columns'
import { useVirtualRows } from './virtualRows'

const props = defineProps<{
  /** What the table is of; read aloud, and the name of the file it is taken along as. */
  name: string
  rows: readonly Row[]
  columns: readonly Column<Row>[]
  id: (row: Row) => string | number
  /** Where a row leads; the whole row is the link. */
  to?: (row: Row) => string | undefined
  /** How a row is set apart, as classes. */
  marked?: (row: Row) => string | undefined
  /** What is read on: whether there is more, and whether it is on its way. */
  more?: { has: boolean; loading: boolean }
  /** What the button for more says. */
  moreWords?: string
  /** Rows keep the order that they come in. */
  fixed?: boolean
  /** Where the order stands in the address, where a page has several tables. */
  sortName?: string
  /** Nothing to take along. */
  plain?: boolean
}>()
const emit = defineEmits<{ more: [] }>()
/** A slot of a column's key shows its cells; `foot` are rows of what they come to. */
const slots = defineSlots<{ foot?: () => VNode[] } & Record<string, ((props: { row: Row }) => VNode[]) | undefined>>()

/** `watts` up, `-watts` down; empty as the rows come. */
const order = useAddress<string>(props.sortName ?? 'sort', '')
const sorting = computed<SortingState>(() => {
  if (props.fixed) return []
  const id = order.value.replace(/^-/, '')
  return props.columns.some((c) => c.key === id) ? [{ id, desc: order.value.startsWith('-') }] : []
})
const helper = createColumnHelper<Row>()
const table = useVueTable({
  get data() {
    return props.rows as Row[]
  },
  get columns() {
    return props.columns.map((c) =>
      helper.accessor((row) => rawOf(c, row) ?? undefined, {
        id: c.key,
        header: () => headOf(c),
        cell: ({ row }) => (slots[c.key] ? h('span', slots[c.key]!({ row: row.original })) : c.text(row.original)),
        enableSorting: !props.fixed && !c.unsorted,
        sortUndefined: 'last',
      }),
    )
  },
  getRowId: (row) => String(props.id(row)),
  state: {
    get sorting() {
      return sorting.value
    },
  },
  onSortingChange: (change) => {
    const [next] = typeof change === 'function' ? change(sorting.value) : change
    order.value = next ? (next.desc ? '-' : '') + next.id : ''
  },
  getCoreRowModel: getCoreRowModel(),
  getSortedRowModel: getSortedRowModel(),
})
const body = ref<HTMLElement | null>(null)
const { isLong, drawn, above, below, measure } = useVirtualRows(() => props.rows.length, body)
const shown = computed(() => {
  const all = table.getRowModel().rows
  return drawn.value.flatMap(({ index }) => (all[index] ? [{ index, row: all[index] }] : []))
})
const column = (key: string) => props.columns.find((c) => c.key === key)!
const SORTED = { asc: 'ascending', desc: 'descending' } as const

function take() {
  const rows = table.getRowModel().rows.map((row) => props.columns.map((c) => rawOf(c, row.original)))
  const file = props.name.toLowerCase().replace(/[^a-z0-9]+/g, '-')
  download(`${file}.csv`, csvOf([props.columns.map(headOf), ...rows]), 'text/csv;charset=utf-8')
}
</script>

<template>
  <div class="data-table">
    <table class="figures" :aria-rowcount="isLong ? rows.length + 1 : undefined">
      <caption class="visually-hidden">
        {{
          name
        }}
      </caption>
      <thead>
        <tr>
          <th
            v-for="head in table.getFlatHeaders()"
            :key="head.id"
            scope="col"
            :class="{ num: column(head.id).num }"
            :aria-sort="head.column.getIsSorted() ? SORTED[head.column.getIsSorted() as 'asc'] : undefined"
          >
            <button
              v-if="head.column.getCanSort()"
              class="sort"
              :title="`Sort by ${column(head.id).head || column(head.id).key}`"
              @click="head.column.toggleSorting()"
            >
              {{ headOf(column(head.id))
              }}<span class="arrow" aria-hidden="true">{{
                { asc: '▲', desc: '▼', none: '' }[head.column.getIsSorted() || 'none']
              }}</span>
            </button>
            <template v-else>{{ headOf(column(head.id)) }}</template>
          </th>
        </tr>
      </thead>
      <tbody ref="body">
        <tr v-if="above" aria-hidden="true" :style="{ height: `${above}px` }"></tr>
        <tr
          v-for="{ row, index: at } in shown"
          :ref="measure"
          :key="row.id"
          :data-index="at"
          :aria-rowindex="isLong ? at + 2 : undefined"
          :class="[marked?.(row.original), { leads: to?.(row.original) }]"
        >
          <td
            v-for="(one, index) in row.getVisibleCells()"
            :key="one.id"
            :class="[column(one.column.id).look, { num: column(one.column.id).num }]"
          >
            <RouterLink v-if="index === 0 && to?.(row.original)" class="whole" :to="to(row.original)!">
              <FlexRender :render="one.column.columnDef.cell" :props="one.getContext()" />
            </RouterLink>
            <FlexRender v-else :render="one.column.columnDef.cell" :props="one.getContext()" />
          </td>
        </tr>
        <tr v-if="below" aria-hidden="true" :style="{ height: `${below}px` }"></tr>
      </tbody>
      <tfoot v-if="slots.foot">
        <slot name="foot" />
      </tfoot>
    </table>
    <footer class="no-print">
      <a-button v-if="more?.has" :loading="more.loading" @click="emit('more')">{{ moreWords ?? 'Show more' }}</a-button>
      <button v-if="!plain && rows.length" class="take" @click="take">Take along as CSV</button>
    </footer>
  </div>
</template>

<style scoped>
.data-table {
  position: relative;
  overflow-x: auto;
}
.sort {
  font: inherit;
  color: inherit;
  background: none;
  border: none;
  padding: 0;
  cursor: pointer;
  text-align: inherit;
  white-space: normal;
}
.sort:hover {
  color: var(--ink);
}
.arrow {
  font-size: 9px;
  margin-left: 4px;
}
.leads {
  position: relative;
}
.leads:hover {
  background: var(--hover);
}
/* The link of the first cell lies over its whole row. */
.whole::after {
  content: '';
  position: absolute;
  inset: 0;
}
.leads :deep(td a:not(.whole)),
.leads :deep(td button) {
  position: relative;
  z-index: 1;
}
td.nowrap {
  white-space: nowrap;
}
footer {
  display: flex;
  gap: 16px;
  align-items: center;
  padding: 8px 0 2px;
}
.take {
  font: inherit;
  font-size: 13px;
  color: var(--ink-2);
  background: none;
  border: none;
  padding: 4px 0;
  cursor: pointer;
  margin-left: auto;
}
.take:hover {
  color: var(--ink);
  text-decoration: underline;
}
</style>
