<script setup lang="ts">
// A unit's readings on one sheet: its loads by the modes; one save makes one campaign, each reading held to the others.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useUnit } from '../../api/queries'
import type { HandReading, Mode } from '../../api/types'
import { useAct } from '../../kit/act'
import DateField from '../../kit/DateField.vue'
import { useDraft } from '../../kit/draft'
import DraftNote from '../../kit/DraftNote.vue'
import NumberField from '../../kit/NumberField.vue'
import PageFrame from '../../kit/PageFrame.vue'
import PickOne from '../../kit/PickOne.vue'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import TextField from '../../kit/TextField.vue'
import { MODE_WORDS, place } from '../../trade/format'
import ModeMark from '../../trade/ModeMark.vue'
import { unitTrail } from '../../trade/trails'
import './outside.css'
import { VEHICLES } from './outsideRun'
import SheetCell from './SheetCell.vue'
import type { Row } from './sheetCells'
import { BLANK_SHEET, blankCell, keyOf, readingOf, rowsOf } from './sheetCells'

const props = defineProps<{ id: number }>()
const router = useRouter()
const { data: unit, error, isPending, refetch } = useUnit(() => props.id)
const kept = useDraft(`rulvek.unit-sheet.${props.id}`, BLANK_SHEET)
const sheet = kept.draft
const MODES: Mode[] = ['certified', 'uncertified', 'burst']
const SORTS = [
  { value: 'watts', label: 'Watts' },
  { value: 'volts_rms', label: 'Volts rms' },
  { value: 'volts_peak', label: 'Volts peak' },
] as const
const SUPPLIES = [
  { value: 'held', label: 'Held at a voltage' },
  { value: 'bank', label: 'Floating bank' },
  ...VEHICLES,
] as const
const rows = computed(() => rowsOf(unit.value?.model.groups ?? []))
const places = computed(() => rows.value.flatMap((row) => MODES.map((mode) => ({ row, mode, key: keyOf(row, mode) }))))
// Every cell of the unit's own loads has its place in the draft.
watch(
  places,
  (now) => {
    const known = new Set(sheet.value.cells.filter((cell) => cell.nth === 1).map((cell) => cell.key))
    const missing = now.filter(({ key }) => !known.has(key))
    if (missing.length)
      kept.amend({ ...sheet.value, cells: [...sheet.value.cells, ...missing.map(({ key }) => blankCell(key))] })
  },
  { immediate: true },
)
/** Where the readings of a cell stand in the draft, the first one first. */
const inCell = (key: string) =>
  sheet.value.cells
    .map((cell, at) => ({ cell, at }))
    .filter(({ cell }) => cell.key === key)
    .sort((a, b) => a.cell.nth - b.cell.nth)
function again(key: string) {
  const nth = Math.max(...inCell(key).map(({ cell }) => cell.nth)) + 1
  sheet.value.cells.push(blankCell(key, nth))
}

const filled = computed(() =>
  places.value.flatMap(({ row, mode, key }) =>
    inCell(key).flatMap(({ cell }) => {
      const reading = readingOf(sheet.value, cell, row, mode)
      return reading ? [{ key: `${key}/${cell.nth}`, reading }] : []
    }),
  ),
)
const body = computed<HandReading[]>(() => filled.value.map((one) => one.reading))
const path = () => ({ params: { path: { unit_id: props.id } } })
const { data: shown, error: refused } = useQuery({
  queryKey: ['sheet', () => props.id, body],
  enabled: computed(() => body.value.length > 0),
  placeholderData: keepPreviousData,
  retry: false,
  meta: { fixed: true },
  queryFn: async () => {
    const keys = filled.value.map((one) => one.key)
    const view = await answered(client.POST('/api/units/{unit_id}/sheet/preview', { ...path(), body: body.value }))
    return new Map(keys.map((key, index) => [key, view.cells[index] ?? null]))
  },
})
const { act, pending, problem } = useAct(
  () => answered(client.POST('/api/units/{unit_id}/sheet', { ...path(), body: body.value })),
  {
    done: async (made) => {
      kept.forget()
      await router.push(`/campaigns/${made.campaign_id}`)
    },
  },
)
const wrong = computed(() => problem.value ?? refused.value)
/** What the server says of a cell: it names cells by their place among the filled ones. */
function saysOfCell(key: string): string {
  const place = filled.value.findIndex((one) => one.key === key)
  const fields = ['amps', 'loaded_volts', 'channels', 'start_volts', 'tripped_watts']
  return place < 0 ? '' : fields.map((field) => saysOf(wrong.value, `${place}.${field}`)).join('')
}
function nameOf(row: Row, mode: Mode, nth: number): string {
  const name = `${MODE_WORDS[mode]}, ${row.group.name}, ${place({ load_ohms: row.load, bridged: row.bridged })}`
  return nth > 1 ? `${name}, attempt ${nth}` : name
}
const typed = computed(() => sheet.value.cells.filter((cell) => cell.figures.trim()).length)
const missing = computed(() => {
  if (!typed.value) return 'Type what was read in at least one cell.'
  if (sheet.value.volts === null)
    return sheet.value.supply === 'held'
      ? 'Say at how many volts the supply was held.'
      : 'Say from how many volts the supply started.'
  if (sheet.value.accuracy === null) return 'Say how exact the instrument is, in percent of its volts.'
  if (!sheet.value.instrument.trim()) return 'Name the instrument that was read.'
  return body.value.length < typed.value ? 'A cell cannot be taken as it stands.' : ''
})
</script>

<template>
  <PageFrame
    title="A sheet"
    :trail="unit ? unitTrail(unit, 'A sheet') : []"
    :pending="isPending"
    :error="error"
    @retry="refetch"
  >
    <form v-if="unit" class="outside" @submit.prevent="missing || act()">
      <header class="head">
        <h1>
          A sheet <span class="mono quiet">{{ unit.unit.serial }}</span>
        </h1>
        <p class="quiet">
          Readings of one day by one instrument, as one campaign. A figure of each channel, parted by blanks; W, V or Vp
          behind it says what it is, and both stand in a cell where both were read (80.5W 81W 18.1V 18.2V). “–” stands
          for a channel that was not read.
        </p>
      </header>
      <DraftNote :draft="kept" />
      <fieldset>
        <legend>All of it</legend>
        <TextField v-model="sheet.instrument" label="Read with" :max="120" :problem="saysOf(wrong, 'instrument')" />
        <NumberField v-model="sheet.accuracy" label="Its limits, ± of volts" unit="%" required :min="0" />
        <PickOne v-model="sheet.sort" label="Figures without a unit are" :choices="SORTS" />
        <DateField v-model="sheet.read_on" label="Day" placeholder="today" :problem="saysOf(wrong, 'read_on')" />
        <PickOne v-model="sheet.supply" label="Supply" :choices="SUPPLIES" />
        <NumberField
          v-model="sheet.volts"
          :label="sheet.supply === 'held' ? 'Held at' : 'Started from'"
          unit="V"
          :min="1"
          :max="30"
        />
        <NumberField v-model="sheet.idle_amps" label="Clamp at idle" unit="A" :min="-2000" />
        <TextField v-model="sheet.remark" label="Remark" :max="2000" />
      </fieldset>
      <div class="scrolls" role="region" aria-label="Readings by load and mode" tabindex="0">
        <table class="figures grid">
          <thead>
            <tr>
              <th scope="col">Load</th>
              <th v-for="mode in MODES" :key="mode" scope="col">
                <ModeMark :mode="mode" named /> {{ MODE_WORDS[mode] }}
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in rows" :key="keyOf(row, 'certified')">
              <th scope="row">
                <strong>{{ place({ load_ohms: row.load, bridged: row.bridged }) }}</strong>
                <div class="quiet">{{ row.group.name }} {{ row.places.map((p) => p.name).join(', ') }}</div>
              </th>
              <td v-for="mode in MODES" :key="mode">
                <SheetCell
                  v-for="{ cell, at } in inCell(keyOf(row, mode))"
                  :key="cell.nth"
                  v-model="sheet.cells[at]!"
                  :row="row"
                  :mode="mode"
                  :sort="sheet.sort"
                  :bursts="unit.model.defaults.bursts"
                  :name="nameOf(row, mode, cell.nth)"
                  :shown="shown?.get(`${keyOf(row, mode)}/${cell.nth}`) ?? null"
                  :idle="sheet.idle_amps"
                  :problem="saysOfCell(`${keyOf(row, mode)}/${cell.nth}`)"
                  @again="again(keyOf(row, mode))"
                  @drop="sheet.cells.splice(at, 1)"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <ProblemNote v-if="problem" :error="problem" />
      <div class="acts">
        <a-button html-type="submit" type="primary" size="large" :loading="pending" :disabled="!!missing"
          >Keep the sheet <kbd>Enter</kbd></a-button
        >
        <span class="quiet">{{ missing }}</span>
      </div>
    </form>
  </PageFrame>
</template>

<style scoped>
.head {
  margin-bottom: 14px;
  gap: 0 24px;
  flex-wrap: wrap;
}
.head h1 {
  white-space: nowrap;
}
.head p {
  flex: 1 1 480px;
}
.grid {
  min-width: 720px;
  table-layout: fixed;
}
.grid th[scope='row'] {
  text-align: left;
  font-weight: 400;
  vertical-align: top;
  padding-top: 14px;
}
.grid th:first-child {
  width: 150px;
}
.grid td {
  vertical-align: top;
  padding: 8px 10px 8px 0;
}
.acts {
  margin-top: 16px;
}
</style>
