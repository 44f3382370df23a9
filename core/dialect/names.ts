import { fold } from '../design/lookup.ts'

/** How long a name is in the dialect's unit. */
export function nameLength(name: string, of: 'bytes' | 'characters'): number {
  return of === 'bytes' ? new TextEncoder().encode(name).length : [...name].length
}

/**
 * The name, or, where it is too long, its beginning with a short hash of the whole behind it, so that
 * two long names stay two.
 */
export function fitName(name: string, limit: { most: number; of: 'bytes' | 'characters' } | undefined): string {
  if (!limit || nameLength(name, limit.of) <= limit.most) return name
  const tail = `_${hash(name)}`
  let head = ''
  for (const char of name) {
    if (nameLength(head + char + tail, limit.of) > limit.most) break
    head += char
  }
  return head + tail
}

/** Six characters that stand for a text (FNV-1a, 32 bits). */
export function hash(text: string): string {
  let h = 2166136261
  for (const byte of new TextEncoder().encode(text)) h = Math.imul(h ^ byte, 16777619) >>> 0
  return h.toString(36).padStart(7, '0').slice(-6)
}

/** Gives each name once, within the limit: what is taken gets a number. Names are compared as an engine that folds case does. */
export class NameGiver {
  private readonly used = new Set<string>()
  constructor(private readonly limit: { most: number; of: 'bytes' | 'characters' } | undefined) {}

  give(wanted: string): string {
    let name = fitName(wanted, this.limit)
    for (let n = 2; this.used.has(fold(name)); n++) name = fitName(`${wanted}_${n}`, this.limit)
    this.used.add(fold(name))
    return name
  }
}

/** Double quotes around a name unless it is a plain lower-case word that is not reserved (ISO/IEC 9075-2, 5.2: a quote inside is doubled). */
export function quoteUnless(reserved: ReadonlySet<string>): (name: string) => string {
  return (name) => (/^[a-z_][a-z0-9_]*$/.test(name) && !reserved.has(name) ? name : `"${name.replaceAll('"', '""')}"`)
}

/** A text as an SQL string literal. */
export function quoteText(text: string): string {
  return `'${text.replaceAll("'", "''")}'`
}
