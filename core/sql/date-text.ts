/** The parts of a moment that can be told, and how a format names them. */
export const DATE_PARTS = {
  year: 'YYYY',
  month: 'MM',
  day: 'DD',
  hour: 'hh',
  minute: 'mm',
  second: 'ss'
} as const
export type DatePart = keyof typeof DATE_PARTS

/** A part of a moment, in as many digits as its format has letters, or what stands between two. */
export type DateTextPart = { part: DatePart } | { text: string }

/** How many digits a part is written in. */
export const digitsOf = (part: DatePart): number => DATE_PARTS[part].length

/** A format by its parts (`DD.MM.YYYY hh:mm`); nothing where it has letters that stand for no part. */
export function dateTextParts(format: string): DateTextPart[] | undefined {
  const parts: DateTextPart[] = []
  for (const [said, word] of format.matchAll(/(\p{L}+)|\P{L}+/gu)) {
    if (word === undefined) parts.push({ text: said })
    else {
      const found = partsIn(word)
      if (!found) return undefined
      parts.push(...found.map((part) => ({ part })))
    }
  }
  return parts.length === 0 ? undefined : parts
}

function partsIn(word: string): DatePart[] | undefined {
  const found: DatePart[] = []
  let rest = word
  while (rest !== '') {
    const part = (Object.keys(DATE_PARTS) as DatePart[]).find((each) => rest.startsWith(DATE_PARTS[each]))
    if (!part) return undefined
    found.push(part)
    rest = rest.slice(DATE_PARTS[part].length)
  }
  return found
}

const MOMENT = /^(\d{4})-(\d\d)-(\d\d)(?: (\d\d):(\d\d)(?::(\d\d)(?:\.\d+)?)?)?$/

/** The parts of a day or a moment in UTC as a design holds it; nothing where it is written otherwise. */
export function momentParts(value: string): Record<DatePart, number> | undefined {
  const [, year, month, day, hour = 0, minute = 0, second = 0] = MOMENT.exec(value) ?? []
  if (year === undefined) return undefined
  return {
    year: Number(year),
    month: Number(month),
    day: Number(day),
    hour: Number(hour),
    minute: Number(minute),
    second: Number(second)
  }
}

/** The day of the week, Monday 1 to Sunday 7 (ISO 8601). */
export const weekdayOf = ({ year, month, day }: Record<DatePart, number>): number => {
  const date = new Date(Date.UTC(2000, month - 1, day))
  date.setUTCFullYear(year, month - 1, day)
  return ((date.getUTCDay() + 6) % 7) + 1
}
