// The keys of the live bench.
import { openLayers, useKeys } from '../../kit/keys'
import { firstOfWiring } from './beforePower'
import type { useBenchWork } from './useBenchWork'
import type { useShownRun } from './useShownRun'

export function useBenchKeys(shown: ReturnType<typeof useShownRun>, work: ReturnType<typeof useBenchWork>) {
  const { runs, next, attempt, live, goOn } = shown
  const { asking, blocked, watching, powered, off, action } = work
  const acts = () => !blocked.value && !work.busy.value && !watching.value
  useKeys([
    // Off comes before whatever an open layer makes of the key: what is powered is switched off first.
    {
      key: 'Escape',
      does: 'off: mute the source, switch the amplifier off',
      act: off.press,
      when: () => powered.value || openLayers.value === 0,
      always: true,
    },
    {
      key: 'Space',
      does: 'the next thing to do: see to an item, start, stop, go on',
      act: () => action.value.act(),
      when: acts,
    },
    {
      key: 'n',
      does: 'next, previous run',
      act: () => (goOn.value ? shown.choose(next.value) : shown.move(1)),
    },
    { key: 'p', does: 'next, previous run', act: () => shown.move(-1) },
    {
      key: 'r',
      does: 'repeat the run, with the reason',
      act: () => (asking.value = 'repeat'),
      when: () => acts() && !live.value && attempt.value !== null,
    },
    {
      key: 'c',
      does: 'comment on the attempt',
      act: () => (asking.value = 'comment'),
      when: () => attempt.value !== null && work.mayMeasure.value,
    },
    ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((wiring) => ({
      key: String(wiring),
      ...(wiring === 1 ? { does: 'jump to a wiring', shown: '1 … 9' } : {}),
      act: () => shown.choose(firstOfWiring(runs.value, wiring)),
      when: () => firstOfWiring(runs.value, wiring) !== undefined,
    })),
  ])
}
