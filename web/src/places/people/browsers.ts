// What a browser says of itself, in words that a person would use.

const NAMES: readonly (readonly [RegExp, string])[] = [
  [/Edg\//, 'Edge'],
  [/Firefox\//, 'Firefox'],
  [/Chrome\/|Chromium\//, 'Chromium'],
  [/Safari\//, 'Safari'],
]
const SYSTEMS: readonly (readonly [RegExp, string])[] = [
  [/Android/, 'Android'],
  [/iPhone|iPad/, 'iOS'],
  [/Windows/, 'Windows'],
  [/Mac OS X/, 'macOS'],
  [/Linux/, 'Linux'],
]

/** “Firefox, Linux”; as it came where nothing is known of it. */
export function browserWords(said: string): string {
  const name = NAMES.find(([rule]) => rule.test(said))?.[1]
  const system = SYSTEMS.find(([rule]) => rule.test(said))?.[1]
  return [name, system].filter(Boolean).join(', ') || said.slice(0, 40) || 'not told'
}
