import type { Design } from '../design/model.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { DIALECTS, dialectsOf, isProvable, PROVABLE } from '../dialect/index.ts'
import type { Tongue } from './code-names.ts'

/** What can be chosen of an output: one of some values, or a text. */
export interface Setting {
  name: string
  /** What is chosen, in the words that stand before it. */
  title: string
  /** What it is where the design says nothing. */
  usual(design: Design): string
  choices?: readonly { value: string; title: string }[]
  /** Of a text: why it cannot be. */
  flaw?(text: string): string | undefined
}

/** How what is of a row is called in code. */
export const NAMES: Setting = {
  name: 'names',
  title: 'names like',
  usual: () => 'lowerCamel',
  choices: [
    { value: 'lowerCamel', title: 'wardName' },
    { value: 'lower_snake', title: 'ward_name' }
  ]
}

/** Whether a key's value may be taken for that of another table. */
export const KEYS: Setting = {
  name: 'keys',
  title: 'keys',
  usual: () => 'apart',
  choices: [
    { value: 'apart', title: 'told apart by their table' },
    { value: 'plain', title: 'plain values' }
  ]
}

/** For which engine SQL within code is written: one that runs here, so that what is written was run. */
export const DATABASE: Setting = {
  name: 'database',
  title: 'on',
  usual: (design) => (dialectsOf(design).find(isProvable) ?? PROVABLE[0])?.name ?? '',
  choices: PROVABLE.map(({ name, title }) => ({ value: name, title }))
}

/** For which engine SQL by itself is written. */
export const DIALECT: Setting = {
  name: 'dialect',
  title: 'for',
  usual: (design) => dialectsOf(design)[0]?.name ?? '',
  choices: Object.values<Dialect>(DIALECTS).map(({ name, title }) => ({ value: name, title }))
}

/**
 * Where classes stand: a package or a namespace, its parts with a dot or a backslash between them.
 * @param words that the language keeps for itself, in small letters.
 */
export const packageOf = (between: '.' | '\\', usual: string, words: ReadonlySet<string>): Setting => ({
  name: 'package',
  title: between === '.' ? 'package' : 'namespace',
  usual: () => usual,
  flaw: (text) => {
    const isName = (part: string): boolean =>
      /^[A-Za-z][A-Za-z0-9_]{0,59}$/.test(part) && !words.has(part.toLowerCase())
    return text.split(between).every(isName)
      ? undefined
      : `it is to be names with a ${between} between them, such as ${usual}`
  }
})

/** What a design chooses of an output; what it cannot be, since it was chosen with another program, is as usual. */
export function chosen(design: Design, output: string, { name, usual, choices, flaw }: Setting): string {
  const kept = design.outputSettings?.[output]?.[name]
  const isOne = kept !== undefined && (choices ? choices.some(({ value }) => value === kept) : !flaw?.(kept))
  return isOne ? kept : usual(design)
}

/** A language's code with what is of a row called as is chosen. */
export const inNames = (tongue: Tongue, names: string): Tongue => ({
  ...tongue,
  fields: names === 'lower_snake' ? 'lower_snake' : 'lowerCamel'
})
