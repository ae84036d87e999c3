<script setup lang="ts">
// One job: what the bench shows on the left, the answer or its marks on the right.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import client, { answered } from '../../api/client'
import { useAct } from '../../kit/act'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import AnswerForm from './AnswerForm.vue'
import JobBefore from './JobBefore.vue'
import JobRun from './JobRun.vue'
import { LEVELS } from './levels'
import MarkedSheet from './MarkedSheet.vue'

const props = defineProps<{ id: number }>()
const {
  data: job,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['practice-job', () => props.id],
  queryFn: () => answered(client.GET('/api/practice/{job_id}', { params: { path: { job_id: props.id } } })),
})
const repeats = useAct(
  () => answered(client.POST('/api/practice/{job_id}/bench', { params: { path: { job_id: props.id } } })),
  { takesLong: true, done: (bench) => location.assign(bench.address) },
)
const name = computed(() => `Job ${props.id}`)
const exam = computed(() => job.value?.exam)
</script>

<template>
  <PageFrame
    :title="`Practice, job ${id}`"
    :trail="[{ name: 'Bench', to: '/bench' }, { name: 'Practice', to: '/practice' }, { name }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <template v-if="job">
      <h1>{{ job.words }}</h1>
      <p class="quiet">
        Practice, level {{ LEVELS[job.level].word
        }}<template v-if="exam">, job {{ exam.place }} of {{ exam.jobs }} of an exam</template
        ><template v-if="job.seed !== null">, seed {{ job.seed }}</template
        >. Never evidence.
      </p>
      <div class="two">
        <div class="shown">
          <section id="claim" class="panel">
            <h2>The job</h2>
            <dl>
              <dt>Claim to be tested</dt>
              <dd>{{ job.claim }}</dd>
              <dt>Plan</dt>
              <dd>
                {{ job.bridged ? 'pairs, bridged, at' : 'every channel at' }}
                <span class="mono">{{ figure(job.load_ohms, 0) }} Ω</span>,
                <template v-if="job.supply_volts"
                  >supply held at <span class="mono">{{ figure(job.supply_volts, 1) }} V</span></template
                ><template v-else>on a floating bank, full: about <span class="mono">15 V</span></template>
              </dd>
              <dt>Fuses</dt>
              <dd class="mono">{{ job.fuses.map((one) => figure(one, 0)).join(' + ') }} A</dd>
            </dl>
            <p v-if="job.note" id="note" class="note">“{{ job.note }}”</p>
            <p v-if="!job.answered_at" class="repeat">
              <a-button :loading="repeats.pending.value" @click="repeats.act()">Run it yourself</a-button>
              <span class="quiet">
                on the practice bench, with the screens of a real one, up to the verdict; it opens a page of its own
              </span>
            </p>
            <ProblemNote v-if="repeats.problem.value" :error="repeats.problem.value" />
          </section>
          <JobBefore :job="job" />
          <JobRun v-for="run in job.runs" :key="run.number" :job="job" :run="run" />
        </div>
        <aside class="answer" :aria-label="job.answered_at ? 'Marked sheet' : 'Answer'">
          <MarkedSheet v-if="job.marks" :job="job" :marks="job.marks" />
          <section v-else-if="job.answered_at" class="panel">
            <h2>Answered</h2>
            <p>The exam is marked once its last job is answered.</p>
            <RouterLink v-if="exam?.next_job_id" :to="`/practice/${exam.next_job_id}`"
              >Go on with the next job</RouterLink
            >
          </section>
          <AnswerForm v-else :key="job.id" :job="job" />
        </aside>
      </div>
    </template>
  </PageFrame>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: 14px;
  align-items: start;
  margin-top: 10px;
}
.shown {
  display: grid;
  gap: 14px;
}
.two :deep(.panel) {
  min-width: 0;
  background: var(--sheet);
  padding: 10px 14px;
}
.answer {
  position: sticky;
  top: 12px;
  max-height: calc(100vh - 24px);
  overflow-y: auto;
}
.repeat {
  display: flex;
  gap: 12px;
  align-items: center;
  margin: 12px 0 0;
}
.answer a {
  text-decoration: underline;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 3px 16px;
  margin: 6px 0 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
}
.note {
  margin: 10px 0 0;
  padding: 6px 10px;
  background: var(--selected);
}
@media (max-width: 1000px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .answer {
    position: static;
    max-height: none;
  }
}
</style>
