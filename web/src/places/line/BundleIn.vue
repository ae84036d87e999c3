<script setup lang="ts">
// A bundle of another lab: sent, rehearsed part by part, and taken in as a whole.
import { API } from '../../kit/base'
import { computed, onBeforeUnmount, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { sendFile } from '../../api/send'
import type { Sending } from '../../api/send'
import type { BundleView, TakenInView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import FileDrop from '../../kit/FileDrop.vue'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { counted, day } from '../../trade/format'

type Part = BundleView['parts'][number]
const mayPlan = useMay('plan')
const name = ref('')
const share = ref(0)
const bundle = ref<BundleView | null>(null)
const taken = ref<TakenInView | null>(null)
let sending: Sending<BundleView> | null = null

function letGo() {
  const waiting = bundle.value
  bundle.value = null
  if (waiting) void client.DELETE('/api/bundles/{bundle_id}', { params: { path: { bundle_id: waiting.id } } })
}
const send = useAct(
  (file: File) => {
    letGo()
    name.value = file.name
    share.value = 0
    taken.value = null
    take.forget()
    sending = sendFile<BundleView>(`${API}/bundles`, file, file.name, (sent) => (share.value = sent))
    return sending.done
  },
  { takesLong: true, done: (view) => (bundle.value = view) },
)
const take = useAct(
  () => {
    const path = { bundle_id: bundle.value!.id }
    return answered(client.POST('/api/bundles/{bundle_id}/taking-in', { params: { path } }))
  },
  {
    takesLong: true,
    done: (done) => {
      taken.value = done
      bundle.value = null
    },
  },
)
onBeforeUnmount(() => {
  sending?.stop()
  letGo()
})

const STATES: Record<Part['state'], string> = {
  new: 'new',
  there: 'on record',
  'kept as here': 'stays as it is here',
  clash: 'clashes',
}
const COLUMNS: Column<Part>[] = [
  { key: 'kind', head: 'What', text: (part) => part.kind },
  { key: 'name', head: 'Which', text: (part) => part.name },
  { key: 'state', head: 'What becomes of it', text: (part) => STATES[part.state], look: 'nowrap' },
  { key: 'words', head: 'More, or why', text: (part) => part.words },
]
const summary = computed(() => {
  const one = bundle.value
  if (!one) return ''
  const stays = one.kept_as_here ? `, ${one.kept_as_here} stay as they are here` : ''
  const clash = one.clashes ? `, ${one.clashes} in the way` : ''
  return `${one.new} new, ${one.there} on record${stays}${clash}`
})
const from = computed(() => bundle.value?.lab || 'a lab that does not name itself')
const said = computed(() =>
  taken.value
    ? `Taken in: ${counted(taken.value.attempts, 'attempt')} of ${counted(taken.value.campaign_ids.length, 'campaign')}.`
    : '',
)
</script>

<template>
  <PageFrame title="From another lab" :trail="[{ name: 'Line', to: '/line' }, { name: 'From another lab' }]" />
  <h1>From another lab</h1>
  <p class="quiet">
    A bundle holds a model, a unit or a campaign, with its waveforms, documents and photographs. “Save as bundle” on
    their pages makes one.
  </p>
  <p v-if="!mayPlan" class="said">Taking one in takes an engineer.</p>
  <template v-else>
    <FileDrop accept=".zip" class="small" @file="send.act">
      <strong>{{ name || 'Drop a bundle here, or choose one' }}</strong>
      <span class="quiet">It is rehearsed first: nothing is on record before you have seen what becomes of it.</span>
    </FileDrop>
    <p v-if="send.pending.value" role="status" class="said sending">
      <template v-if="share < 1">
        <progress :value="share" max="1" aria-label="Sent" /> {{ Math.floor(100 * share) }} % sent
        <a-button size="small" @click="sending?.stop()">Stop</a-button>
      </template>
      <span v-else class="quiet">Every file and every figure of it is looked at …</span>
    </p>
    <ProblemNote v-if="send.problem.value" :error="send.problem.value" />
    <section v-if="bundle" class="section">
      <header>
        <h2>{{ bundle.of }}</h2>
        <span class="quiet" role="status">{{ summary }}</span>
        <span class="spacer" />
        <a-button :disabled="take.pending.value" @click="letGo">Let it go</a-button>
        <a-button
          type="primary"
          :loading="take.pending.value"
          :disabled="!bundle.new || bundle.clashes > 0"
          @click="take.act()"
          >Take it in</a-button
        >
      </header>
      <p class="quiet said">
        Packed by {{ bundle.packed_by }} at {{ from }}, {{ day(bundle.packed_at) }};
        {{ counted(bundle.files, 'file') }}, each as it was packed. What another lab conducted is never run here, and
        says where it comes from.
      </p>
      <p v-if="bundle.clashes" class="danger said">
        Nothing is taken in while something clashes: settle it in one of the labs, and let it be packed again.
      </p>
      <p v-else-if="!bundle.new" class="said">All of it is on record already.</p>
      <ProblemNote v-if="take.problem.value" :error="take.problem.value" />
      <DataTable
        v-if="bundle.parts.length"
        :id="(part) => `${part.kind} ${part.name}`"
        name="Rehearsal of the bundle"
        :rows="bundle.parts"
        :columns="COLUMNS"
        :marked="(part) => (part.state === 'clash' ? 'refused' : undefined)"
      />
    </section>
    <p v-if="taken" role="status" class="said">
      {{ said }} <RouterLink :to="`/models/${taken.model_id}`">Look at the model</RouterLink>
    </p>
  </template>
</template>

<style scoped>
.small {
  padding: 34px 30px;
}
.said {
  padding: 10px 0;
}
.sending {
  display: flex;
  gap: 12px;
  align-items: center;
}
:deep(.refused td) {
  color: var(--danger);
}
</style>
