<script setup lang="ts">
// Backups, for admins: those that are kept, how old the latest is, and one now.
import './people.css'
import { useQuery } from '@tanstack/vue-query'
import client, { answered } from '../../api/client'
import type { BackupsView } from '../../api/types'
import { useAct } from '../../kit/act'
import type { Column } from '../../kit/columns'
import DataTable from '../../kit/DataTable.vue'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { moment } from '../../trade/format'

type Backup = BackupsView['backups'][number]
const {
  data: kept,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['backups'],
  queryFn: () => answered(client.GET('/api/backups')),
  refetchInterval: (query) => (query.state.data?.running ? 1000 : 60_000),
})
const take = useAct(() => answered(client.POST('/api/backups')), { takesLong: true })
const size = (bytes: number) => `${(bytes / 1e6).toFixed(1)}`
const COLUMNS: Column<Backup>[] = [
  { key: 'made', head: 'Taken', text: (one) => moment(one.made_at), value: (one) => one.made_at },
  { key: 'name', head: 'File', text: (one) => one.name, look: 'mono' },
  { key: 'size', head: 'Size', unit: 'MB', text: (one) => size(one.bytes), value: (one) => one.bytes, num: true },
]
</script>

<template>
  <PageFrame
    title="Backups"
    :trail="[{ name: 'People', to: '/people' }, { name: 'Backups' }]"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  />
  <header class="people-head">
    <h1>Backups</h1>
    <p class="quiet">The records with every file they name; taken while Rulvek is at work.</p>
    <a-button v-if="kept?.folder" class="end" :loading="take.pending.value || kept.running" @click="take.act()">
      {{ kept.running && kept.of ? `${kept.done} of ${kept.of} files` : 'Back up now' }}
    </a-button>
  </header>
  <template v-if="kept">
    <ProblemNote v-if="take.problem.value" :error="take.problem.value" />
    <p v-else-if="kept.problem" class="danger" role="alert">The last one failed: {{ kept.problem }}</p>
    <p v-if="!kept.folder" class="empty">
      No backups are scheduled. Set <code>RULVEK_BACKUP_FOLDER</code> to a folder on another disk and start Rulvek
      again; or take them by <code>rulvek backup</code>, with a timer of the machine.
    </p>
    <template v-else>
      <p :class="kept.overdue ? 'danger' : 'quiet'">
        {{ kept.overdue ? 'Overdue: one' : 'One' }} every {{ kept.every_hours }} h to
        <span class="mono">{{ kept.folder }}</span>, the latest {{ kept.keep }} are kept.
      </p>
      <DataTable
        v-if="kept.backups.length"
        :id="(one) => one.name"
        name="Backups"
        :rows="kept.backups"
        :columns="COLUMNS"
        sort-name="backups"
      />
      <p v-else class="empty">None has been taken yet.</p>
    </template>
    <p class="quiet">
      <code>rulvek verify FILE</code> holds one against its manifest, <code>rulvek restore FILE FOLDER</code> puts it
      into a folder of its own.
    </p>
  </template>
</template>

<style scoped>
.danger {
  color: var(--danger);
}
</style>
