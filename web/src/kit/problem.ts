// What went wrong, as it is told: what happened, what to do, and which field it is about.

export interface Told {
  /** What sort of refusal it is, where something is done about it. */
  code?: string
  what: string
  todo?: string | null
  field?: string | null
}

/** What a failure says of itself; one that tells nothing is told as it stands. */
export function problemOf(failure: unknown): Told {
  const told = (failure as { problem?: Told } | null)?.problem
  return told?.what ? told : { what: failure instanceof Error ? failure.message : String(failure) }
}

/** What it says of a field; empty where it is about another one, or none. */
export const saysOf = (failure: unknown, field: string): string => {
  const told = failure ? problemOf(failure) : null
  return told?.field === field ? told.what : ''
}
