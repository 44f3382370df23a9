/** Gives the person a text, or bytes, as a file of the name. */
export function download(name: string, content: BlobPart, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([content], { type }))
  link.download = name.replaceAll(/[\\/:*?"<>|]/g, ' ')
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
