// What standings, states and steps are called, and what is to be done about a standing.
import type { AuditView, CellView, RatingView } from '../../api/types'

export type Standing = CellView['standing']

/** In the order in which something is to be done about them. */
export const STANDING_WORDS: Record<Standing, string> = {
  still_printed: 'Still printed',
  look_again: 'Look again',
  short: 'Short',
  sent_back: 'Sent back',
  to_sign: 'To sign',
  to_publish: 'To publish',
  draft: 'Draft',
  unrated: 'Not rated',
  not_printed: 'Not printed',
  backed: 'Backed',
  nothing: 'Nothing yet',
}

export const STANDING_ACTS: Partial<Record<Standing, string>> = {
  still_printed: 'See the documents',
  look_again: 'Look again',
  short: 'Look at the figure',
  sent_back: 'Take it up again',
  to_sign: 'Sign or send back',
  to_publish: 'Publish',
  draft: 'Propose',
  unrated: 'See what its units bear',
  not_printed: 'See where to print it',
}

export const STATE_WORDS: Record<RatingView['state'], string> = {
  draft: 'draft',
  proposed: 'proposed, not signed',
  signed: 'signed, not published',
  published: 'published',
  superseded: 'superseded',
  withdrawn: 'withdrawn',
  dropped: 'dropped',
}

export const STEP_WORDS: Record<RatingView['steps'][number]['kind'], string> = {
  drafted: 'drafted',
  proposed: 'proposed',
  sent_back: 'sent back',
  signed: 'signed',
  published: 'published',
  confirmed: 'confirmed',
  superseded: 'superseded',
  withdrawn: 'withdrawn',
  dropped: 'dropped',
}

/** What a rating in some state looks like on the board. */
export const STATE_STANDING: Record<RatingView['state'], Standing> = {
  draft: 'draft',
  proposed: 'to_sign',
  signed: 'to_publish',
  published: 'backed',
  superseded: 'nothing',
  withdrawn: 'nothing',
  dropped: 'nothing',
}

export const METHOD_WORDS = {
  normal: 'taken as normal',
  lots: 'lots taken as they differ',
  'distribution-free': 'whatever their distribution',
  censored: 'some at least so much',
} as const

/** Where somebody goes for a load: to what is on its way, else to what is published, else to what its units bear. */
export function toCell(model: number, cell: CellView): string {
  const rating = ACTED_ON_OPEN.has(cell.standing) ? (cell.open_id ?? cell.rating_id) : (cell.rating_id ?? cell.open_id)
  if (rating !== null && cell.standing !== 'unrated') return `/ratings/${rating}`
  const at = `${cell.group}/${cell.load_ohms}/${cell.bridged ? 'pair' : 'channel'}`
  return `/models/${model}/bears?at=${encodeURIComponent(at)}${cell.kind === 'burst' ? '&kind=burst' : ''}`
}
const ACTED_ON_OPEN = new Set<Standing>(['sent_back', 'to_sign', 'to_publish', 'draft'])

export const AUDIT_WORDS: Record<AuditView['periods'][number]['state'], string> = {
  short: 'Short',
  late: 'Late',
  owing: 'Owed',
  done: 'Done',
}
