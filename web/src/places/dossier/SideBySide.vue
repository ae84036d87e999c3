<script setup lang="ts">
// Two or more units, models, revisions or lots in one table of differences; what all say alike is folded away.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import client, { answered } from '../../api/client'
import { useFound } from '../../api/queries'
import { useAddress } from '../../kit/address'
import PageFrame from '../../kit/PageFrame.vue'
import { csvOf, download } from '../../kit/csv'
import TextField from '../../kit/TextField.vue'
import { counted } from '../../trade/format'

const kind = useAddress<string>('kind', 'unit', ['unit', 'model', 'revision', 'lot'])
const ids = useAddress<string>('id', '')
const shown = useAddress<string>('rows', 'different', ['different', 'all'])
const wanted = computed(() => ids.value.split(',').map(Number).filter(Boolean))
const isEnough = computed(() => wanted.value.length > 1)
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['side-by-side', kind, ids],
  retry: false,
  enabled: isEnough,
  queryFn: () =>
    answered(client.GET('/api/side-by-side', { params: { query: { kind: kind.value, id: wanted.value } } })),
})
/** Units and models are found by their names, whatever page one comes from. */
const name = ref('')
const isNamed = computed(() => kind.value === 'unit' || kind.value === 'model')
const words = computed(() => name.value.trim())
const { data: found } = useFound(words, isNamed)
const offered = computed(() =>
  words.value
    ? (found.value ?? []).filter((one) => one.kind === kind.value && !wanted.value.includes(one.id)).slice(0, 6)
    : [],
)
function add(id: number) {
  ids.value = [...wanted.value, id].join(',')
  name.value = ''
}
/** Sections with their rows, as they are shown. */
const sections = computed(() => {
  const found = new Map<string, NonNullable<typeof data.value>['rows']>()
  for (const row of data.value?.rows ?? []) {
    if (shown.value === 'different' && row.same) continue
    found.set(row.section, [...(found.get(row.section) ?? []), row])
  }
  return [...found]
})
const alike = computed(() => data.value?.rows.filter((row) => row.same).length ?? 0)
const place = (id: number) => (kind.value === 'unit' ? `/units/${id}` : kind.value === 'model' ? `/models/${id}` : '')
const without = (id: number) => (ids.value = wanted.value.filter((one) => one !== id).join(','))
function take() {
  const rows = data.value!.rows.map((row) => [row.section, row.label, ...row.values])
  const head = ['Section', 'What', ...data.value!.subjects.map((one) => one.name)]
  download('side-by-side.csv', csvOf([head, ...rows]), 'text/csv;charset=utf-8')
}
</script>

<template>
  <PageFrame
    title="Side by side"
    :trail="[{ name: 'Line', to: '/line' }, { name: 'Side by side' }]"
    :pending="isEnough && isPending"
    :error="isEnough ? error : null"
    @retry="refetch"
  />
  <div v-if="isNamed && (data || !isEnough)" class="add no-print">
    <h1>Side by side</h1>
    <p v-if="!isEnough" class="quiet">
      {{ wanted.length ? 'One is chosen: add another one to hold it against.' : 'Nothing is chosen yet.' }} Units,
      revisions and lots of one model are held against each other from its page, too.
    </p>
    <TextField
      v-model="name"
      :label="`Add a ${kind}, by any part of its name`"
      :max="80"
      @keydown.enter.prevent="offered[0] && add(offered[0].id)"
    />
    <ul v-if="words" aria-label="Found">
      <li v-for="one in offered" :key="one.id">
        <a-button type="link" size="small" @click="add(one.id)">{{ one.name }}</a-button>
        <span class="quiet">{{ one.of }}</span>
      </li>
      <li v-if="found && !offered.length" class="quiet">Nothing goes by that name.</li>
    </ul>
  </div>
  <p v-else-if="!isEnough" class="quiet">
    Revisions and lots are held against each other from the page of their model:
    <RouterLink to="/line">Line</RouterLink>.
  </p>
  <template v-if="data && isEnough">
    <header class="head">
      <h1 v-if="!isNamed">Side by side</h1>
      <span class="quiet">{{ counted(alike, 'line') }} {{ alike === 1 ? 'is' : 'are' }} alike</span>
      <span class="spacer" />
      <a-button class="no-print" @click="shown = shown === 'all' ? 'different' : 'all'">{{
        shown === 'all' ? 'Fold what is alike' : 'Show what is alike, too'
      }}</a-button>
      <a-button class="no-print" @click="take">Take along as CSV</a-button>
    </header>
    <div class="scrolls">
      <table class="beside">
        <thead>
          <tr>
            <th scope="col"><span class="visually-hidden">What</span></th>
            <th v-for="one in data.subjects" :key="one.id" scope="col">
              <component :is="place(one.id) ? 'RouterLink' : 'span'" :to="place(one.id)" class="mono">{{
                one.name
              }}</component>
              <span class="of quiet">{{ one.of }}</span>
              <a-button
                v-if="data.subjects.length > 2"
                class="no-print"
                size="small"
                type="text"
                :aria-label="`Leave ${one.name} out`"
                @click="without(one.id)"
                >Leave out</a-button
              >
            </th>
          </tr>
        </thead>
        <tbody v-for="[section, rows] in sections" :key="section">
          <tr class="section-row">
            <th scope="rowgroup" :colspan="data.subjects.length + 1">{{ section }}</th>
          </tr>
          <tr v-for="row in rows" :key="row.label" :class="{ same: row.same }">
            <th scope="row">{{ row.label }}</th>
            <td v-for="(value, at) in row.values" :key="at">{{ value || '–' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="!sections.length" class="quiet none">They are alike in everything that is on record.</p>
  </template>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: baseline;
}
.spacer {
  flex: 1;
}
.add {
  max-width: 560px;
  margin-bottom: 10px;
}
.add ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}
.beside {
  width: 100%;
  margin-top: 14px;
  border-collapse: collapse;
  font-size: 14px;
}
th,
td {
  padding: 5px 18px 5px 0;
  font-weight: 400;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--rule);
  overflow-wrap: anywhere;
}
thead th {
  font-weight: 600;
  border-bottom-color: var(--rule-strong);
}
thead .of {
  display: block;
  font-weight: 400;
}
tbody th {
  width: 230px;
  color: var(--ink-2);
}
.section-row th {
  padding-top: 16px;
  color: var(--ink);
  font-weight: 600;
}
.section-row th::first-letter {
  text-transform: uppercase;
}
.same td {
  color: var(--ink-2);
}
.none {
  padding: 24px 0;
}
</style>
