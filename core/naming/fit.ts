import { fold } from '../design/directory.ts'

/** How long a name is in the dialect's unit. */
export function nameLength(name: string, of: 'bytes' | 'characters'): number {
  return of === 'bytes' ? new TextEncoder().encode(name).length : [...name].length
}

/**
 * The name, or, where it is too long, its beginning with a short hash of the whole behind it, so that
 * two long names stay two.
 */
export function fitName(
  name: string,
  limit: { most: number; of: 'bytes' | 'characters' } | undefined
): string {
  // A character has at most four bytes: a short name needs no counting.
  if (!limit || name.length * 4 <= limit.most || nameLength(name, limit.of) <= limit.most) return name
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

/** What stands before a name that an engine keeps for itself. */
export const KEPT_BEFORE = 'own_'

/** Where a name must be the only one, and which names the engine keeps for itself there. */
export interface NamePlace {
  schema?: string | undefined
  kept?: RegExp | undefined
}

/**
 * Gives each name once in a schema, within the limit: what is taken gets a number. Names are compared as
 * an engine that folds case does.
 */
export class NameGiver {
  private readonly used = new Map<string, Set<string>>()

  /** @param refused characters that an engine takes in no name; they come out as their code points. */
  constructor(
    private readonly limit: { most: number; of: 'bytes' | 'characters' } | undefined,
    private readonly refused?: RegExp
  ) {}

  /** Another that has given the same names. */
  copy(): NameGiver {
    const copy = new NameGiver(this.limit, this.refused)
    for (const [schema, names] of this.used) copy.used.set(schema, new Set(names))
    return copy
  }

  /**
   * The name as the engine takes it, given or not. One that it keeps for itself is made another by a word
   * before it.
   */
  spell(asked: string, kept?: RegExp): string {
    return fitName(this.legal(asked, kept), this.limit)
  }

  give(asked: string, { schema, kept }: NamePlace = {}): string {
    const wanted = this.legal(asked, kept)
    const used = this.usedIn(schema)
    let name = fitName(wanted, this.limit)
    for (let n = 2; used.has(fold(name)); n++) name = fitName(`${wanted}_${n}`, this.limit)
    used.add(fold(name))
    return name
  }

  /**
   * Gives all of the names as they are, or none where one of them is taken. They are folded already, and
   * known to fit.
   */
  giveAll(folded: readonly string[], schema?: string): boolean {
    const used = this.usedIn(schema)
    if (folded.some((name) => used.has(name))) return false
    for (const name of folded) used.add(name)
    return true
  }

  private legal(asked: string, kept: RegExp | undefined): string {
    const wanted = this.refused
      ? asked.replaceAll(this.refused, (char) => `u${(char.codePointAt(0) ?? 0).toString(16)}`)
      : asked
    return kept?.test(wanted) ? KEPT_BEFORE + wanted : wanted
  }

  private usedIn(schema = ''): Set<string> {
    let used = this.used.get(schema)
    if (!used) this.used.set(schema, (used = new Set()))
    return used
  }
}
