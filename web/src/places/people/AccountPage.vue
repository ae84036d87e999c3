<script setup lang="ts">
// One's own account: roles, password, and the browsers in which one is signed in.
import './people.css'
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMe } from '../../api/me'
import type { SessionView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import FormDialog from '../../kit/FormDialog.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { saysOf } from '../../kit/problem'
import { moment } from '../../trade/format'
import PasswordField from './PasswordField.vue'
import { browserWords } from './browsers'
import { ROLE_MEANS, ROLE_WORDS } from './roles'

const { me, signOut } = useMe()
const {
  data: sessions,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['my sessions'],
  queryFn: () => answered(client.GET('/api/me/sessions')),
})
const COLUMNS: Column<SessionView>[] = [
  { key: 'browser', head: 'Browser', text: (one) => browserWords(one.browser) + (one.this ? ' (this one)' : '') },
  { key: 'address', head: 'From', text: (one) => one.address, look: 'mono' },
  { key: 'began', head: 'Since', text: (one) => moment(one.began_at), value: (one) => one.began_at },
  { key: 'seen', head: 'Last used', text: (one) => moment(one.seen_at), value: (one) => one.seen_at },
  { key: 'acts', head: '', text: () => '', unsorted: true },
]
const end = useAct((one: SessionView) =>
  client.DELETE('/api/me/sessions/{session_id}', { params: { path: { session_id: one.id } } }),
)
const changing = ref(false)
const old = ref('')
const password = ref('')
const change = useAct(
  async () => {
    const { error: refused } = await client.POST('/api/me/password', {
      body: { old: old.value, password: password.value },
    })
    if (refused) throw { problem: refused }
  },
  { takesLong: true, done: () => (changing.value = false) },
)
function begin() {
  old.value = password.value = ''
  change.forget()
  changing.value = true
}
const says = (field: string) => saysOf(change.problem.value, field)
</script>

<template>
  <header class="people-head">
    <h1>{{ me?.person?.name }}</h1>
    <p class="quiet">Your account. What you do here is kept under this name.</p>
    <a-button class="end" @click="signOut">Sign out</a-button>
  </header>
  <PageFrame title="Your account" :pending="isPending" :error="error" @retry="refetch" />
  <dl class="roles">
    <template v-for="role in me?.person?.roles" :key="role">
      <dt>{{ ROLE_WORDS[role] }}</dt>
      <dd class="quiet">{{ ROLE_MEANS[role] }}</dd>
    </template>
  </dl>
  <p v-if="!me?.person?.demo"><a-button @click="begin">Change the password</a-button></p>
  <h2>Where you are signed in</h2>
  <DataTable
    v-if="sessions"
    :id="(one) => one.id"
    name="Sessions"
    :rows="sessions"
    :columns="COLUMNS"
    sort-name="sessions"
  >
    <template #acts="{ row }">
      <a-button v-if="!row.this" size="small" type="link" danger @click="end.act(row)">End</a-button>
    </template>
  </DataTable>
  <FormDialog
    :open="changing"
    title="Change the password"
    act="Change it"
    hint="All your other sessions end."
    :ready="!!old && !!password"
    :pending="change.pending.value"
    :problem="says('old') || says('password') ? null : change.problem.value"
    @done="change.act"
    @cancel="changing = false"
  >
    <PasswordField v-model="old" label="Password that holds now" :problem="says('old')" />
    <PasswordField v-model="password" label="New password, at least 12 characters" fresh :problem="says('password')" />
  </FormDialog>
</template>

<style scoped>
.roles {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 16px;
}
.roles dd {
  margin: 0;
}
h2 {
  margin-top: 28px;
}
</style>
