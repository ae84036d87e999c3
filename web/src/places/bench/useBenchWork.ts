// What a person does at the live bench: see to an item, start, repeat, hurry, comment; and the one next thing to do.
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import type { ComputedRef, Ref } from 'vue'
import client, { answered } from '../../api/client'
import { useMay } from '../../api/me'
import { useRule } from '../../api/rule'
import type { BenchView, CampaignView } from '../../api/types'
import { useAct } from '../../kit/act'
import { useWho } from '../../kit/who'
import { CAUSES, place } from '../../trade/format'
import { ITEM_WORDS } from './beforePower'
import { useSwitchOff } from './switchOff'
import type { useShownRun } from './useShownRun'

export type Asking = 'repeat' | 'skip' | 'hurry' | 'comment' | null

export function useBenchWork(
  id: () => number,
  campaign: Ref<CampaignView | undefined>,
  bench: ComputedRef<BenchView | undefined>,
  shown: ReturnType<typeof useShownRun>,
) {
  const queries = useQueryClient()
  const person = useWho()
  const rule = useRule()
  const { run, next, live, item, goOn, sameWiring, attempt, running } = shown
  const asking = ref<Asking>(null)
  const skipping = ref('')
  const gainsApart = ref(false)
  const overlap = ref<number | null>(0)
  /** Controls of the unit that were looked at, by name; all of them together are one item before power. */
  const ticked = ref<string[]>([])

  const measures = useMay('measure')
  /** Nobody works here at what another lab conducted. */
  const mayMeasure = computed(() => measures.value && !campaign.value?.came_from)
  /** Somebody else works there, or this person only looks. */
  const watching = computed(
    () => !mayMeasure.value || (!!bench.value?.holder && bench.value.holder !== person.name.value),
  )
  const busyElsewhere = computed(
    () => bench.value !== undefined && bench.value.state !== 'idle' && bench.value.campaign_id !== id(),
  )
  const blocked = computed(() => !live.value && (busyElsewhere.value || watching.value || !!running.value))
  const unticked = computed(() => campaign.value?.test_controls.filter((one) => !ticked.value.includes(one)) ?? [])

  // Of another wiring nothing was looked at yet.
  watch(
    () => run.value?.wiring,
    () => {
      ticked.value = []
      overlap.value = 0
      gainsApart.value = false
    },
  )

  // Measuring takes its time; whether the server answers at all is told by the frame.
  const acts = useAct((work: () => Promise<unknown>) => work(), { takesLong: true, done: () => (asking.value = null) })

  async function start(cause: string | null = null, reason = '') {
    const target = sameWiring.value && !cause ? next.value : run.value
    if (!target || live.value) return
    if (target.attempts.length && !cause) return void (asking.value = 'repeat')
    const body = { cause: cause as keyof typeof CAUSES | null, reason }
    const started = await acts.act(() =>
      answered(client.POST('/api/runs/{run_id}/attempts', { params: { path: { run_id: target.id } }, body })),
    )
    if (started) shown.choose(target)
  }

  async function see(what: string, turn: boolean, skip: string | null = null) {
    const target = run.value
    if (!target || !campaign.value) return
    const body = { item: what as 'clamp', ticked: ticked.value, turn, skip, overlap_db: overlap.value ?? 0 }
    const path = { campaign_id: id(), wiring: target.wiring }
    const seen = await acts.act(async () => {
      const after = await answered(
        client.POST('/api/campaigns/{campaign_id}/wirings/{wiring}/preparations', { params: { path }, body }),
      )
      queries.setQueryData(['campaign', id(), rule], after)
    })
    const failed = acts.problem.value as { problem?: { code?: string } } | null
    gainsApart.value = !seen && failed?.problem?.code === 'gains-misfit'
  }
  watch(unticked, (left, before) => {
    if (!left.length && before?.length && item.value?.item === 'controls') void see('controls', false)
  })

  const hurry = (reason: string) =>
    acts.act(() =>
      answered(client.POST('/api/bench/hurry', { params: { query: { bench: bench.value?.id } }, body: { reason } })),
    )
  const comment = (text: string) =>
    acts.act(() =>
      answered(
        client.POST('/api/attempts/{attempt_id}/remarks', {
          params: { path: { attempt_id: attempt.value!.id } },
          body: { text },
        }),
      ),
    )

  function askToSkip(what: string) {
    skipping.value = what
    asking.value = 'skip'
  }
  /** What was asked was answered; whether it was done. */
  async function answer(reason: string, cause: string | null): Promise<boolean> {
    const asked = asking.value
    if (asked === 'repeat') await start(cause, reason)
    else if (asked === 'skip') await see(skipping.value, false, reason)
    else if (asked === 'hurry') await hurry(reason)
    else if (asked === 'comment') await comment(reason)
    return asking.value === null
  }

  const powered = computed(() => !!bench.value && bench.value.state !== 'idle')
  /** Whose run an Off would end that is not this person's on this page; empty where there is none. */
  const another = computed(() => {
    const now = bench.value
    if (!now || !powered.value) return ''
    const whose = now.holder ?? now.person ?? ''
    if (whose !== person.name.value) return `${whose || 'somebody'}’s run`
    return now.campaign_id === id() ? '' : `the run of ${now.unit_serial}`
  })
  const off = useSwitchOff(
    () => bench.value?.id,
    () => another.value !== '',
  )

  /** The one next thing to do; the big button and the space bar do the same. */
  const action = computed<{ words: string; act: () => void }>(() => {
    const now = run.value
    if (!now) return { words: '', act: () => undefined }
    if (live.value) return { words: 'Stop the run', act: off.press }
    if (sameWiring.value) return { words: `Start ${next.value!.mode} ${place(next.value!)}`, act: () => void start() }
    if (goOn.value && next.value && next.value.wiring !== now.wiring) {
      const to = next.value
      return { words: `Rewire: wiring ${to.wiring}, ${place(to)}`, act: () => shown.choose(to) }
    }
    if (item.value) return { ...seeing(item.value.item) }
    return { words: `${attempt.value ? 'Repeat' : 'Start'} ${now.mode} ${place(now)}`, act: () => void start() }
  })
  function seeing(what: string): { words: string; act: () => void } {
    if (what === 'gains' && gainsApart.value)
      return { words: 'Turn the gains and match again', act: () => void see('gains', true) }
    const names = what === 'controls' ? (campaign.value?.test_controls ?? []) : []
    if (!names.length) return { words: ITEM_WORDS[what]!.act, act: () => void see(what, false) }
    const [control] = unticked.value
    // The last one stands there until the server has heard of all.
    const words = `${control ?? names.at(-1)}: in position`
    return { words, act: () => (control ? (ticked.value = [...ticked.value, control]) : void see('controls', false)) }
  }

  return {
    asking,
    answer,
    askToSkip,
    see,
    overlap,
    ticked,
    gainsApart,
    mayMeasure,
    watching,
    busyElsewhere,
    blocked,
    powered,
    another,
    off,
    action,
    busy: acts.pending,
    problem: acts.problem,
  }
}
