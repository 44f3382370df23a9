/**
 * Puts a text on the clipboard. The browser's own way is there on pages of this machine and behind TLS only; elsewhere
 * what is chosen on the page is copied. False where the browser takes neither.
 */
export async function copyText(text: string): Promise<boolean> {
  try {
    if (navigator.clipboard) {
      await navigator.clipboard.writeText(text)
      return true
    }
    return copyChosen(text)
  } catch {
    return false
  }
}

function copyChosen(text: string): boolean {
  const field = document.createElement('textarea')
  field.value = text
  field.setAttribute('aria-hidden', 'true')
  field.style.cssText = 'position: fixed; inset: 0 auto auto 0; opacity: 0'
  const before = document.activeElement
  document.body.append(field)
  field.select()
  const isCopied = document.execCommand('copy')
  field.remove()
  if (before instanceof HTMLElement) before.focus()
  return isCopied
}
