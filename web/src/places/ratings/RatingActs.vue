<script setup lang="ts">
// What unsettles a rating, and the steps that its state and one's roles allow; each says what it means before it is done.
import { computed, ref, watch } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import type { RatingView } from '../../api/types'
import { useAct } from '../../kit/act'
import FormDialog from '../../kit/FormDialog.vue'
import ReasonDialog from '../../kit/ReasonDialog.vue'
import { useWho } from '../../kit/who'
import { useKeepRating } from './keepRating'

const props = defineProps<{ rating: RatingView }>()
const emit = defineEmits<{ change: [] }>()
type Step = 'proposed' | 'signed' | 'published'
type Reasoned = 'sent_back' | 'withdrawn' | 'dropped' | 'confirmed'
const who = useWho()
const [mayPropose, maySign, mayPublish] = [useMay('propose'), useMay('sign'), useMay('publish')]
const can = (step: RatingView['next'][number]) => props.rating.next.includes(step)
/** Whoever had a hand in it does not answer for it. */
const hadHand = computed(() => props.rating.hands.includes(who.name.value))
const asked = ref<Step | null>(null)
const reasoned = ref<Reasoned | null>(null)
/** What unsettles it, put together by what would settle it. */
const causes = computed(() => {
  const found = new Map<string, RatingView['unsettled']>()
  for (const one of props.rating.unsettled) found.set(one.settle, [...(found.get(one.settle) ?? []), one])
  return found
})
/** What a reviewer looked at, by key. */
const looked = ref<string[]>([])
watch(
  () => props.rating.seen,
  () => (looked.value = []),
)

/** What was on the page when it was asked: what changes meanwhile is not what anybody said yes to. */
const lookedAt = ref(props.rating)
const params = () => ({ path: { rating_id: props.rating.id }, header: { 'If-Match': `${lookedAt.value.seen}` } })
const close = () => ([asked.value, reasoned.value] = [null, null])
const keep = useKeepRating()
function done(after: RatingView) {
  keep(after)
  close()
}
const { act, pending, problem, forget } = useAct(
  (step: Step) => {
    const body = { digest: lookedAt.value.digest }
    if (step === 'proposed')
      return answered(client.POST('/api/ratings/{rating_id}/proposal', { params: params(), body: { reason: '' } }))
    if (step === 'signed')
      return answered(client.POST('/api/ratings/{rating_id}/signature', { params: params(), body }))
    return answered(client.POST('/api/ratings/{rating_id}/publication', { params: params(), body }))
  },
  { done },
)
const {
  act: actFor,
  pending: pendingFor,
  problem: problemFor,
  forget: forgetFor,
} = useAct(
  (step: Reasoned, reason: string) => {
    const body = { reason }
    if (step === 'sent_back')
      return answered(client.POST('/api/ratings/{rating_id}/return', { params: params(), body }))
    if (step === 'withdrawn')
      return answered(client.POST('/api/ratings/{rating_id}/withdrawal', { params: params(), body }))
    if (step === 'dropped') return answered(client.POST('/api/ratings/{rating_id}/end', { params: params(), body }))
    const confirmed = { reason, keys: looked.value }
    return answered(client.POST('/api/ratings/{rating_id}/confirmation', { params: params(), body: confirmed }))
  },
  { done },
)
function ask(step: Step) {
  forget()
  lookedAt.value = props.rating
  asked.value = step
}
function askWhy(step: Reasoned) {
  forgetFor()
  lookedAt.value = props.rating
  reasoned.value = step
}

const ASKED: Record<Step, { title: string; act: string; hint: string }> = {
  proposed: {
    title: 'Propose this rating',
    act: 'Propose it',
    hint: 'Its units, readings, method and figures are frozen as they stand now; whoever signs answers for exactly these.',
  },
  signed: {
    title: 'Sign this rating',
    act: 'Sign it',
    hint: 'You answer for it that the figure rests on what is shown here. Neither you nor anybody can change that basis afterwards.',
  },
  published: {
    title: 'Publish this rating',
    act: 'Publish it',
    hint: 'Everything is worked out again from the frozen basis first. A published rating at the same conditions is superseded.',
  },
}
const REASONED: Record<Reasoned, { title: string; act: string; hint: string; danger?: boolean }> = {
  sent_back: { title: 'Why is it sent back?', act: 'Send it back', hint: 'It becomes a draft again.' },
  withdrawn: {
    title: 'Why is the rating withdrawn?',
    act: 'Withdraw it',
    hint: 'Documents that still print it stay listed until each is dealt with.',
    danger: true,
  },
  dropped: { title: 'Why is the draft dropped?', act: 'Drop it', hint: 'It stays on record.', danger: true },
  confirmed: {
    title: 'Why does the figure hold all the same?',
    act: 'Confirm it',
    hint: 'What you looked at unsettles it no more, under your name and with your reason.',
  },
}
const next = computed(() => {
  const at = props.rating.terms.at
  const query = new URLSearchParams({
    at: `${at.group}/${at.load_ohms}/${at.bridged ? 'pair' : 'channel'}`,
    ...(at.kind === 'burst' && { kind: 'burst' }),
  })
  return `/models/${props.rating.model_id}/bears?${query}`
})
</script>

<template>
  <section v-if="rating.unsettled.length" class="again" aria-labelledby="again">
    <h2 id="again">Look again</h2>
    <div v-for="[settle, ones] in causes" :key="settle" class="cause">
      <ul>
        <li v-for="one in ones" :key="one.key">
          <label v-if="one.confirmable && maySign && !hadHand && can('confirmed')">
            <input v-model="looked" type="checkbox" :value="one.key" /> <span>{{ one.what }}</span>
          </label>
          <span v-else>{{ one.what }}</span>
        </li>
      </ul>
      <p class="quiet settle">{{ settle }}</p>
    </div>
  </section>
  <div class="acts no-print">
    <template v-if="mayPropose">
      <a-button v-if="can('proposed')" type="primary" @click="ask('proposed')">Propose it</a-button>
      <a-button v-if="can('drafted')" @click="emit('change')">Change it</a-button>
      <a-button v-if="can('dropped')" @click="askWhy('dropped')">Drop it</a-button>
    </template>
    <a-button v-if="maySign && can('signed') && !hadHand" type="primary" @click="ask('signed')">Sign it</a-button>
    <a-button v-if="mayPublish && can('published')" type="primary" @click="ask('published')">Publish it</a-button>
    <a-button v-if="(maySign || mayPublish) && can('sent_back')" @click="askWhy('sent_back')">Send it back</a-button>
    <a-button
      v-if="maySign && !hadHand && can('confirmed') && rating.unsettled.some((one) => one.confirmable)"
      type="primary"
      :disabled="!looked.length"
      @click="askWhy('confirmed')"
      >Confirm it</a-button
    >
    <RouterLink v-if="mayPropose && rating.state === 'published'" :to="next">Draft the next one</RouterLink>
    <a-button v-if="mayPublish && can('withdrawn')" danger @click="askWhy('withdrawn')">Withdraw it</a-button>
  </div>
  <p v-if="can('signed')" class="quiet wait">
    {{
      maySign && hadHand
        ? 'You had a hand in it: another reviewer signs.'
        : maySign
          ? ''
          : 'It waits for a reviewer who neither measured nor proposed it.'
    }}
  </p>
  <p v-if="can('published') && !mayPublish" class="quiet wait">It waits for a manager to publish it.</p>
  <FormDialog
    v-if="asked"
    open
    v-bind="ASKED[asked]"
    :pending="pending"
    :problem="problem"
    @done="act(asked)"
    @cancel="close"
  >
    <p class="exactly">
      <strong>{{ rating.model }}</strong>: {{ rating.wording }}
    </p>
  </FormDialog>
  <ReasonDialog
    v-if="reasoned"
    open
    v-bind="REASONED[reasoned]"
    :pending="pendingFor"
    :problem="problemFor"
    @done="(reason) => actFor(reasoned!, reason)"
    @cancel="close"
  />
</template>

<style scoped>
.again {
  margin-top: 14px;
  padding: 8px 12px;
  border-left: 3px solid var(--doubt);
  background: var(--sheet);
}
.again h2 {
  margin: 0 0 2px;
  font-size: 15px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 4px 0;
  line-height: 1.35;
}
label {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
input {
  flex: none;
  accent-color: var(--certified);
}
.settle {
  margin: 0 0 6px;
  font-size: 13px;
}
.cause + .cause {
  border-top: 1px solid var(--rule);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding-top: 14px;
}
.acts:empty,
.wait:empty {
  display: none;
}
.wait {
  margin: 8px 0 0;
}
.exactly {
  margin: 6px 0;
  padding: 10px 12px;
  background: var(--hover);
}
</style>
