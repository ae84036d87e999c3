<script setup lang="ts">
// What the checks found in a reading: by shape, word and sentence, with what to do; set aside ones stay readable.
import type { FindingView } from '../api/types'

defineProps<{
  findings: readonly FindingView[]
  brief?: boolean /** Weights of findings that the person may set aside. */
  overrules?: readonly FindingView['severity'][]
}>()
const emit = defineEmits<{ overrule: [code: string] }>()
const WORDS = { invalid: 'Invalid', doubt: 'Doubt', note: 'Note' } as const
</script>

<template>
  <ul v-if="findings.length" class="findings" aria-label="Findings of the checks">
    <li v-for="f in findings" :key="f.code" :data-severity="f.severity" :data-aside="!!f.overruled_by || undefined">
      <svg width="13" height="13" viewBox="-7 -7 14 14" aria-hidden="true">
        <path v-if="f.severity === 'invalid'" d="M-4.5 -4.5L4.5 4.5M4.5 -4.5L-4.5 4.5" class="stroke" />
        <path v-else-if="f.severity === 'doubt'" d="M0 -5.5L5.5 4.5H-5.5Z" class="stroke" />
        <path v-else d="M-5 0H5" class="stroke" />
      </svg>
      <div>
        <strong>{{ WORDS[f.severity] }}:</strong> {{ f.message }}
        <span v-if="!brief" class="quiet"
          >{{ f.advice }} <span class="mono">{{ f.code }}</span></span
        >
        <span v-if="f.overruled_by" class="aside">Set aside by {{ f.overruled_by }}: {{ f.overruled_because }}</span>
        <button
          v-else-if="overrules?.includes(f.severity)"
          :aria-label="`Set ${f.code} aside`"
          @click="emit('overrule', f.code)"
        >
          Set aside …
        </button>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.findings {
  list-style: none;
  margin: 8px 0;
  padding: 0;
  font-size: 14px;
}
li {
  display: grid;
  grid-template-columns: 16px 1fr;
  gap: 6px;
  padding: 3px 0;
  line-height: 1.35;
}
svg {
  margin-top: 3px;
}
.stroke {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.8;
}
[data-severity='invalid'] svg,
[data-severity='invalid'] strong {
  color: var(--danger);
}
[data-severity='doubt'] svg,
[data-severity='doubt'] strong {
  color: var(--doubt);
}
[data-severity='note'] svg,
[data-severity='note'] strong {
  color: var(--ink-2);
}
[data-aside] > div {
  color: var(--ink-2);
}
.mono {
  font-size: 12px;
}
.aside {
  display: block;
  font-style: italic;
}
button {
  font: inherit;
  font-size: 13px;
  min-height: 24px;
  color: var(--ink-2);
  background: none;
  border: none;
  padding: 0 4px;
  cursor: pointer;
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
