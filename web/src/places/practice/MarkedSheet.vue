<script setup lang="ts">
// A marked answer: what was found, missed and wrongly accused, each with the figures that show it.
import { computed } from 'vue'
import type { PracticeJobView, PracticeMarks } from '../../api/types'
import { figure } from '../../kit/quantity'

const props = defineProps<{ job: PracticeJobView; marks: PracticeMarks }>()
const OF_CLAIM = { backed: 'it is backed', 'not-backed': 'it is not backed', 'nothing-yet': 'nothing yet' } as const
const AT = {
  claim: ['#claim', 'the claim'],
  note: ['#claim', 'the note'],
  before: ['#before', 'before power'],
  reading: ['#run-1', 'the reading'],
  sweep: ['#run-1', 'the level sweep'],
  supply: ['#run-1', 'the supply at the reading'],
  wave: ['#run-1', 'the wave'],
  spectrum: ['#run-1', 'the spectrum'],
} as const
const planted = computed(() => [
  ...props.marks.missed.map((one) => ({ ...one, found: false })),
  ...props.marks.found.map((one) => ({ ...one, found: true })),
])
</script>

<template>
  <section class="panel" aria-live="polite">
    <h2>Marked</h2>
    <p class="came">
      <span class="mono">{{ figure(marks.percent, 0) }} %</span>
      <strong :class="marks.passed ? 'good' : 'danger'">{{ marks.passed ? 'passed' : 'not passed' }}</strong>
      <span class="quiet">{{ marks.points }} of {{ marks.of }} points</span>
    </p>
    <p v-if="!planted.length">Nothing was wrong with this job.</p>
    <article v-for="one in planted" :key="one.fault">
      <h3>
        <span :class="one.found ? 'good' : 'danger'">{{ one.found ? 'Found' : 'Missed' }}:</span> {{ one.words }}
      </h3>
      <p>
        {{ one.trace }}
        <a :href="AT[one.part][0]">See {{ AT[one.part][1] }}</a>
      </p>
      <p class="quiet">{{ one.why }}</p>
      <p>
        <span v-if="one.found" :class="one.remedy_right ? 'good' : 'danger'">{{
          one.remedy_right ? 'Rightly:' : 'Not that, but:'
        }}</span>
        {{ one.remedy }}.
      </p>
    </article>
    <article v-for="one in marks.accused" :key="one.fault">
      <h3><span class="danger">Not there:</span> {{ one.words }}</h3>
    </article>
    <article>
      <h3>
        <span :class="marks.claim_right ? 'good' : 'danger'">{{ marks.claim_right ? 'Right' : 'Wrong' }}:</span>
        of the claim, {{ OF_CLAIM[marks.claim] }}
      </h3>
    </article>
    <article>
      <h3>
        <span :class="marks.saying_right ? 'good' : 'danger'">{{ marks.saying_right ? 'Right' : 'Wrong' }}:</span>
        “{{ job.saying }}” {{ marks.saying_holds ? 'holds' : 'does not hold' }}
      </h3>
      <dl>
        <template v-for="one in marks.saying_figures" :key="one.what">
          <dt>{{ one.what }}</dt>
          <dd class="mono">
            {{ figure(one.value, one.unit === 'times' || one.unit === 'dB' ? 2 : 1) }} {{ one.unit }}
          </dd>
        </template>
      </dl>
      <p class="quiet">Measured on sound simulated units.</p>
    </article>
    <p class="on">
      <RouterLink to="/practice">{{ job.exam ? 'All that you practised' : 'Another job' }}</RouterLink>
    </p>
  </section>
</template>

<style scoped>
.came {
  display: flex;
  gap: 10px;
  align-items: baseline;
  margin: 4px 0 8px;
}
.came .mono {
  font-size: 22px;
}
article {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
}
h3 {
  font-size: 15px;
  margin: 0 0 3px;
}
article p {
  margin: 2px 0;
}
a {
  text-decoration: underline;
}
dl {
  display: grid;
  grid-template-columns: 1fr max-content;
  gap: 2px 12px;
  margin: 4px 0;
}
dd {
  margin: 0;
  text-align: right;
}
.good {
  color: var(--certified);
}
.danger {
  color: var(--danger);
}
</style>
