import { expressionOf } from '../design/expressions.ts'
import { partsOf, type Expression } from '../sql/expression.ts'
import type { Facts } from './facts.ts'
import { nativeIn } from './speech.ts'

/**
 * What of an expression a dialect has no words for: a function that the engine lacks, or one of another engine's
 * own. Nothing where it has words for all.
 */
export function unsaidIn(
  kept: string,
  dialect: string,
  { title, lacksFunctions = {} }: Facts
): string | undefined {
  const unsaid = (part: Expression): string | undefined => {
    if (part.kind === 'call' && Object.hasOwn(lacksFunctions, part.name)) return lacksFunctions[part.name]
    if (part.kind === 'native' && !nativeIn(part.calls, dialect))
      return `${title} is not told what it has for ${part.calls[0]?.path.map(({ text }) => text).join('.')}`
    for (const each of partsOf(part)) {
      const found = unsaid(each)
      if (found !== undefined) return found
    }
    return undefined
  }
  return unsaid(expressionOf(kept))
}
