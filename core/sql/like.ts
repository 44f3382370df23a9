/**
 * What a pattern of LIKE is made of (ISO/IEC 9075-2, 8.5): any characters, one of any, and texts as they
 * stand. Without an escape character every `%` and `_` is a wildcard and a backslash is a backslash.
 */
export type LikePart = 'any' | 'one' | { text: string }

/** The parts of a pattern; nothing where its escape character stands before something that needs none. */
export function likeParts(pattern: string, escape?: string): LikePart[] | undefined {
  const parts: LikePart[] = []
  const add = (text: string): void => {
    const last = parts.at(-1)
    if (typeof last === 'object') last.text += text
    else parts.push({ text })
  }
  const chars = [...pattern]
  for (let at = 0; at < chars.length; at++) {
    const char = chars[at] as string
    if (char === escape) {
      const next = chars[++at]
      if (next !== '%' && next !== '_' && next !== escape) return undefined
      add(next)
    } else if (char === '%') parts.push('any')
    else if (char === '_') parts.push('one')
    else add(char)
  }
  return parts
}

/** A pattern, with texts said as the dialect needs them. */
export const likePattern = (
  parts: readonly LikePart[],
  say: (text: string) => string,
  [any, one]: [any: string, one: string] = ['%', '_']
): string => parts.map((part) => (part === 'any' ? any : part === 'one' ? one : say(part.text))).join('')
