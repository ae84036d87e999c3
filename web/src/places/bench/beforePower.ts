import type { CampaignView, PreparationView, RunView } from '../../api/types'

/** Each item before power: what it is, and the words on the button that sees to it. */
export const ITEM_WORDS: Record<string, { what: string; act: string }> = {
  clamp: { what: 'Clamp zeroed on the connected, idle bench', act: 'Zero the clamp' },
  loads: { what: 'Loads measured', act: 'Measure the loads' },
  controls: { what: 'Controls in test position', act: 'In test position' },
  gains: { what: 'Gains matched', act: 'Match the gains' },
  supply: { what: 'Supply in its start window', act: 'Read the supply' },
}

/** The next open item before the run's wiring may be powered; null when all is seen to. */
export function nextItem(campaign: CampaignView, run: RunView): PreparationView | null {
  const wiring = campaign.wirings.find((w) => w.number === run.wiring)
  return wiring?.preparations.find((item) => item.state === 'open') ?? null
}

/** The run to show for a wiring: its first that waits, else its first. */
export function firstOfWiring(runs: readonly RunView[], wiring: number): RunView | undefined {
  const own = runs.filter((run) => run.wiring === wiring)
  return own.find((run) => run.state === 'waiting') ?? own[0]
}
