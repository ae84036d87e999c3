<script setup lang="ts">
// The planner: proposes a unit's runs, draws their wirings, and tells what every change costs.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useWho } from '../../kit/who'
import { refreshEvidence, useBenches } from '../../api/queries'
import type { RunIn } from '../../api/types'
import { useKeys } from '../../kit/keys'
import { figure } from '../../kit/quantity'
import { minutes, place } from '../../trade/format'
import ProblemNote from '../../kit/ProblemNote.vue'
import Trail from '../../kit/Trail.vue'
import WiringPicture from '../../trade/WiringPicture.vue'
import { moved, specs, usePlanDraft } from './planDraft'
import PlanRuns from './PlanRuns.vue'
import PlanWishes from './PlanWishes.vue'
import RunEditor from './RunEditor.vue'

const props = defineProps<{ id: number }>()
const { draft, undone, wish, change, undo, afresh, forget, add: addOnce } = usePlanDraft(props.id)
const router = useRouter()
const route = useRoute()
// A verdict's link brings the run that would settle it; once taken, the address is clean again.
if (typeof route.query.add === 'string') {
  if (route.query.limit) draft.value = { ...draft.value, thd_n_limit: Number(route.query.limit) || 1 }
  addOnce(route.query.add)
  void router.replace({ query: {} })
}
const queries = useQueryClient()
const { data: benches } = useBenches()
const benchNames = computed(() => benches.value?.map((bench) => bench.name) ?? [])
const person = useWho()
const problem = ref<unknown>(null)
const adding = ref(false)
const busy = ref(false)

const { data: plan, error } = useQuery({
  queryKey: ['plan', () => props.id, draft],
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () =>
    answered(client.POST('/api/units/{unit_id}/plan', { params: { path: { unit_id: props.id } }, body: draft.value })),
})
const runs = computed(() => (plan.value ? specs(plan.value.runs) : []))
const cannot = computed(() => plan.value?.runs.filter((run) => run.obstacles.length).length ?? 0)
const saved = computed(() => (plan.value ? plan.value.rewirings - plan.value.fewest_rewirings : 0))
const supplyText = computed(() => {
  const volts = [...new Set(plan.value?.runs.map((run) => figure(run.spec.supply_volts, 1)))].join(', ')
  return draft.value.policy === 'bank' ? `bank from ${volts} V` : `${volts} V`
})

const apply = (after: RunIn[]) => change(runs.value, after)
const drop = (index: number) => apply(runs.value.filter((_, i) => i !== index))
const edit = (index: number, run: RunIn) => apply(runs.value.map((old, i) => (i === index ? run : old)))
function add(run: RunIn) {
  apply([...runs.value, run])
  adding.value = false
}
const example = computed<RunIn>(
  () =>
    runs.value.at(-1) ?? {
      mode: 'certified',
      group: plan.value?.groups[0]?.name ?? '',
      load_ohms: plan.value?.groups[0]?.rated_loads[0] ?? 4,
      bridged: false,
      tone_hz: 1000,
      supply_volts: 14.4,
      burst: '',
    },
)

async function keep() {
  if (!plan.value?.runs.length || busy.value || !(await person.required())) return
  busy.value = true
  problem.value = null
  try {
    const made = await answered(client.POST('/api/campaigns', { body: { unit_id: props.id, plan: draft.value } }))
    forget()
    refreshEvidence(queries)
    await router.push(`/campaigns/${made.id}/live`)
  } catch (failure) {
    problem.value = failure
  } finally {
    busy.value = false
  }
}

useKeys([
  { key: 'Ctrl+Enter', does: 'take the plan to the bench', act: () => void keep() },
  {
    key: 'Ctrl+z',
    shown: 'Ctrl+Z',
    does: 'undo the last change of the plan',
    act: undo,
    when: () => !!undone.value.length,
  },
])
const print = () => window.print()
</script>

<template>
  <ProblemNote v-if="error" :error="error" />
  <template v-if="plan">
    <Trail
      :steps="[
        { name: plan.series_name },
        { name: plan.model_name, to: `/models/${plan.model_id}` },
        { name: plan.unit_serial, to: `/units/${plan.unit_id}` },
        { name: 'Plan' },
      ]"
    />
    <header class="head">
      <h1>
        Plan <span class="mono quiet">{{ plan.unit_serial }}</span>
      </h1>
      <p class="cost" role="status">
        <strong>{{ plan.runs.length }} {{ plan.runs.length === 1 ? 'run' : 'runs' }}</strong
        >, {{ plan.wirings.length }} {{ plan.wirings.length === 1 ? 'wiring' : 'wirings' }}, {{ plan.rewirings }}
        {{ plan.rewirings === 1 ? 'rewiring' : 'rewirings'
        }}<template v-if="saved > 0"
          >, <span class="danger">{{ saved }} more than needed</span></template
        >
        · <strong>{{ minutes(plan.minutes) }}</strong> in all: wiring {{ minutes(plan.wiring_minutes) }}, running
        {{ minutes(plan.running_minutes) }}, cooling {{ minutes(plan.cooling_minutes) }}
        <span v-if="cannot" class="danger">
          · {{ cannot }} {{ cannot === 1 ? 'run that the bench cannot' : 'runs that the bench cannot' }} stand</span
        >
      </p>
      <div class="acts">
        <a-button @click="print">Print</a-button>
        <a-button type="primary" :loading="busy" :disabled="!plan.runs.length" @click="keep">
          Take it to the bench <kbd>Ctrl+Enter</kbd>
        </a-button>
      </div>
    </header>
    <ProblemNote v-if="problem" :error="problem" />
    <div class="two">
      <PlanWishes :draft="draft" :plan="plan" :benches="benchNames" @wish="wish" />
      <div>
        <p v-if="!plan.runs.length" class="quiet empty">No runs are left. Choose a mode, or propose the plan afresh.</p>
        <PlanRuns v-else :plan="plan" @move="(index, by) => apply(moved(runs, index, by))" @drop="drop" @edit="edit" />
        <div class="below">
          <RunEditor
            v-if="adding"
            :spec="example"
            :groups="plan.groups"
            act="Add the run"
            @done="add"
            @cancel="adding = false"
          />
          <template v-else>
            <a-button size="small" @click="adding = true">Add a run</a-button>
            <a-button size="small" :disabled="!undone.length" @click="undo">Undo</a-button>
            <a-button size="small" :disabled="!draft.runs" @click="afresh">Propose afresh</a-button>
            <span class="quiet keys"
              ><kbd>↑</kbd> <kbd>↓</kbd> choose a run · <kbd>Alt+↑</kbd> <kbd>Alt+↓</kbd> move it ·
              <kbd>Enter</kbd> change · <kbd>Del</kbd> drop</span
            >
          </template>
        </div>
        <section v-if="plan.unserved.length" class="section">
          <header><h2>Claims left without evidence</h2></header>
          <ul class="unserved">
            <li v-for="c in plan.unserved" :key="c.claim_id">
              <span class="mono">{{ c.watts }} W</span> {{ c.group }}, {{ place(c) }}, {{ c.kind }}
              <span class="quiet">{{ c.document }}</span>
            </li>
          </ul>
        </section>
      </div>
    </div>
    <div class="pictures">
      <section v-for="w in plan.wirings" :key="w.number" class="section picture">
        <header>
          <h2>Wiring {{ w.number }}</h2>
          <span v-if="w.exploratory" class="danger">below the rated load: burst only, not evidence</span>
        </header>
        <WiringPicture :connections="w.connections" :boxes="w.boxes" :supply="supplyText" />
      </section>
    </div>
    <section class="section print-only">
      <header><h2>Controls in test position</h2></header>
      <ul>
        <li v-for="c in plan.test_controls" :key="c">{{ c }}</li>
      </ul>
      <p>
        Fuse within reach of the supply, a disconnect within arm's reach. No rings or watches, insulated tools, nobody
        alone. Dummy loads reach burn temperature. Smoke or smell: power off first. Local rules and qualified people
        come first.
      </p>
    </section>
  </template>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 24px;
  align-items: baseline;
  margin-bottom: 14px;
}
h1 .mono {
  font-weight: 400;
  font-size: 18px;
  margin-left: 6px;
}
.cost {
  font-size: 14px;
}
.acts {
  display: flex;
  gap: 10px;
}
.acts kbd {
  margin-left: 8px;
  color: inherit;
  border-color: currentColor;
}
.two {
  display: grid;
  grid-template-columns: 236px minmax(0, 1fr);
  gap: 28px;
  align-items: start;
}
.below {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  padding-top: 12px;
}
.keys {
  font-size: 13px;
  margin-left: auto;
}
.empty {
  padding: 20px 0;
}
.unserved {
  list-style: none;
  padding: 6px 0;
  margin: 0;
}
.unserved li {
  padding: 2px 0;
}
.pictures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(500px, 1fr));
  gap: 0 36px;
}
.picture {
  break-inside: avoid;
}
.picture :deep(.wiring) {
  padding-top: 10px;
}
.print-only {
  display: none;
}
@media print {
  .print-only {
    display: block;
  }
  .two {
    grid-template-columns: 1fr;
  }
  .two > form,
  .below,
  .acts {
    display: none;
  }
}
</style>
