/** How sentences are put together of what a design calls things. */

/** Things as a sentence lists them: `a`, `a and b`, `a, b and c`. */
export function listed(things: readonly string[], last = 'and'): string {
  return things.length < 2 ? (things[0] ?? '') : `${things.slice(0, -1).join(', ')} ${last} ${things.at(-1)}`
}

/** With its first letter large, as a sentence begins. */
export function sentence(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
