// Comma-separated values as RFC 4180 has them, safe to open where cells that begin like a formula would be run.

/** One cell: quoted where it must be; text that begins like a formula is shown as text. */
export function cell(value: string | number | null | undefined): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'number') return Number.isFinite(value) ? String(value) : ''
  const text = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
}

export const csvOf = (rows: readonly (readonly (string | number | null | undefined)[])[]): string =>
  rows.map((row) => row.map(cell).join(',') + '\r\n').join('')

/** Give a file to the person, under its name. */
export function download(name: string, content: BlobPart, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([content], { type }))
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 1000)
}
