<script setup lang="ts">
// Links under which somebody without an account sees a rating: who has one, until when, and another one.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import client, { answered } from '../../api/client'
import type { RatingLinkView } from '../../api/types'
import { useAct } from '../../kit/act'
import FormDialog from '../../kit/FormDialog.vue'
import NumberField from '../../kit/NumberField.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { saysOf } from '../../kit/problem'
import SecretTold from '../../trade/SecretTold.vue'
import TextField from '../../kit/TextField.vue'
import { day } from '../../trade/format'

const props = defineProps<{ id: number }>()
const path = () => ({ params: { path: { rating_id: props.id } } })
const { data: links } = useQuery({
  queryKey: ['rating-links', () => props.id],
  queryFn: () => answered(client.GET('/api/ratings/{rating_id}/links', path())),
})
const open = computed(() => links.value?.filter((one) => one.opens) ?? [])
const asking = ref(false)
const EMPTY = { meant_for: '', days: 30 as number | null, with_records: false }
const form = reactive({ ...EMPTY })
const told = ref('')
const make = useAct(
  () =>
    answered(client.POST('/api/ratings/{rating_id}/links', { ...path(), body: { ...form, days: form.days ?? 30 } })),
  {
    done: (made) => {
      told.value = `${window.location.origin}/shared/${made.token}`
      asking.value = false
      Object.assign(form, EMPTY)
    },
  },
)
const end = useAct((one: RatingLinkView) =>
  answered(client.POST('/api/rating-links/{link_id}/end', { params: { path: { link_id: one.id } } })),
)
const says = (field: string) => saysOf(make.problem.value, field)
</script>

<template>
  <section class="no-print">
    <h2>Shown to others</h2>
    <ul v-if="open.length">
      <li v-for="one in open" :key="one.id">
        {{ one.meant_for }}
        <span class="quiet">until {{ day(one.until) }}{{ one.with_records ? ', with records' : '' }}</span>
        <a-button size="small" type="link" :aria-label="`End the link of ${one.meant_for}`" @click="end.act(one)"
          >End</a-button
        >
      </li>
    </ul>
    <p v-else class="quiet">Nobody without an account sees it.</p>
    <ProblemNote v-if="end.problem.value" :error="end.problem.value" />
    <a-button size="small" @click="asking = true">Make a link</a-button>
    <FormDialog
      v-if="asking"
      open
      title="Show this rating to somebody"
      act="Make the link"
      hint="Whoever has the link sees this rating as it stands, and its dossier, without an account; nothing else."
      :ready="!!form.meant_for.trim() && !!form.days"
      :pending="make.pending.value"
      :problem="make.problem.value"
      @done="make.act"
      @cancel="asking = false"
    >
      <TextField v-model="form.meant_for" label="For whom" :max="80" :problem="says('meant_for')" />
      <NumberField v-model="form.days" label="For how many days" whole :min="1" :max="366" :problem="says('days')" />
      <a-checkbox v-model:checked="form.with_records"
        >with the records it rests on: the whole model, its units and waveforms</a-checkbox
      >
    </FormDialog>
    <SecretTold
      v-if="told"
      of="The link"
      :secret="told"
      hint="It is shown this once. Whoever has it can look until it lapses or is ended."
      @close="told = ''"
    />
  </section>
</template>
