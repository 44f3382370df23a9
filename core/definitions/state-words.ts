import { canonicalJson } from '../design/json.ts'
import type { Design, Version } from '../design/model.ts'

/** All of a design but where its tables are drawn, in one spelling. */
const textOf = (design: Design): string => canonicalJson(JSON.stringify({ ...design, positions: {} }))

/**
 * Which state of a design it is, in the words that what is made of it begins with; nothing where no version was saved.
 * @param last the last version that was saved.
 */
export function stateWords(
  design: Design,
  last: Pick<Version, 'number' | 'design'> | undefined
): string | undefined {
  if (!last) return undefined
  const isIt = textOf(last.design) === textOf(design)
  return `version ${last.number}${isIt ? '' : ' and what was changed since'}`
}
