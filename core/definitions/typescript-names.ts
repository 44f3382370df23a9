import type { Tongue } from './code-names.ts'

/** What cannot be the name of a variable (ECMA-262, 12.7.2, in strict code), and what is best not hidden by one. */
const WORDS =
  'arguments async await break case catch class const continue debugger default delete do else enum eval export extends false finally for function if implements import in instanceof interface let new null of package private protected public return static super switch this throw true try typeof undefined var void while with yield constructor prototype'

/** Types that everybody knows by these names, and those that the files themselves use. */
const TYPES =
  'Any Array ArrayBuffer BigInt Boolean Date Error Exclude Extract Function Infinity Intl Iterable Iterator JSON Json Key Map Math NaN Never NonNullable Number Object Omit Parameters Partial Pick Promise Proxy Readonly Record Reflect RegExp Required Row Set String Symbol Uint8Array Unknown'

/** How names are written in TypeScript. */
export const TYPESCRIPT: Tongue = {
  types: 'UpperCamel',
  fields: 'lowerCamel',
  plainLetters: false,
  reserved: new Set([...WORDS.split(' '), ...TYPES.split(' ')])
}

/** What data access declares besides. */
const OF_ACCESS =
  'AS AT_ONCE Access Bound Codec Column Held Layout Lean NO_VALUES Query TABLES TakenAlong ZONE'

/** How they are written where data access stands in the same file. */
export const DATA_ACCESS: Tongue = {
  ...TYPESCRIPT,
  reserved: new Set([...TYPESCRIPT.reserved, ...OF_ACCESS.split(' ')])
}
