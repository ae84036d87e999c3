<script setup lang="ts">
// The uncertainty budget of a reading, the largest contribution first, down to U.
import type { BudgetView } from '../../api/types'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { figure } from '../../kit/quantity'
import { spread, watts } from '../../trade/format'

defineProps<{ budget: BudgetView }>()
const short = (value: number) => Number(value.toPrecision(3)).toString().replace('-', '−')
const COLUMNS: Column<BudgetView['components'][number]>[] = [
  { key: 'name', head: 'Contribution', text: (c) => c.name },
  { key: 'value', head: 'Value', text: (c) => `${short(c.value)} ${c.unit}`, num: true },
  { key: 'distribution', head: 'Distribution', text: (c) => c.distribution },
  {
    key: 'half_width',
    head: 'Half-width',
    text: (c) => `${short(c.half_width)} ${c.unit}`,
    value: (c) => c.half_width,
    num: true,
  },
  { key: 'divisor', head: 'Divisor', text: (c) => figure(c.divisor, 2), value: (c) => c.divisor, num: true },
  {
    key: 'sensitivity',
    head: 'Sensitivity',
    text: (c) => short(c.sensitivity),
    value: (c) => c.sensitivity,
    num: true,
  },
  {
    key: 'watts',
    head: 'Standard uncertainty',
    unit: 'W',
    text: (c) => figure(c.watts, 3),
    value: (c) => c.watts,
    num: true,
  },
  {
    key: 'freedom',
    head: 'Degrees of freedom',
    text: (c) => (c.freedom === null ? 'not limited' : figure(c.freedom, 0)),
    num: true,
  },
]
</script>

<template>
  <section class="section">
    <header>
      <h2>Uncertainty of the weakest reading</h2>
      <span class="quiet">after the GUM (JCGM 100); contributions are independent, the largest first</span>
    </header>
    <DataTable :id="(c) => c.name" name="Uncertainty budget" :rows="budget.components" :columns="COLUMNS" fixed>
      <template #foot>
        <tr>
          <td colspan="6">
            Combined; k = {{ figure(budget.coverage_factor, 2) }} from Student's t at 95 %
            <template v-if="budget.freedom !== null">
              with {{ figure(budget.freedom, 0) }} effective degrees of freedom</template
            >
          </td>
          <td class="num">{{ figure(budget.standard_watts, 3) }}</td>
          <td class="num">
            <strong>{{ watts(budget.watts, budget.expanded_watts) }} ± {{ spread(budget.expanded_watts) }} W</strong>
          </td>
        </tr>
      </template>
    </DataTable>
  </section>
</template>
