<script setup lang="ts" generic="Row extends object">
// Several of a kind in a form, one a row: added below, dropped beside.
const props = defineProps<{ label: string; blank: Row; add: string; most?: number }>()
const rows = defineModel<Row[]>({ required: true })
const copy = () => JSON.parse(JSON.stringify(props.blank)) as Row
</script>

<template>
  <fieldset class="rows">
    <legend>{{ label }}</legend>
    <div v-for="(row, at) in rows" :key="at" class="row">
      <slot :row="row" :at="at" />
      <a-button size="small" type="text" :aria-label="`Drop row ${at + 1} of ${label}`" @click="rows.splice(at, 1)"
        >Drop</a-button
      >
    </div>
    <a-button v-if="rows.length < (most ?? 40)" size="small" @click="rows.push(copy())">{{ add }}</a-button>
  </fieldset>
</template>

<style scoped>
.rows {
  margin: 4px 0 0;
  padding: 0;
  border: none;
  font-size: 14px;
}
legend {
  padding: 0;
  font-weight: 600;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: flex-start;
  padding: 4px 0 8px;
  border-bottom: 1px solid var(--rule);
  margin-bottom: 6px;
}
.row > :deep(*) {
  flex: 1 1 70px;
  min-width: 0;
}
/* What has no label of its own is beside the fields, below their labels. */
.row > :deep(.ant-btn) {
  flex: none;
  margin-top: 27px;
}
.row > :deep(.ant-checkbox-wrapper) {
  margin-top: 24px;
}
</style>
