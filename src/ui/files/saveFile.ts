/** Hands a file to the browser to keep. */
export function saveFile(name: string, type: string, content: string | Blob): void {
  const url = URL.createObjectURL(
    typeof content === 'string' ? new Blob([content], { type: `${type};charset=utf-8` }) : content,
  )
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}
