<script setup lang="ts">
// What a sample bears, in words: share and confidence, what was taken off, how it was worked out, what goes with it.
import type { PopulationView } from '../../api/types'
import { figure } from '../../kit/quantity'
import { counted } from '../../trade/format'
import { METHOD_WORDS } from './words'

defineProps<{ found: PopulationView }>()
const percent = (part: number) => `${figure(100 * part, 0)} %`
</script>

<template>
  <template v-if="found.bound">
    <p v-if="found.bound.bound_watts !== null" class="quiet">
      {{ percent(found.share) }} of all units give {{ figure(found.bound.bound_watts, 1) }} W or more, at
      {{ percent(found.confidence) }} confidence; less {{ figure(found.taken_off_watts, 2) }} W for what all readings
      share, down to a multiple of {{ found.step_watts }} W.
    </p>
    <p class="quiet">
      {{ counted(found.bound.n, 'unit') }} of {{ counted(found.bound.lots, 'lot') }},
      {{ METHOD_WORDS[found.bound.method]
      }}<template v-if="found.bound.mean !== null && found.bound.spread !== null"
        >; mean {{ figure(found.bound.mean, 1) }} W, spread {{ figure(found.bound.spread, 2) }} W</template
      ><template v-if="found.bound.between !== null && found.bound.within !== null"
        >, between lots {{ figure(found.bound.between, 2) }} W, within {{ figure(found.bound.within, 2) }} W</template
      ><template v-if="found.bound.k !== null"
        >; k = {{ figure(found.bound.k, 3)
        }}<template v-if="found.channels > 1"
          >, each unit its weakest of {{ found.channels }} channels</template
        ></template
      >
    </p>
    <p v-for="note in found.bound.notes" :key="note" class="note">{{ note }}</p>
  </template>
</template>

<style scoped>
.note {
  margin: 6px 0 0;
}
</style>
