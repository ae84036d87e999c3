// Where the calls of this page are: the lab's own, or those of a practice job, whose address every page of it begins with.

const found = /^\/practice-bench\/([1-9]\d*)(?=\/|$)/.exec(location.pathname)

/** What every address of this page begins with; empty where it is the lab's own. */
export const BASE = found?.[0] ?? ''
/** The practice job whose bench this is; null where it is the lab's own. */
export const PRACTICE_JOB = found ? Number(found[1]) : null
/** What every call begins with. */
export const API = `${BASE}/api`
