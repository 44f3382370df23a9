import { digitsOf, type DatePart, type DateTextPart } from '../sql/date-text.ts'

/** How a dialect says a format: its parts by words of the engine's own, and letters that stand for themselves. */
export const asFormat = (
  parts: readonly DateTextPart[],
  words: Record<DatePart, string>,
  letters: (text: string) => string
): string => parts.map((each) => ('text' in each ? letters(each.text) : words[each.part])).join('')

/** The texts that a format comes to, one for each of its parts. */
export const asTexts = (
  parts: readonly DateTextPart[],
  part: (part: DatePart, digits: number) => string,
  text: (text: string) => string
): string[] => parts.map((each) => ('text' in each ? text(each.text) : part(each.part, digitsOf(each.part))))
