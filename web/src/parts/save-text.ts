/** Hands a text to the browser as a file. */
export function saveText(fileName: string, text: string): void {
  const address = URL.createObjectURL(new Blob([text], { type: 'text/plain;charset=utf-8' }))
  const link = document.createElement('a')
  link.href = address
  link.download = fileName
  link.click()
  URL.revokeObjectURL(address)
}
