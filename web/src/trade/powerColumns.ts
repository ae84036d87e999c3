// A power and its U as two columns of a table, everywhere alike.
import type { Column } from '../kit/columns'
import { spread, watts } from './format'

/**
 * @param head what the power is called
 * @param power its watts and their U, in W
 * @param u what the U is called
 */
export function powerColumns<Row>(
  head: string,
  power: (row: Row) => { watts: number; u: number | null },
  u = '± U',
): Column<Row>[] {
  return [
    {
      key: 'watts',
      head,
      unit: 'W',
      num: true,
      text: (row) => watts(power(row).watts, power(row).u),
      value: (row) => power(row).watts,
    },
    { key: 'u', head: u, unit: 'W', num: true, text: (row) => spread(power(row).u), value: (row) => power(row).u },
  ]
}
