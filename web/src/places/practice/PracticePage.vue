<script setup lang="ts">
// A place to practise: jobs with planted faults by how hard they are, exams, and what came of them.
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import type { ExamView, PracticeLevel, PracticeSummaryView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { saysOf } from '../../kit/problem'
import { figure } from '../../kit/quantity'
import { moment } from '../../trade/format'
import { LEVELS } from './levels'

const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['practice'],
  queryFn: () => answered(client.GET('/api/practice')),
})
const level = ref<PracticeLevel>('first')
const seed = ref<number | null>(null)
const show = (job: { id: number }) => router.push(`/practice/${job.id}`)
const begins = useAct(
  () => answered(client.POST('/api/practice', { body: { level: level.value, seed: seed.value ?? undefined } })),
  { done: show, takesLong: true },
)
const examines = useAct(() => answered(client.POST('/api/practice/exams', { body: { level: level.value } })), {
  done: show,
  takesLong: true,
})
const came = (percent: number | null, passed: boolean) =>
  percent === null ? 'not answered' : `${figure(percent, 0)} %, ${passed ? 'passed' : 'not passed'}`
const JOBS: Column<PracticeSummaryView>[] = [
  { key: 'when', head: 'Begun', text: (j) => moment(j.begun_at), value: (j) => j.begun_at },
  { key: 'level', head: 'Level', text: (j) => LEVELS[j.level].word, value: (j) => j.level },
  { key: 'seed', head: 'Seed', text: (j) => String(j.seed), value: (j) => j.seed, num: true },
  { key: 'came', head: 'Came to', text: (j) => came(j.percent, j.passed), value: (j) => j.percent },
]
const EXAMS: Column<ExamView>[] = [
  { key: 'who', head: 'Who', text: (e) => e.by, value: (e) => e.by },
  { key: 'when', head: 'Ended', text: (e) => (e.ended_at ? moment(e.ended_at) : ''), value: (e) => e.ended_at },
  { key: 'level', head: 'Level', text: (e) => LEVELS[e.level].word, value: (e) => e.level },
  { key: 'jobs', head: 'Jobs', text: (e) => String(e.jobs), value: (e) => e.jobs, num: true },
  { key: 'came', head: 'Came to', text: (e) => came(e.percent, e.passed), value: (e) => e.percent },
]
</script>

<template>
  <PageFrame
    title="Practice"
    :trail="[{ name: 'Bench', to: '/bench' }, { name: 'Practice' }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template #head>
      <h1>Practice</h1>
      <p class="quiet">
        A simulated unit, measured as every unit is, with something wrong at the bench, or nothing. Say what is wrong,
        what is to be done about it, and what may be said of the claim. Nothing of it is ever evidence.
      </p>
    </template>
    <template v-if="data">
      <p v-if="data.exam" class="exam" role="status">
        You are in an exam, level {{ LEVELS[data.exam.level].word }}: {{ data.exam.answered }} of
        {{ data.exam.jobs }} jobs answered.
        <RouterLink v-if="data.exam.next_job_id" :to="`/practice/${data.exam.next_job_id}`">Go on with it</RouterLink>
      </p>
      <form class="begin" @submit.prevent="begins.act()">
        <PickOne
          v-model="level"
          label="Level"
          spread
          :choices="[
            { value: 'first', label: LEVELS.first.word },
            { value: 'second', label: LEVELS.second.word },
            { value: 'third', label: LEVELS.third.word },
          ]"
        />
        <NumberField
          v-model="seed"
          label="Seed"
          placeholder="drawn"
          whole
          :min="0"
          :max="999999"
          :problem="saysOf(begins.problem.value, 'seed')"
          class="seed"
        />
        <a-button type="primary" html-type="submit" :loading="begins.pending.value">Begin a job</a-button>
        <a-button v-if="!data.exam" :loading="examines.pending.value" @click="examines.act()"
          >Begin an exam of five</a-button
        >
        <p class="quiet told">{{ LEVELS[level].told }}</p>
      </form>
      <ProblemNote v-if="begins.problem.value" :error="begins.problem.value" />
      <ProblemNote v-if="examines.problem.value" :error="examines.problem.value" />
      <section class="section">
        <header>
          <h2>Your jobs</h2>
          <span class="quiet">the same level and seed draw the same job again</span>
        </header>
        <p v-if="!data.jobs.length" class="quiet none">None yet.</p>
        <DataTable
          v-else
          :id="(j) => j.id"
          name="Your jobs"
          :rows="data.jobs"
          :columns="JOBS"
          :to="(j) => `/practice/${j.id}`"
          sort-name="jobs"
        />
      </section>
      <section class="section">
        <header>
          <h2>Exams</h2>
          <span class="quiet">on record for everybody; 80 % passes</span>
        </header>
        <p v-if="!data.exams.length" class="quiet none">Nobody has taken one yet.</p>
        <DataTable v-else :id="(e) => e.id" name="Exams" :rows="data.exams" :columns="EXAMS" sort-name="exams" />
      </section>
    </template>
  </PageFrame>
</template>

<style scoped>
.exam {
  padding: 8px 12px;
  margin: 10px 0 0;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.exam a {
  color: inherit;
  text-decoration: underline;
}
.begin {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: end;
  margin: 16px 0 8px;
}
.seed {
  width: 120px;
}
.told {
  flex-basis: 100%;
  margin: 0;
}
.none {
  padding: 10px 0;
}
</style>
