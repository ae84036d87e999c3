// A column of a table: what stands in it, what it is sorted and taken along by.

export interface Column<Row> {
  key: string
  head: string
  /** Stands in the heading, on screen and in what is taken along. */
  unit?: string
  /** What a cell shows; a slot of the column's name may show more. */
  text: (row: Row) => string
  /** What it is sorted and taken along by; the text where none is given. */
  value?: (row: Row) => string | number | null | undefined
  num?: boolean
  /** Classes of its cells. */
  look?: string
  unsorted?: boolean
}

export const headOf = <Row>(column: Column<Row>): string =>
  column.unit ? `${column.head}, ${column.unit}` : column.head

export function rawOf<Row>(column: Column<Row>, row: Row): string | number | null | undefined {
  return column.value ? column.value(row) : column.text(row)
}
