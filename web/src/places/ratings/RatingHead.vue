<script setup lang="ts">
// A rating in a figure, its wording, and where it stands.
import { computed } from 'vue'
import type { RatingView } from '../../api/types'
import { day } from '../../trade/format'
import StandingMark from './StandingMark.vue'
import { STATE_STANDING, STATE_WORDS } from './words'

const props = defineProps<{ rating: RatingView }>()
const standing = computed(() =>
  props.rating.state === 'published' && props.rating.unsettled.length
    ? 'look_again'
    : STATE_STANDING[props.rating.state],
)
/** Where it stands, in words; what else there is to say of it follows. */
const stands = computed(() => {
  // A confirmation leaves it where it stands, and for longer.
  const last = props.rating.steps.filter((step) => step.kind !== 'confirmed').at(-1)
  if (!last) return ''
  const until = props.rating.valid_until ? `, valid until ${day(props.rating.valid_until)}` : ''
  return `${STATE_WORDS[props.rating.state]} since ${day(last.at)}${until}`
})
</script>

<template>
  <header class="head">
    <h1>
      {{ rating.terms.watts }} W <span class="of">{{ rating.model }}</span>
    </h1>
    <p class="wording">{{ rating.wording }}</p>
    <p class="state">
      <StandingMark :standing="standing" :word="stands" />
      <span v-if="rating.simulated" class="mark" title="From a simulated bench: no amplifier gave this."
        >simulated</span
      >
    </p>
  </header>
</template>

<style scoped>
.head h1 {
  margin-bottom: 0;
  font-size: 30px;
}
.of {
  margin-left: 8px;
  font-size: 20px;
  font-weight: 400;
}
.wording {
  margin: 2px 0 6px;
  font-size: 17px;
}
.state {
  display: flex;
  gap: 14px;
  align-items: baseline;
  margin: 0 0 4px;
}
</style>
