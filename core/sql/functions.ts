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
}

/** The functions that every dialect has in some spelling. */
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
  now: { takes: [], optional: 0, gives: 'timestamp', fixed: false, says: 'the present moment' },
  today: { takes: [], optional: 0, gives: 'date', fixed: false, says: 'the present day' },
  new_uuid: { takes: [], optional: 0, gives: 'uuid', fixed: false, says: 'a uuid that nothing had before' },
  current_user: {
    takes: [],
    optional: 0,
    gives: 'text',
    fixed: false,
    says: 'who is connected to the database'
  }
}

/** The function of that name, or nothing: a name that an object has by nature is none. */
export const functionCalled = (name: string): FunctionWords | undefined =>
  Object.hasOwn(FUNCTIONS, name) ? FUNCTIONS[name] : undefined
