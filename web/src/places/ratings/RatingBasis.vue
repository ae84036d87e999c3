<script setup lang="ts">
// Who did what to a rating, on what it rests, and its dossier to take along.
import type { RatingView } from '../../api/types'
import { day, moment } from '../../trade/format'
import { STEP_WORDS } from './words'

defineProps<{
  rating: RatingView
  /** Where its dossier is; one with its records where it may be had. */
  files: { pdf: string; zip?: string; certificate?: string }
}>()
</script>

<template>
  <section>
    <h2>Life</h2>
    <ol class="life">
      <li v-for="step in rating.steps" :key="step.number">
        <span class="quiet">{{ moment(step.at) }}</span> {{ step.by }} {{ STEP_WORDS[step.kind] }}
        <span v-if="step.reason" class="quiet">“{{ step.reason }}”</span>
      </li>
    </ol>
  </section>
  <section v-if="rating.basis">
    <h2>Basis</h2>
    <dl>
      <dt>Measured by</dt>
      <dd>{{ rating.basis.measured_by.join(', ') }}</dd>
      <dt>Read with</dt>
      <dd>{{ rating.basis.instruments.join('; ') || 'not stated' }}</dd>
      <template v-if="rating.basis.first_reading && rating.basis.last_reading">
        <dt>Readings</dt>
        <dd>{{ day(rating.basis.first_reading) }} to {{ day(rating.basis.last_reading) }}</dd>
      </template>
      <dt>Method</dt>
      <dd>{{ rating.basis.method }}, Rulvek {{ rating.basis.program }}</dd>
      <dt>SHA-256</dt>
      <dd class="mono digest">{{ rating.digest }}</dd>
    </dl>
    <p class="files no-print">
      <a :href="files.pdf" download>Dossier (PDF, signed)</a>
      <a v-if="files.zip" :href="files.zip" download>with its records (ZIP)</a>
      <a v-if="files.certificate" :href="files.certificate" download>Certificate</a>
    </p>
  </section>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 3px 10px;
  margin: 4px 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.digest {
  font-size: 11.5px;
  line-height: 1.4;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}
</style>
