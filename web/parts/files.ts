/** Gives the person a text as a file of the name. */
export function download(name: string, text: string, type: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type }))
  link.download = name.replaceAll(/[\\/:*?"<>|]/g, ' ')
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
