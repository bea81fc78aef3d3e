/** Hands a text to the browser as a file to keep; what it is follows from the name's ending. */
const TYPES: Readonly<Record<string, string>> = {
  csv: 'text/csv',
  json: 'application/json',
  svg: 'image/svg+xml',
}

export function saveText(text: string, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(
    new Blob([text], { type: TYPES[name.split('.').at(-1) ?? ''] ?? 'text/plain' }),
  )
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
