<script setup lang="ts">
// What was found inside of a unit, by place; fuses that carry no current stand out.
import { ref } from 'vue'
import { INSIDES, useKept } from '../../api/kept'
import type { InsideView } from '../../api/kept'
import { day } from '../../trade/format'
import InsideForm from './InsideForm.vue'

const props = defineProps<{ unit: number; attention: readonly string[]; mayChange: boolean }>()
const { open: insides } = useKept(INSIDES, () => props.unit)
const changed = ref<InsideView | null | undefined>()
type Part = InsideView['entry']['parts'][number]
const rating = (part: Part) =>
  [
    part.value,
    part.volts ? `${part.volts} V` : '',
    part.celsius ? `${part.celsius} °C` : '',
    part.mark ? `marked “${part.mark}”` : '',
    part.channels.length ? `channel ${part.channels.join(', ')}` : '',
  ]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <section class="section">
    <header>
      <h2>Inside</h2>
      <span class="spacer" />
      <a-button v-if="mayChange" @click="changed = null">It was opened</a-button>
    </header>
    <p v-for="doubt in attention" :key="doubt" class="caution" role="note">{{ doubt }}</p>
    <p v-if="!insides.length" class="quiet empty">Nobody has opened it yet.</p>
    <article v-for="one in insides" :key="one.id">
      <p class="quiet line">
        Opened {{ one.entry.opened_on ?? day(one.at) }}, by {{ one.by }}
        <a-button v-if="mayChange" class="no-print" size="small" type="link" @click="changed = one">Change</a-button>
      </p>
      <table class="figures">
        <tbody>
          <tr v-if="one.entry.board_revision">
            <th scope="row">board revision</th>
            <td></td>
            <td>{{ one.entry.board_revision }}</td>
          </tr>
          <tr v-for="(part, at) in one.entry.parts" :key="`p${at}`">
            <th scope="row">{{ part.place }}</th>
            <td class="num">{{ part.count }} ×</td>
            <td>{{ rating(part) }}</td>
          </tr>
          <tr v-for="(fuse, at) in one.entry.fuses" :key="`f${at}`">
            <th scope="row">fuse</th>
            <td class="num">{{ fuse.amps }} A</td>
            <td>
              <span :class="{ danger: !fuse.in_circuit }">{{ fuse.in_circuit ? 'in circuit' : 'not in circuit' }}</span>
              {{ fuse.remark }}
            </td>
          </tr>
          <tr v-if="one.entry.fan_ran !== null">
            <th scope="row">fan</th>
            <td></td>
            <td>{{ one.entry.fan_ran ? 'ran' : 'did not run' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="one.entry.remarks">{{ one.entry.remarks }}</p>
    </article>
    <InsideForm v-if="changed !== undefined" :unit="unit" :kept="changed" @close="changed = undefined" />
  </section>
</template>

<style scoped>
.empty,
.line {
  padding: 10px 0 4px;
}
.caution {
  margin-top: 10px;
}
table {
  max-width: 760px;
}
.num {
  width: 70px;
}
th {
  width: 240px;
  font-size: 14px;
  font-weight: 400;
  text-align: left;
  color: var(--ink-2);
}
</style>
