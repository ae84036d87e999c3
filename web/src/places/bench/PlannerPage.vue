<script setup lang="ts">
// The planner: proposes a unit's runs, draws their wirings, and tells what every change costs.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import client, { answered } from '../../api/client'
import { useBenches, useUnit } from '../../api/queries'
import type { RunIn } from '../../api/types'
import { useAct } from '../../kit/act'
import DraftNote from '../../kit/DraftNote.vue'
import { useKeys } from '../../kit/keys'
import PageFrame from '../../kit/PageFrame.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import { figure } from '../../kit/quantity'
import { useLabMethods } from '../../trade/methods'
import { place } from '../../trade/format'
import { unitTrail } from '../../trade/trails'
import WiringPicture from '../../trade/WiringPicture.vue'
import PlanCost from './PlanCost.vue'
import { moved, specs, usePlanDraft } from './planDraft'
import PlanRuns from './PlanRuns.vue'
import PlanWishes from './PlanWishes.vue'
import RunEditor from './RunEditor.vue'

const props = defineProps<{ id: number }>()
const kept = usePlanDraft(props.id)
const { draft, asked, wish, change, settle, afresh, reset, undo, canUndo } = kept
const router = useRouter()
const route = useRoute()
// A verdict's link brings the run that would settle it; once taken, the address is clean again.
if (typeof route.query.add === 'string') {
  kept.add(route.query.add, Number(route.query.limit) || null)
  void router.replace({ query: {} })
}
const { data: unit, error: lost, isPending, refetch } = useUnit(() => props.id)
const { data: benches } = useBenches()
const { data: lab } = useLabMethods()
const benchNames = computed(() => benches.value?.map((bench) => bench.name) ?? [])
const adding = ref(false)
const list = ref<InstanceType<typeof PlanRuns>>()
const added = ref<InstanceType<typeof RunEditor>>()

// What the server refuses changes nothing: the plan that could be made stays, and the field says what is wrong.
const { data: plan, error: refused } = useQuery({
  queryKey: ['plan', () => props.id, asked],
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: () =>
    answered(client.POST('/api/units/{unit_id}/plan', { params: { path: { unit_id: props.id } }, body: asked.value })),
})
/** Changes by hand that the last wish left no place for. */
const dropped = ref<readonly string[]>([])
watch(plan, (now) => {
  if (!now || !draft.value.isStale) return
  dropped.value = now.lost
  settle(now)
})
const runs = computed(() => (plan.value ? specs(plan.value.runs) : []))
const supplyText = computed(() => {
  const volts = [...new Set(plan.value?.runs.map((run) => figure(run.spec.supply_volts, 1)))].join(', ')
  return draft.value.policy === 'bank' ? `bank from ${volts} V` : `${volts} V`
})

function apply(after: RunIn[]) {
  dropped.value = []
  if (plan.value) change(plan.value, after)
}
const drop = (index: number) => apply(runs.value.filter((_, i) => i !== index))
const edit = (index: number, run: RunIn) => apply(runs.value.map((old, i) => (i === index ? run : old)))
function add(run: RunIn) {
  apply([...runs.value, run])
  adding.value = false
}
const example = computed<RunIn | null>(() => {
  const [first] = plan.value?.groups ?? []
  if (runs.value.length || !first || !plan.value) return runs.value.at(-1) ?? null
  return {
    mode: 'certified',
    group: first.name,
    load_ohms: first.rated_loads[0]!,
    bridged: false,
    tone_hz: first.tone_hz,
    supply_volts: draft.value.held_volts ?? plan.value.defaults.supply_volts,
    burst: '',
  }
})

const { act, pending, problem } = useAct(
  () => answered(client.POST('/api/campaigns', { body: { unit_id: props.id, plan: asked.value } })),
  {
    done: async (made) => {
      kept.forget()
      await router.push(`/campaigns/${made.id}/live`)
    },
  },
)
/** A run that is still being changed comes along, or the plan stays here. */
async function keep() {
  const finished = (list.value?.finish() ?? true) && (!adding.value || !!added.value?.done())
  await nextTick()
  if (finished && runs.value.length) await act()
  else if (!finished)
    problem.value = {
      problem: {
        what: 'A run is being changed and cannot be taken over as it stands.',
        todo: 'Complete it or leave it.',
      },
    }
}

useKeys([
  { key: 'Ctrl+Enter', does: 'take the plan to the bench', act: () => void keep(), inFields: true },
  {
    key: 'Ctrl+z',
    shown: 'Ctrl+Z',
    does: 'undo the last change of the plan',
    act: undo,
    when: () => canUndo.value,
  },
])
const print = () => window.print()
</script>

<template>
  <PageFrame
    :title="unit ? `Plan, ${unit.unit.serial}` : ''"
    :trail="unit ? unitTrail(unit, 'Plan') : []"
    :pending="isPending"
    :error="lost"
    @retry="refetch"
  >
    <template v-if="unit">
      <header class="head">
        <h1>
          Plan <span class="mono quiet">{{ unit.unit.serial }}</span>
        </h1>
        <PlanCost v-if="plan" :plan="plan" />
        <div class="acts">
          <a-button @click="print">Print</a-button>
          <a-button type="primary" :loading="pending" :disabled="!plan?.runs.length || !!refused" @click="keep">
            Take it to the bench <kbd>Ctrl+Enter</kbd>
          </a-button>
        </div>
      </header>
      <DraftNote :draft="kept" />
      <ProblemNote v-if="problem" :error="problem" />
      <div v-if="refused" class="refused">
        <ProblemNote :error="refused" />
        <span>The plan below is the last one that could be made.</span>
        <a-button size="small" :disabled="!canUndo" @click="undo">Undo</a-button>
        <a-button size="small" @click="reset">Begin with the usual wishes</a-button>
      </div>
      <ul v-if="dropped.length" class="dropped" role="status">
        <li v-for="what in dropped" :key="what">Left out of the changes made by hand: {{ what }}.</li>
      </ul>
      <div class="two">
        <PlanWishes
          :draft="draft"
          :groups="unit.model.groups"
          :defaults="unit.model.defaults"
          :supply="[unit.model.supply_low_volts, unit.model.supply_high_volts]"
          :benches="benchNames"
          :versions="lab?.versions"
          :problem="refused"
          @wish="wish"
        />
        <div v-if="plan">
          <p v-if="!plan.runs.length" class="quiet empty">
            No runs are left. Choose a mode, or propose the plan afresh.
          </p>
          <PlanRuns
            v-else
            ref="list"
            :plan="plan"
            @move="(index, by) => apply(moved(runs, index, by))"
            @drop="drop"
            @edit="edit"
          />
          <div class="below">
            <RunEditor
              v-if="adding && example"
              ref="added"
              :spec="example"
              :groups="plan.groups"
              :defaults="plan.defaults"
              act="Add the run"
              @done="add"
              @cancel="adding = false"
            />
            <template v-else>
              <a-button size="small" @click="adding = true">Add a run</a-button>
              <a-button size="small" :disabled="!canUndo" @click="undo">Undo</a-button>
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
      <div v-if="plan" class="pictures">
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
          <li v-for="c in unit.model.test_controls" :key="c">{{ c }}</li>
        </ul>
        <p>
          Fuse within reach of the supply, a disconnect within arm's reach. No rings or watches, insulated tools, nobody
          alone. Dummy loads reach burn temperature. Smoke or smell: power off first. Local rules and qualified people
          come first.
        </p>
      </section>
    </template>
  </PageFrame>
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
.refused {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  margin-bottom: 12px;
}
.dropped {
  margin: 0 0 12px;
  padding: 8px 12px;
  list-style: none;
  background: var(--warn-ground);
  color: var(--warn-ink);
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
  grid-template-columns: repeat(auto-fit, minmax(min(500px, 100%), 1fr));
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
@media (max-width: 900px) {
  .two,
  .head {
    grid-template-columns: minmax(0, 1fr);
  }
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
