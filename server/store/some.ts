import type { Design } from '../../core/design/model.ts'
import { Choice } from '../../core/version/choice.ts'

/** The first of two states with some of the changes to the second; nothing where they are not among them. */
export function some(from: Design, to: Design, only: readonly string[]): Design | undefined {
  const choice = new Choice(from, to)
  return choice.knows(only) ? choice.design(choice.settled(only)) : undefined
}
