/**
 * JSON in one spelling: no spaces, keys in order. Texts that say the same are the same after it; what is
 * no JSON stays as it is.
 */
export function canonicalJson(text: string): string {
  try {
    return JSON.stringify(inOrder(JSON.parse(text)))
  } catch {
    return text
  }
}

function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)).map(([key, item]) => [key, inOrder(item)]))
}
