<script setup lang="ts">
// The roles of somebody: each by name, with what it is for.
import type { Role } from '../../api/types'
import { ROLES, ROLE_MEANS, ROLE_WORDS } from './roles'

const { among = ROLES } = defineProps<{ among?: readonly Role[]; problem?: string }>()
const value = defineModel<Role[]>({ required: true })
const turn = (role: Role, on: boolean) =>
  (value.value = ROLES.filter((one) => (one === role ? on : value.value.includes(one))))
</script>

<template>
  <fieldset class="roles">
    <legend>Roles</legend>
    <label v-for="role in among" :key="role">
      <a-checkbox :checked="value.includes(role)" @update:checked="turn(role, $event)">
        {{ ROLE_WORDS[role] }} <span class="quiet">{{ ROLE_MEANS[role] }}</span>
      </a-checkbox>
    </label>
    <p v-if="problem" class="told" role="alert">{{ problem }}</p>
  </fieldset>
</template>

<style scoped>
.roles {
  display: grid;
  gap: 4px;
  margin: 10px 0 0;
  padding: 0;
  border: 0;
  font-size: 14px;
}
legend {
  margin: 0 0 2px;
  padding: 0;
}
.roles :deep(.ant-checkbox) {
  align-self: start;
  margin-top: 4px;
}
.told {
  margin: 0;
  font-size: 13px;
  color: var(--danger);
}
</style>
