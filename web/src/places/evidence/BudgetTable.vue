<script setup lang="ts">
// The uncertainty budget of a reading, the largest contribution first, down to U.
import type { BudgetView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { spread, watts } from '../../trade/format'

defineProps<{ budget: BudgetView }>()
const short = (value: number) => Number(value.toPrecision(3)).toString().replace('-', '−')
</script>

<template>
  <section class="section">
    <header>
      <h2>Uncertainty of the weakest reading</h2>
      <span class="quiet">after the GUM (JCGM 100); contributions are independent, the largest first</span>
    </header>
    <div class="scrolls">
      <table class="figures">
        <thead>
          <tr>
            <th scope="col">Contribution</th>
            <th class="num" scope="col">Value</th>
            <th scope="col">Distribution</th>
            <th class="num" scope="col">Half-width</th>
            <th class="num" scope="col">Divisor</th>
            <th class="num" scope="col">Sensitivity</th>
            <th class="num" scope="col">In W</th>
            <th class="num" scope="col">Degrees of freedom</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in budget.components" :key="c.name">
            <td>{{ c.name }}</td>
            <td class="num">{{ short(c.value) }} {{ c.unit }}</td>
            <td>{{ c.distribution }}</td>
            <td class="num">{{ short(c.half_width) }}</td>
            <td class="num">{{ figure(c.divisor, 2) }}</td>
            <td class="num">{{ short(c.sensitivity) }}</td>
            <td class="num">{{ figure(c.watts, 3) }}</td>
            <td class="num">{{ c.freedom === null ? 'not limited' : figure(c.freedom, 0) }}</td>
          </tr>
          <tr class="sum">
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
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.sum td {
  border-bottom: none;
}
</style>
