<script setup lang="ts">
// Listening and in-vehicle records of a unit: records, never evidence.
import { ref } from 'vue'
import { LISTENING, useKept } from '../../api/kept'
import type { ListeningView } from '../../api/kept'
import type { UnitRow } from '../../api/types'
import { figure } from '../../kit/quantity'
import ListeningForm from './ListeningForm.vue'
import { EAR_PROTECTION } from './words'

const props = defineProps<{ unit: number; siblings: readonly UnitRow[]; mayChange: boolean }>()
const { open: records } = useKept(LISTENING, () => props.unit)
const changed = ref<ListeningView | null | undefined>()
/** Where and how, in a line. */
const how = (one: ListeningView) => {
  const { source, engine, supply_volts: volts, hours, sound } = one.entry
  return [
    source,
    engine,
    volts ? `${volts} V` : '',
    hours ? `${hours} h` : '',
    sound ? (sound.tone_hz ? `${sound.tone_hz} Hz` : 'music') : '',
    sound?.sensor,
    sound ? (sound.doors_open ? 'doors open' : 'doors closed') : '',
  ]
    .filter(Boolean)
    .join(' · ')
}
</script>

<template>
  <section class="section">
    <header>
      <h2>Listening and in the vehicle</h2>
      <span class="quiet">records, never evidence for a rating</span>
      <span class="spacer" />
      <a-button v-if="mayChange" @click="changed = null">Add a record</a-button>
    </header>
    <p v-if="!records.length" class="quiet empty">
      Nothing is noted. Sound pressure, volts and amps at a speaker’s wire, and better or worse than which unit go here.
    </p>
    <p v-if="records.some((one) => one.ear_protection)" class="caution" role="note">{{ EAR_PROTECTION }}</p>
    <article v-for="one in records" :key="one.id">
      <p>
        <strong>{{ one.entry.on }}</strong> <span class="quiet">{{ how(one) }} · {{ one.by }}</span>
        <a-button v-if="mayChange" class="no-print" size="small" type="link" @click="changed = one">Change</a-button>
      </p>
      <ul>
        <li v-for="best in one.best" :key="best.meter">
          <span class="mono">{{ figure(best.decibels, 2) }} dB</span> best of repeats, {{ best.meter }}
        </li>
        <li v-if="one.load">
          <span class="mono">|Z| {{ figure(one.load.impedance_ohms, 2) }} Ω</span>,
          <template v-if="one.load.watts !== null"
            ><span class="mono">{{ figure(one.load.watts, 1) }} W</span> real of
            {{ figure(one.load.volt_amps, 1) }} VA<template v-if="one.entry.wire?.phase_degrees != null"
              >, {{ figure(one.entry.wire.phase_degrees, 1) }}°</template
            ></template
          ><template v-else
            ><span class="mono">{{ figure(one.load.volt_amps, 1) }} VA</span>: meters alone tell no real power</template
          >
        </li>
        <li v-for="words in one.compared" :key="words">{{ words }}</li>
        <li v-if="one.entry.remarks">{{ one.entry.remarks }}</li>
      </ul>
    </article>
    <ListeningForm
      v-if="changed !== undefined"
      :unit="unit"
      :siblings="siblings"
      :kept="changed"
      @close="changed = undefined"
    />
  </section>
</template>

<style scoped>
.empty {
  padding: 14px 0;
}
.caution {
  margin-top: 10px;
}
article {
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}
ul {
  margin: 2px 0 0;
  padding-left: 18px;
}
</style>
