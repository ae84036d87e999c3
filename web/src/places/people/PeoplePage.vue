<script setup lang="ts">
// People: who has an account, with which roles; admins make, change and close accounts, and give codes and tokens.
import './people.css'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import type { CodeView, PersonView, Role, TokenView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import FormDialog from '../../kit/FormDialog.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import TextField from '../../kit/TextField.vue'
import { day } from '../../trade/format'
import RolesField from './RolesField.vue'
import SecretTold from '../../trade/SecretTold.vue'
import { ROLE_WORDS } from './roles'

const isAdmin = useMay('administer')
const {
  data: everybody,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['people'],
  queryFn: () => answered(client.GET('/api/people')),
})
const { data: tokens } = useQuery({
  queryKey: ['tokens'],
  queryFn: () => answered(client.GET('/api/tokens')),
  enabled: isAdmin,
})
const { data: backups } = useQuery({
  queryKey: ['backups'],
  queryFn: () => answered(client.GET('/api/backups')),
  enabled: isAdmin,
})
const words = (roles: readonly Role[]) => roles.map((role) => ROLE_WORDS[role]).join(', ')
const state = (one: PersonView) =>
  one.closed ? 'left' : one.demo ? 'of the demo' : one.waiting ? 'has a code, no password yet' : ''
const COLUMNS: Column<PersonView>[] = [
  { key: 'name', head: 'Name', text: (one) => one.name },
  { key: 'roles', head: 'Roles', text: (one) => words(one.roles) },
  { key: 'state', head: 'Account', text: state },
  { key: 'acts', head: '', text: () => '', unsorted: true },
]
const TOKENS: Column<TokenView>[] = [
  { key: 'name', head: 'Token', text: (one) => one.name },
  { key: 'person', head: 'Acts for', text: (one) => one.person },
  { key: 'roles', head: 'Roles', text: (one) => words(one.roles) },
  { key: 'until', head: 'Until', text: (one) => (one.ended ? 'ended' : day(one.until)), value: (one) => one.until },
  { key: 'acts', head: '', text: () => '', unsorted: true },
]

/** Whose roles or token are asked about; null while somebody new is. */
const whose = ref<PersonView | null>(null)
const form = ref<'add' | 'roles' | 'token' | null>(null)
const name = ref('')
const roles = ref<Role[]>([])
const days = ref<number | null>(90)
const told = ref<{ of: string; secret: string; hint: string } | null>(null)
const coded = (given: CodeView) =>
  (told.value = {
    of: `One-time code for ${given.person.name}`,
    secret: given.code,
    hint: `Hand it over: with it ${given.person.name} sets a password. It holds for one use, until ${day(given.until)}.`,
  })

function open(what: 'add' | 'roles' | 'token', one: PersonView | null = null) {
  form.value = what
  whose.value = one
  name.value = ''
  roles.value = what === 'add' ? [] : [...(one?.roles ?? [])]
  add.forget()
}
const add = useAct(async () => {
  const id = whose.value?.id ?? 0
  const params = { path: { person_id: id } }
  if (form.value === 'add')
    coded(await answered(client.POST('/api/people', { body: { name: name.value, roles: roles.value } })))
  else if (form.value === 'roles')
    await answered(client.PUT('/api/people/{person_id}/roles', { params, body: { roles: roles.value } }))
  else {
    const body = { name: name.value, roles: roles.value, days: days.value ?? 0 }
    const given = await answered(client.POST('/api/people/{person_id}/tokens', { params, body }))
    const hint = 'A script sends it as “Authorization: Bearer …”. It is shown this once.'
    told.value = { of: `Token “${given.of.name}”, acting for ${given.of.person}`, secret: given.token, hint }
  }
  form.value = null
})
const act = useAct(async (what: 'code' | 'closing' | 'opening', one: PersonView) => {
  const params = { path: { person_id: one.id } }
  if (what === 'code') coded(await answered(client.POST('/api/people/{person_id}/code', { params })))
  else if (what === 'opening') coded(await answered(client.POST('/api/people/{person_id}/opening', { params })))
  else await answered(client.POST('/api/people/{person_id}/closing', { params }))
})
const endToken = useAct((one: TokenView) =>
  answered(client.DELETE('/api/tokens/{token_id}', { params: { path: { token_id: one.id } } })),
)
const leaving = ref<PersonView | null>(null)
async function close() {
  if (leaving.value && (await act.act('closing', leaving.value))) leaving.value = null
}
const title = computed(
  () =>
    ({
      add: 'Add a person',
      roles: `Roles of ${whose.value?.name}`,
      token: `A token that acts for ${whose.value?.name}`,
    })[form.value ?? 'add'],
)
const ACTS = { add: 'Add the person', roles: 'Keep the roles', token: 'Make the token' } as const
const says = (field: string) => saysOf(add.problem.value, field)
</script>

<template>
  <header class="people-head">
    <h1>People</h1>
    <p class="quiet">Who works in these records, and what each may do. Nobody is ever deleted: who left stays named.</p>
    <RouterLink v-if="isAdmin" class="end" to="/backups" :class="{ danger: backups?.overdue || backups?.problem }">{{
      backups?.overdue || backups?.problem ? 'Backups: overdue' : 'Backups'
    }}</RouterLink>
    <a-button v-if="isAdmin" class="add" type="primary" @click="open('add')">Add a person</a-button>
  </header>
  <PageFrame title="People" :pending="isPending" :error="error" @retry="refetch" />
  <ProblemNote v-if="act.problem.value && !leaving" :error="act.problem.value" />
  <DataTable
    v-if="everybody"
    :id="(one) => one.id"
    name="People"
    :rows="everybody"
    :columns="COLUMNS"
    sort-name="people"
  >
    <template #acts="{ row }">
      <span v-if="isAdmin" class="acts">
        <template v-if="!row.closed">
          <a-button size="small" type="link" :aria-label="`Roles of ${row.name}`" @click="open('roles', row)"
            >Roles</a-button
          >
          <a-button size="small" type="link" :aria-label="`New code for ${row.name}`" @click="act.act('code', row)"
            >New code</a-button
          >
          <a-button size="small" type="link" :aria-label="`Token for ${row.name}`" @click="open('token', row)"
            >Token</a-button
          >
          <a-button size="small" type="link" danger :aria-label="`${row.name} has left`" @click="leaving = row"
            >Has left</a-button
          >
        </template>
        <a-button v-else size="small" type="link" :aria-label="`${row.name} is back`" @click="act.act('opening', row)"
          >Is back</a-button
        >
      </span>
    </template>
  </DataTable>
  <template v-if="isAdmin && tokens?.length">
    <h2>Tokens for scripts</h2>
    <DataTable :id="(one) => one.id" name="Tokens for scripts" :rows="tokens" :columns="TOKENS" sort-name="tokens">
      <template #acts="{ row }">
        <a-button
          v-if="!row.ended"
          size="small"
          type="link"
          danger
          :aria-label="`End the token ${row.name}`"
          @click="endToken.act(row)"
          >End</a-button
        >
      </template>
    </DataTable>
  </template>

  <FormDialog
    :open="form !== null"
    :title="title"
    :act="ACTS[form ?? 'add']"
    :ready="roles.length > 0 && (form === 'roles' || !!name.trim())"
    :pending="add.pending.value"
    :problem="add.problem.value"
    @done="add.act"
    @cancel="form = null"
  >
    <TextField v-if="form === 'add'" v-model="name" label="Name" :max="80" :problem="says('name')" />
    <TextField v-if="form === 'token'" v-model="name" label="What uses it" :max="80" :problem="says('name')" />
    <NumberField v-if="form === 'token'" v-model="days" label="Holds for" unit="days" :min="1" :max="366" />
    <RolesField v-model="roles" :among="form === 'token' ? whose?.roles : undefined" :problem="says('roles')" />
  </FormDialog>
  <FormDialog
    :open="leaving !== null"
    :title="`${leaving?.name} has left`"
    act="Close the account"
    danger
    :hint="`${leaving?.name} is signed out everywhere and cannot come back until the account is opened again. Everything they did stays under their name.`"
    :pending="act.pending.value"
    :problem="act.problem.value"
    @done="close"
    @cancel="leaving = null"
  />
  <SecretTold v-if="told" :of="told.of" :secret="told.secret" :hint="told.hint" @close="told = null" />
</template>

<style scoped>
.danger {
  color: var(--danger);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
}
h2 {
  margin-top: 28px;
}
</style>
