<script setup lang="ts">
// Every version of something on record: who changed what when; an earlier one is brought back as a new one.
import { useQuery } from '@tanstack/vue-query'
import type { VersionView } from '../api/types'
import { useAct } from '../kit/act'
import FormDialog from '../kit/FormDialog.vue'
import { moment } from './format'
import { apart } from '../kit/useEntry'

const props = defineProps<{
  subject: string
  name: string
  read: () => Promise<VersionView[]>
  /** Makes an earlier version the one that holds. */
  bringBack?: (version: VersionView, seen: number) => Promise<unknown>
}>()
const emit = defineEmits<{ close: [] }>()
const { data: versions } = useQuery({ queryKey: ['versions', () => props.subject], queryFn: () => props.read() })
const { act, problem, pending } = useAct((version: VersionView) =>
  props.bringBack!(version, versions.value![0]!.number),
)
/** What a version changed; of the first, all that was entered. */
const differences = (at: number) => apart(versions.value![at + 1]?.data ?? {}, versions.value![at]!.data)
</script>

<template>
  <FormDialog
    open
    :title="`Versions of ${name}`"
    act="Close"
    :width="680"
    :problem="problem"
    :pending="pending"
    @done="emit('close')"
    @cancel="emit('close')"
  >
    <p v-if="versions && !versions.length" class="quiet">It is as it was first entered.</p>
    <ol class="versions">
      <li v-for="(one, at) in versions" :key="one.number">
        <p class="head">
          <strong>Version {{ one.number }}</strong>
          {{ one.by ? `${one.by}, ${moment(one.at)}` : 'as first entered' }}
          <span v-if="at === 0" class="quiet">holds now</span>
          <a-button v-else-if="bringBack" size="small" type="link" @click="act(one)">Bring it back</a-button>
        </p>
        <dl>
          <template v-for="d in differences(at)" :key="d.field">
            <dt>{{ d.field }}</dt>
            <dd>
              <del v-if="at < versions!.length - 1">{{ d.mine }}</del> {{ d.theirs }}
            </dd>
          </template>
        </dl>
      </li>
    </ol>
  </FormDialog>
</template>

<style scoped>
.versions {
  margin: 0;
  padding: 0;
  list-style: none;
}
.versions li {
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}
.head {
  margin: 0;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 16px;
  margin: 4px 0 0;
  font-size: 14px;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
del {
  color: var(--ink-2);
}
</style>
