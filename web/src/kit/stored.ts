// What a browser keeps of a form: read back only as far as it has the shape that the form has today.
import { readonly, ref } from 'vue'

const note = ref('')
/** Says that something kept could not be read; empty where nothing was dropped. */
export const droppedNote = readonly(note)
export const dismissNote = () => (note.value = '')

/** Whether a kept value can stand where the empty form has `blank`; of a list or record, each part. */
function fits(value: unknown, blank: unknown): boolean {
  if (blank === null) return true // what may be there or not; the form's own checks say more
  if (typeof value !== typeof blank || Array.isArray(value) !== Array.isArray(blank)) return false
  return value !== null
}

function dropped() {
  note.value = 'Some of what was typed here before could not be read and was dropped.'
}

/** The fields of what was kept, whatever they are; none where it cannot be read. */
export function keptFields(storage: Storage, key: string): Record<string, unknown> {
  const kept = storage.getItem(key)
  if (kept === null) return {}
  try {
    const read: unknown = JSON.parse(kept)
    if (typeof read === 'object' && read !== null && !Array.isArray(read)) return read as Record<string, unknown>
  } catch {
    // told below
  }
  dropped()
  storage.removeItem(key)
  return {}
}

/**
 * A form as it was kept, else as it is when empty. Fields that are not the form's, or not of its kind, are dropped.
 *
 * @param blank the empty form; its fields and their kinds are what is taken
 */
export function stored<T extends object>(storage: Storage, key: string, blank: T): T {
  return fitted(blank, keptFields(storage, key))
}

/** What was kept, as far as it has the shape of a form; the empty form's own for the rest. */
export function fitted<T extends object>(blank: T, kept: unknown): T {
  const known = Object.entries(kept ?? {}).filter(([name]) => name in blank)
  const fitting = known.filter(([name, value]) => fits(value, blank[name as keyof T]))
  if (fitting.length < known.length) dropped()
  return Object.assign(structuredClone(blank), Object.fromEntries(fitting))
}
