<script setup lang="ts">
// The lab's own methods: what is in use, what waits for an approval, and the next version proposed.
import { computed, ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import { useMay } from '../../api/me'
import client, { answered } from '../../api/client'
import type { LabMethodsView, MethodVersionView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import { useDraft } from '../../kit/draft'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import RowsField from '../../kit/RowsField.vue'
import TextField from '../../kit/TextField.vue'
import { counted, day } from '../../trade/format'

const props = defineProps<{ lab: LabMethodsView }>()
const mayPropose = useMay('plan')
const mayApprove = useMay('sign')
const queries = useQueryClient()
const renewed = (told: LabMethodsView) => queries.setQueryData(['lab methods'], told)

const BLANK = { name: 'Standard', reason: '', changes: [{ field: null as string | null, value: '' }] }
const { draft, forget } = useDraft('rulvek.method', BLANK)
const proposing = ref(false)
const unitOf = computed(() => new Map(props.lab.fields.map((one) => [one.name, one])))
const choices = computed(() =>
  props.lab.fields.map((one) => ({
    value: one.name,
    label: `${one.name}, ${one.unit ? `${one.unit}; ` : ''}ships as ${one.usual}`,
  })),
)
const propose = useAct(
  () =>
    answered(
      client.POST('/api/methods', {
        body: {
          name: draft.value.name,
          reason: draft.value.reason,
          changes: draft.value.changes
            .filter((one) => one.field)
            .map((one) => ({ field: one.field ?? '', value: one.value })),
        },
      }),
    ),
  {
    done: (told) => {
      forget()
      proposing.value = false
      renewed(told)
    },
  },
)
const says = (field: string) => saysOf(propose.problem.value, field)
const approving = ref(0)
const approve = useAct(
  () =>
    answered(client.POST('/api/methods/{version_id}/approval', { params: { path: { version_id: approving.value } } })),
  { done: renewed },
)
function approveOne(version: MethodVersionView) {
  approving.value = version.id
  approve.act()
}
const stands = (one: MethodVersionView) =>
  one.in_use ? 'in use' : one.approved_at ? 'replaced' : 'waits for an approval'
const than = (one: MethodVersionView) => (one.number > 1 ? `version ${one.number - 1}` : 'what ships')

type Difference = MethodVersionView['differences'][number]
const columns = (one: MethodVersionView): Column<Difference>[] => [
  { key: 'field', head: 'Value', text: (each) => each.field, look: 'mono', unsorted: true },
  { key: 'here', head: 'Here', text: (each) => withUnit(each.field, each.here), num: true, unsorted: true },
  {
    key: 'before',
    head: one.number > 1 ? `In version ${one.number - 1}` : 'As it ships',
    text: (each) => withUnit(each.field, each.today),
    num: true,
    unsorted: true,
  },
]
const withUnit = (field: string, value: string) =>
  value === 'none' ? value : `${value} ${unitOf.value.get(field)?.unit ?? ''}`.trim()
</script>

<template>
  <section class="section" aria-label="The lab’s own methods">
    <header>
      <h2>The lab’s own</h2>
      <span class="quiet">
        Proposed by an engineer, approved by a reviewer who did not propose it; then campaigns are planned under it.
        “Standard” is what they are planned under where nobody says otherwise.
      </span>
      <a-button v-if="mayPropose && !proposing" @click="proposing = true">Propose a version</a-button>
    </header>
    <form v-if="mayPropose && proposing" class="next" aria-label="The next version" @submit.prevent="propose.act()">
      <div class="two">
        <TextField v-model="draft.name" label="Method" :max="80" required :problem="says('name')" />
        <TextField v-model="draft.reason" label="Why" :max="2000" required :problem="says('reason')" />
      </div>
      <RowsField
        v-slot="{ row, at }"
        v-model="draft.changes"
        label="What it has otherwise than its latest version, or than what ships"
        :blank="BLANK.changes[0]!"
        add="Change another value"
        :most="80"
      >
        <PickOne v-model="row.field" label="Value" :choices="choices" placeholder="which one" />
        <TextField
          v-model="row.value"
          label="Is to be"
          :max="200"
          :problem="says(`changes.${at}.field`) || says(`changes.${at}.value`)"
        />
      </RowsField>
      <ProblemNote v-if="propose.problem.value" :error="propose.problem.value" />
      <p class="acts">
        <a-button html-type="submit" type="primary" :loading="propose.pending.value">Propose it</a-button>
        <a-button @click="proposing = false">Leave it</a-button>
      </p>
    </form>
    <p v-if="!lab.versions.length" class="quiet">
      None yet: campaigns are planned under what ships with the program. Set its values from your own licensed copies of
      the standards.
    </p>
    <article v-for="one in lab.versions" :key="one.id" class="version">
      <header>
        <h3>{{ one.title }}</h3>
        <span class="state">{{ stands(one) }}</span>
        <span class="quiet">
          {{ one.proposed_by }}, {{ day(one.proposed_at)
          }}<template v-if="one.approved_at">; approved by {{ one.approved_by }}, {{ day(one.approved_at) }}</template
          >;
          <RouterLink v-if="one.latest_campaign_id" :to="`/campaigns/${one.latest_campaign_id}`">{{
            counted(one.campaigns, 'campaign')
          }}</RouterLink>
          <template v-else>no campaign yet</template>;
          <RouterLink :to="{ path: '/evidence/read-again', query: { method: one.id } }"
            >what would it change?</RouterLink
          >
        </span>
        <a-button
          v-if="!one.approved_at && mayApprove"
          size="small"
          :loading="approve.pending.value && approving === one.id"
          @click="approveOne(one)"
          >Approve {{ one.title }}</a-button
        >
      </header>
      <ProblemNote v-if="approve.problem.value && approving === one.id" :error="approve.problem.value" />
      <p>{{ one.reason }}</p>
      <DataTable
        v-if="one.differences.length"
        :id="(each) => each.field"
        :name="`What ${one.title} has otherwise than ${than(one)}`"
        :rows="one.differences"
        :columns="columns(one)"
        plain
      />
    </article>
  </section>
</template>

<style scoped>
.version {
  padding: 8px 0 14px;
  max-width: 820px;
}
.next {
  padding-bottom: 18px;
  margin-bottom: 8px;
  border-bottom: 1px solid var(--rule);
}
.version header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}
.version h3 {
  margin: 0;
  font-size: 15px;
}
.version p {
  margin: 4px 0 6px;
}
.state {
  font-size: 13px;
  font-weight: 600;
}
.two {
  display: grid;
  grid-template-columns: 260px 1fr;
  gap: 10px 18px;
  margin-bottom: 8px;
}
.acts {
  display: flex;
  gap: 12px;
  margin-top: 12px;
}
.version a {
  text-decoration: underline;
}
</style>
