<script setup lang="ts">
// What somebody found in a job: faults with what to do about each, the claim, and the saying.
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import type { PracticeFault, PracticeJobView, PracticeOfClaim, PracticeRemedy } from '../../api/types'
import { useAct } from '../../kit/act'
import { useDraft } from '../../kit/draft'
import PickOne from '../../kit/PickOne.vue'
import ProblemNote from '../../kit/ProblemNote.vue'

const props = defineProps<{ job: PracticeJobView }>()
const router = useRouter()
interface Draft {
  faults: PracticeFault[]
  remedies: Record<string, PracticeRemedy | ''>
  claim: PracticeOfClaim | ''
  saying: 'holds' | 'not' | ''
}
const { draft, forget } = useDraft<Draft>(`practice-${props.job.id}`, {
  faults: [],
  remedies: {},
  claim: '',
  saying: '',
})
const CLAIM = [
  { value: 'backed' as const, label: 'Backed' },
  { value: 'not-backed' as const, label: 'Not backed' },
  { value: 'nothing-yet' as const, label: 'Nothing yet' },
]
const SAYING = [
  { value: 'holds' as const, label: 'It holds' },
  { value: 'not' as const, label: 'It does not' },
]
const remedies = computed(() => props.job.remedies.map((one) => ({ value: one.remedy, label: one.words })))
const missing = computed(() => {
  if (draft.value.faults.some((one) => !draft.value.remedies[one])) return 'Say what is to be done about each fault.'
  if (!draft.value.claim) return 'Say what may be said of the claim.'
  return draft.value.saying ? '' : 'Say whether the saying holds.'
})
function tick(fault: PracticeFault, ticked: boolean) {
  const others = draft.value.faults.filter((one) => one !== fault)
  draft.value.faults = ticked ? [...others, fault] : others
}
const answers = useAct(
  () =>
    answered(
      client.POST('/api/practice/{job_id}/answer', {
        params: { path: { job_id: props.job.id } },
        body: {
          faults: Object.fromEntries(draft.value.faults.map((one) => [one, draft.value.remedies[one] || null])),
          claim: draft.value.claim as PracticeOfClaim,
          saying_holds: draft.value.saying === 'holds',
        },
      }),
    ),
  {
    done: (job) => {
      forget()
      if (job.exam && !job.exam.ended && job.exam.next_job_id) return router.push(`/practice/${job.exam.next_job_id}`)
    },
    takesLong: true,
  },
)
</script>

<template>
  <form class="panel" @submit.prevent="!missing && answers.act()">
    <h2>What is wrong?</h2>
    <p class="quiet">Tick what the sheet shows, and nothing else: what is not there costs as much as what is missed.</p>
    <ul>
      <li v-for="one in job.faults" :key="one.fault">
        <a-checkbox :checked="draft.faults.includes(one.fault)" @update:checked="tick(one.fault, $event)">{{
          one.words
        }}</a-checkbox>
        <PickOne
          v-if="draft.faults.includes(one.fault)"
          :model-value="draft.remedies[one.fault] || null"
          label="What is to be done"
          bare
          placeholder="What is to be done"
          :choices="remedies"
          class="remedy"
          @update:model-value="draft.remedies[one.fault] = $event ?? ''"
        />
      </li>
    </ul>
    <PickOne
      :model-value="draft.claim || null"
      label="Of the claim, this shows"
      spread
      :choices="CLAIM"
      @update:model-value="draft.claim = $event ?? ''"
    />
    <p class="saying">“{{ job.saying }}”</p>
    <PickOne
      :model-value="draft.saying || null"
      label="This saying"
      spread
      :choices="SAYING"
      @update:model-value="draft.saying = $event ?? ''"
    />
    <ProblemNote v-if="answers.problem.value" :error="answers.problem.value" />
    <div class="act">
      <a-button type="primary" html-type="submit" :disabled="!!missing" :loading="answers.pending.value">{{
        draft.faults.length ? 'Have it marked' : 'Nothing is wrong: have it marked'
      }}</a-button>
      <span class="quiet">{{ missing }}</span>
    </div>
  </form>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 8px 0 12px;
}
li {
  padding: 2px 0;
}
.remedy {
  margin: 3px 0 6px 24px;
}
.saying {
  margin: 12px 0 4px;
}
/* In sight however long the list above it becomes. */
.act {
  position: sticky;
  bottom: -10px;
  z-index: 1;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  margin: 14px -14px -10px;
  padding: 10px 14px;
  background: var(--sheet);
  border-top: 1px solid var(--rule);
}
</style>
