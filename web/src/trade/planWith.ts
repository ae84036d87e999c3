// Runs that are to be added to a plan of a unit, as a link to it.
import type { VerdictView } from '../api/types'

/** Where a plan of a unit is made with some runs, to another limit of THD+N than the method's where one is told. */
export const planWith = (unit: number, runs: VerdictView['settling_runs'], limitPercent: number | null) => ({
  path: `/units/${unit}/plan`,
  query: { add: JSON.stringify(runs), ...(limitPercent === null ? {} : { limit: String(limitPercent) }) },
})
