// How hard practice is, in words.
import type { PracticeLevel } from '../../api/types'

export const LEVELS: Record<PracticeLevel, { word: string; told: string }> = {
  first: { word: 'first', told: 'One thing is wrong, and one look at the right place tells it.' },
  second: { word: 'second', told: 'One thing is wrong, of everything that can be; or nothing is.' },
  third: { word: 'third', told: 'Two things are wrong at once; or nothing is.' },
}
