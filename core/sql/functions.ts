import { DATE_PARTS, dateTextParts } from './date-text.ts'
import type { Expression } from './expression.ts'

/** What kind of value an expression has, as far as the common part of SQL tells kinds apart. */
export type Sort =
  | 'number'
  | 'text'
  | 'boolean'
  | 'date'
  | 'time'
  | 'timestamp'
  | 'interval'
  | 'uuid'
  | 'json'
  | 'binary'
  | 'choice'
  | 'any'

/** `fixed`: gives the same for the same arguments, so that a check or a computed column may use it. */
export interface FunctionWords {
  takes: Sort[]
  /** How many arguments may be left out. */
  optional: number
  many?: boolean
  gives: Sort | 'first'
  fixed: boolean
  says: string
  /** Why what is written as an argument cannot be one, in words; nothing where it can. */
  refuses?(args: readonly Expression[]): string | undefined
}

const partOf = (says: string): FunctionWords => ({
  takes: ['timestamp'],
  optional: 0,
  gives: 'number',
  fixed: true,
  says
})

/** The functions that dialects have in some spelling; what one of them lacks is among its facts. */
export const FUNCTIONS: Record<string, FunctionWords> = {
  lower: { takes: ['text'], optional: 0, gives: 'text', fixed: true, says: 'a text in small letters' },
  upper: { takes: ['text'], optional: 0, gives: 'text', fixed: true, says: 'a text in large letters' },
  trim: { takes: ['text'], optional: 0, gives: 'text', fixed: true, says: 'a text without spaces around it' },
  length: {
    takes: ['text'],
    optional: 0,
    gives: 'number',
    fixed: true,
    says: 'how many characters a text has'
  },
  substring: {
    takes: ['text', 'number', 'number'],
    optional: 1,
    gives: 'text',
    fixed: true,
    says: 'a part of a text: from the nth character, so many'
  },
  replace: {
    takes: ['text', 'text', 'text'],
    optional: 0,
    gives: 'text',
    fixed: true,
    says: 'a text with one part of it put for another'
  },
  abs: { takes: ['number'], optional: 0, gives: 'number', fixed: true, says: 'a number without its sign' },
  round: { takes: ['number'], optional: 0, gives: 'number', fixed: true, says: 'the nearest whole number' },
  coalesce: {
    takes: ['any', 'any'],
    optional: 0,
    many: true,
    gives: 'first',
    fixed: true,
    says: 'the first of several that is not empty'
  },
  nullif: {
    takes: ['any', 'any'],
    optional: 0,
    gives: 'first',
    fixed: true,
    says: 'the first, or empty where both are the same'
  },
  year: partOf('the year of a day or a moment (in UTC)'),
  month: partOf('its month, 1 to 12'),
  day: partOf('its day in the month'),
  weekday: partOf('its day in the week, Monday 1 to Sunday 7'),
  hour: partOf('its hour, 0 to 23'),
  minute: partOf('its minute'),
  date_text: {
    takes: ['timestamp', 'text'],
    optional: 0,
    gives: 'text',
    fixed: true,
    says: `a day or a moment (in UTC) as text, in a format of ${Object.values(DATE_PARTS).join(', ')}`,
    refuses: ([, format]) =>
      format?.kind === 'text' && dateTextParts(format.value)
        ? undefined
        : `date_text needs a format in quotes, of ${Object.values(DATE_PARTS).join(', ')} and what stands between them: 'DD.MM.YYYY hh:mm'.`
  },
  now: { takes: [], optional: 0, gives: 'timestamp', fixed: false, says: 'the present moment' },
  today: { takes: [], optional: 0, gives: 'date', fixed: false, says: 'the present day' },
  new_uuid: { takes: [], optional: 0, gives: 'uuid', fixed: false, says: 'a uuid that nothing had before' },
  current_user: {
    takes: [],
    optional: 0,
    gives: 'text',
    fixed: false,
    says: 'who is connected to the database'
  },
  setting: {
    takes: ['text'],
    optional: 0,
    gives: 'text',
    fixed: false,
    says: 'what an application has set for its session, empty where it has not',
    refuses: ([name]) =>
      name?.kind === 'text' && /^\w{1,60}\.\w{1,60}$/.test(name.value)
        ? undefined
        : "setting needs a name of two words in quotes: 'app.carer'."
  },
  whole: {
    takes: ['text'],
    optional: 0,
    gives: 'number',
    fixed: false,
    says: 'the whole number that a text is'
  }
}

/** The function of that name, or nothing: a name that an object has by nature is none. */
export const functionCalled = (name: string): FunctionWords | undefined =>
  Object.hasOwn(FUNCTIONS, name) ? FUNCTIONS[name] : undefined
