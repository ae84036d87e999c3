// Words of what is kept, as the forms offer them.
import type { InsideView } from '../../api/kept'

type Place = InsideView['entry']['parts'][number]['place']
const PLACES: Place[] = [
  "capacitor at the supply's input",
  'capacitor of the rails',
  'transformer',
  'rectifier bridge',
  'output device',
  'output filter',
  'internal wire',
  'fan',
  'other',
]
export const PART_PLACES = PLACES.map((value) => ({ value, label: value }))

export const SAFE_TO_OPEN =
  'Disconnect the supply and every lead, wait, and discharge the capacitors; measure that they are empty before you ' +
  'reach in. They hold enough to burn and to weld for minutes after the supply is off. Opening is for those who are ' +
  'trained for it; your own rules come first.'

export const EAR_PROTECTION =
  'Levels like these hurt ears within minutes. Wear ear protection, keep others out, and leave the vehicle while it ' +
  'plays where you can; your own rules and those of your country come first.'

/** Where on a unit a photograph was taken. */
export const SIDES = ['outside', 'terminals', 'controls', 'label', 'carton and contents', 'inside', 'board', 'damage']
