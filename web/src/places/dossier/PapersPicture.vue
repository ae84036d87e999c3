<script setup lang="ts">
// What which paper says, in one picture: papers as rows, loads as columns, conflicts marked, what was measured beside.
import { computed } from 'vue'
import { fileAt } from '../../api/kept'
import type { DocumentView } from '../../api/kept'
import type { ClaimView, ModelView, ReachView } from '../../api/types'
import { conditions, ohms, watts } from '../../trade/format'
import VerdictMark from '../../trade/VerdictMark.vue'

const props = defineProps<{ model: ModelView; papers: readonly DocumentView[]; mayChange: boolean }>()
const emit = defineEmits<{ change: [paper: DocumentView] }>()

const claims = computed(() => props.model.claims.filter((one) => !one.withdrawn))
const isAt = (claim: ClaimView, reach: ReachView) =>
  claim.group === reach.group && claim.load_ohms === reach.load_ohms && claim.bridged === reach.bridged
/** Loads that a paper or a unit has something to say of. */
const columns = computed(() =>
  props.model.reaches
    .map((reach, index) => ({
      reach,
      index,
      name: `${reach.group} ${ohms(reach.load_ohms)}`,
      claims: claims.value.filter((one) => isAt(one, reach)),
      units: props.model.units.map((unit) => unit.reaches[index]?.certified_watts ?? null),
    }))
    .filter((one) => one.claims.length || one.reach.certified_watts !== null),
)
/** A paper that claims name stands here, on record or not; those without a figure come last. */
const rows = computed(() => {
  const named = new Map(props.papers.map((paper) => [paper.entry.name.toLowerCase(), paper]))
  const spoken = [...new Set(claims.value.map((one) => one.document))]
  const silent = props.papers.filter(
    (paper) => !spoken.some((name) => name.toLowerCase() === paper.entry.name.toLowerCase()),
  )
  return [
    ...spoken.map((name) => ({ name, paper: named.get(name.toLowerCase()) ?? null })),
    ...silent.map((paper) => ({ name: paper.entry.name, paper })),
  ]
})
const said = (name: string, column: (typeof columns.value)[number]) =>
  column.claims.filter((one) => one.document === name)
/** Of what a paper states in total, what each channel has of it. */
const each = (claim: ClaimView, reach: ReachView) =>
  reach.notches.find((notch) => notch.claim_id === claim.id)?.watts ?? claim.watts
/** Figures of one column share a scale; a “maximum” far beyond it would squeeze all the rest. */
const scale = (column: (typeof columns.value)[number]) =>
  Math.max(
    1,
    ...column.claims.filter((one) => one.kind === 'continuous').map((one) => each(one, column.reach)),
    ...column.units.map((one) => one ?? 0),
  ) * 1.12
const at = (value: number, column: (typeof columns.value)[number]) => `${Math.min(100, (100 * value) / scale(column))}%`
const facts = (paper: DocumentView) =>
  [paper.entry.kind, paper.entry.revision, paper.entry.dated, paper.entry.language].filter(Boolean).join(', ')
const against = (claim: ClaimView) =>
  claim.conflicts_with
    .map((id) => claims.value.find((one) => one.id === id))
    .filter((one) => one !== undefined)
    .map((one) => `${one.watts} W in ${one.document}`)
    .join(', ')
</script>

<template>
  <div class="scrolls">
    <table class="papers">
      <caption class="visually-hidden">
        What which paper says at which load
      </caption>
      <thead>
        <tr>
          <th scope="col">Paper</th>
          <th v-for="column in columns" :key="column.index" scope="col">
            {{ column.name }}
            <span class="below quiet">{{ column.reach.bridged ? 'bridged pair' : 'per channel' }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.name">
          <th scope="row">
            {{ row.name }}
            <span v-if="row.paper" class="below quiet">
              {{ facts(row.paper) }}
              <a v-if="row.paper.entry.file" :href="fileAt(row.paper.entry.file)" target="_blank" rel="noopener"
                >open</a
              >
              <a-button
                v-if="mayChange"
                class="no-print change"
                size="small"
                type="link"
                @click="emit('change', row.paper)"
                >Change</a-button
              >
            </span>
          </th>
          <td v-for="column in columns" :key="column.index">
            <div v-for="claim in said(row.name, column)" :key="claim.id" class="claim">
              <span class="figure">
                <strong class="mono">{{ claim.watts }} W</strong>
                <VerdictMark
                  v-if="claim.verdict"
                  :kind="claim.verdict.kind"
                  :outcome="claim.verdict.outcome"
                  :doubted="!!claim.verdict.doubts.length"
                  bare
                />
                <span v-if="claim.conflicts_with.length" class="danger" :title="`Against ${against(claim)}`"
                  >≠<span class="visually-hidden">against {{ against(claim) }}</span></span
                >
              </span>
              <span class="track" aria-hidden="true">
                <i
                  v-for="(value, unit) in column.units"
                  v-show="value !== null"
                  :key="unit"
                  class="tick"
                  :style="{ left: at(value ?? 0, column) }"
                />
                <i
                  class="notch"
                  :class="{ beyond: each(claim, column.reach) > scale(column) }"
                  :style="{ left: at(each(claim, column.reach), column) }"
                />
              </span>
              <span class="below quiet">
                {{ claim.kind === 'continuous' ? '' : `“${claim.kind}” · ` }}{{ conditions(claim)
                }}{{ claim.stands_at ? ` · ${claim.stands_at}` : '' }}
              </span>
            </div>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row">
            Measured
            <span class="below quiet"
              >certified, weakest unit{{ model.reaches.some((r) => r.simulated) ? ', simulated' : '' }}</span
            >
          </th>
          <td v-for="column in columns" :key="column.index">
            <template v-if="column.reach.certified_watts !== null">
              <strong class="mono">{{ watts(column.reach.certified_watts, column.reach.expanded_watts) }} W</strong>
              <span class="track" aria-hidden="true">
                <i class="bar" :style="{ width: at(column.reach.certified_watts, column) }" />
                <i
                  v-for="(value, unit) in column.units"
                  v-show="value !== null"
                  :key="unit"
                  class="tick"
                  :style="{ left: at(value ?? 0, column) }"
                />
              </span>
            </template>
            <span v-else class="quiet">not yet</span>
          </td>
        </tr>
      </tfoot>
    </table>
    <p class="legend quiet">
      <span class="key"><i class="notch" /></span> what the paper says <span class="key"><i class="tick" /></span> what
      each unit gave, certified <span class="danger">≠</span> papers contradict each other
    </p>
  </div>
</template>

<style scoped>
.change {
  margin-left: 10px;
}
.papers {
  width: 100%;
  border-collapse: collapse;
  font-size: 14px;
}
th,
td {
  padding: 7px 14px 7px 0;
  text-align: left;
  vertical-align: top;
  font-weight: 400;
  border-bottom: 1px solid var(--rule);
}
thead th {
  color: var(--ink-2);
  padding-bottom: 4px;
}
tbody th {
  min-width: 170px;
  max-width: 240px;
}
td {
  min-width: 128px;
}
tfoot th,
tfoot td {
  border-bottom: none;
  border-top: 1px solid var(--rule-strong);
}
tfoot th {
  font-weight: 600;
}
tfoot .below {
  font-weight: 400;
}
.below {
  display: block;
  font-size: 13px;
  line-height: 1.3;
}
.below :deep(.ant-btn) {
  height: auto;
  padding: 0;
  font-size: 13px;
}
.claim + .claim {
  margin-top: 8px;
}
.figure {
  display: flex;
  gap: 7px;
  align-items: center;
}
.track {
  position: relative;
  display: block;
  height: 10px;
  margin: 2px 0;
  border-bottom: 1px solid var(--rule-strong);
}
.track i,
.key i {
  position: absolute;
  bottom: -1px;
  display: block;
}
.tick {
  width: 2px;
  height: 7px;
  background: var(--certified);
}
.bar {
  left: 0;
  height: 7px;
  background: var(--certified-band);
}
.notch {
  width: 3px;
  height: 11px;
  margin-left: -1px;
  background: var(--claim);
}
.notch.beyond {
  background: none;
  border-right: 3px dotted var(--claim);
}
.legend {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 8px;
  margin-top: 8px;
  font-size: 13px;
}
.key {
  position: relative;
  width: 4px;
  height: 11px;
  margin-left: 12px;
}
.key:first-child {
  margin-left: 0;
}
</style>
