<script setup lang="ts">
// What a plan costs: runs, wirings, rewirings and time.
import { computed } from 'vue'
import type { PlanView } from '../../api/types'
import { counted, minutes } from '../../trade/format'

const props = defineProps<{ plan: PlanView }>()
const cannot = computed(() => props.plan.runs.filter((run) => run.obstacles.length).length)
const saved = computed(() => props.plan.rewirings - props.plan.fewest_rewirings)
</script>

<template>
  <p class="cost" role="status">
    <strong>{{ counted(plan.runs.length, 'run') }}</strong>, {{ counted(plan.wirings.length, 'wiring') }},
    {{ counted(plan.rewirings, 'rewiring')
    }}<template v-if="saved > 0"
      >, <span class="danger">{{ saved }} more than needed</span></template
    >
    · <strong>{{ minutes(plan.minutes) }}</strong> in all: wiring {{ minutes(plan.wiring_minutes) }}, running
    {{ minutes(plan.running_minutes) }}, cooling {{ minutes(plan.cooling_minutes) }}
    <span v-if="cannot" class="danger"> · {{ counted(cannot, 'run') }} that the bench cannot stand</span>
  </p>
</template>

<style scoped>
.cost {
  font-size: 14px;
}
</style>
