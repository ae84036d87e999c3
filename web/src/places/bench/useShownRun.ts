// Which run the live bench shows, and what of it: its attempt, its points, the limits drawn with them.
import { computed, ref, watch } from 'vue'
import type { Ref } from 'vue'
import { useCampaignFeed } from '../../api/feed'
import type { CampaignView, RunView } from '../../api/types'
import { useAddressNumber } from '../../kit/address'
import { END_WORDS, MODE_WORDS, place, watts } from '../../trade/format'
import { nextItem } from './beforePower'

export function useShownRun(id: () => number, campaign: Ref<CampaignView | undefined>) {
  const firstKnown = ref<number>()
  watch(campaign, (now) => (firstKnown.value ??= now?.last_step_id), { immediate: true })
  const feed = useCampaignFeed(id, firstKnown)
  const chosenRun = useAddressNumber('run')

  const runs = computed(() => campaign.value?.runs ?? [])
  const running = computed(() => runs.value.find((r) => r.state === 'running') ?? null)
  const next = computed(() => runs.value.find((r) => r.state === 'waiting') ?? null)
  const run = computed(
    () => runs.value.find((r) => r.id === chosenRun.value) ?? running.value ?? next.value ?? runs.value.at(-1) ?? null,
  )
  const attempt = computed(() => run.value?.attempts.at(-1) ?? null)
  const steps = computed(() => (attempt.value ? (feed.byAttempt.value.get(attempt.value.id) ?? []) : []))
  const points = computed(() => steps.value.flatMap((s) => (s.point ? [s.point] : [])))
  const pulses = computed(() => steps.value.filter((s) => s.pulses).at(-1)?.pulses ?? null)
  const live = computed(() => run.value?.state === 'running')
  /** What the run waits for before it starts: heat, or the supply. */
  const waiting = computed(() =>
    live.value && steps.value.at(-1)?.kind === 'waiting' ? steps.value.at(-1)!.waiting : '',
  )
  /** The next thing to see to before the run's wiring may be powered. */
  const item = computed(() => (campaign.value && run.value ? nextItem(campaign.value, run.value) : null))
  const goOn = computed(() => run.value?.state === 'done' && next.value !== null && next.value.id !== run.value.id)
  /** The next run hangs on the same loads: nothing has to be touched before it. */
  const sameWiring = computed(() => goOn.value && next.value?.wiring === run.value?.wiring && item.value === null)
  const limits = computed(() => {
    const certified = campaign.value?.thd_n_limit_percent ?? 1
    const clipping = campaign.value?.uncertified_limit_percent ?? 10
    const first = { percent: certified, word: `limit ${certified} %` }
    return run.value?.mode === 'uncertified' ? [first, { percent: clipping, word: `clipping ${clipping} %` }] : [first]
  })
  /** Of an uncertified run, both its ends: the last point within the certified limit, and where it went to. */
  const marks = computed(() => {
    const now = run.value
    if (now?.mode !== 'uncertified') return []
    const alike = (r: RunView) =>
      r.mode === 'certified' && place(r) === place(now) && r.group === now.group && r.supply_volts === now.supply_volts
    const ends = [
      { watts: runs.value.find(alike)?.chosen?.weakest_watts, word: 'certified' },
      { watts: attempt.value?.weakest_watts, word: 'uncertified' },
    ]
    return ends.flatMap((end) => (end.watts ? [{ watts: end.watts, word: `${end.word} ${watts(end.watts)} W` }] : []))
  })
  /** What is read aloud: what begins, what it waits for, how it ended; not each figure on the way. */
  const announcement = computed(() => {
    if (!run.value) return ''
    const what = `${MODE_WORDS[run.value.mode]}, ${place(run.value)}`
    if (waiting.value) return `${what} waits: ${waiting.value}`
    if (live.value) return `Running ${what}`
    if (!attempt.value?.end) return ''
    const { weakest_watts: weakest, expanded_watts: expanded } = attempt.value
    const reading = weakest === null ? '' : `, ${watts(weakest, expanded)} W`
    return `${what}: ${END_WORDS[attempt.value.end]}${reading}`
  })

  const problem = ref<unknown>(null)
  // Whatever happened in the shown attempt before this page was opened.
  watch(
    () => attempt.value?.id,
    (attemptId) => {
      if (attemptId !== undefined) void feed.catchUp(attemptId).catch((failure: unknown) => (problem.value = failure))
    },
    { immediate: true },
  )
  // A run that begins anywhere is what everyone wants to see.
  watch(
    () => running.value?.id,
    (runId) => {
      if (runId !== undefined) chosenRun.value = runId
    },
    { immediate: true },
  )
  const choose = (to: RunView | null | undefined) => {
    if (to) chosenRun.value = to.id
  }
  const move = (by: 1 | -1) => choose(runs.value[runs.value.findIndex((r) => r.id === run.value?.id) + by])

  return {
    runs,
    running,
    next,
    run,
    attempt,
    steps,
    points,
    pulses,
    live,
    waiting,
    item,
    goOn,
    sameWiring,
    limits,
    marks,
    announcement,
    connected: feed.connected,
    problem,
    choose,
    move,
  }
}
