import { inCase } from '../naming/names.ts'

/** How names are written in a language's code, and which it keeps for itself. */
export interface Tongue {
  types: 'UpperCamel'
  fields: 'lowerCamel' | 'lower_snake' | 'UpperCamel'
  /** Whether names are of letters from A to Z alone. */
  plainLetters: boolean
  /** Names that cannot be given, in any letter case that is written here. */
  reserved: ReadonlySet<string>
  /** Whether types whose names differ in nothing but small and large letters are the same. */
  foldsTypes?: true
  /** Whether nothing of a type may be called as the type is. */
  membersNotAsType?: true
  /** Those that it keeps for itself in what has no key. */
  reservedWithoutKey?: ReadonlySet<string>
}

/** Letters and digits alone, without marks over them where they are plain: what else stands in a name parts its words. */
function letters(name: string, { plainLetters }: Tongue): string {
  if (/^[A-Za-z0-9]+$/.test(name)) return name
  if (!plainLetters)
    return name
      .normalize('NFC')
      .replaceAll(/[^\p{L}\p{Nd}]+/gu, ' ')
      .trim()
  const bare = name.normalize('NFKD').replaceAll(/\p{M}+/gu, '')
  return bare.replaceAll(/[^A-Za-z0-9]+/g, ' ').trim()
}

/**
 * A name as an identifier: what cannot stand in one parts its words, and where nothing is left it is called as is said
 * instead. A digit in front gets a line before it; a reserved word one behind it.
 */
export function identifier(
  name: string,
  letterCase: Tongue['types'] | Tongue['fields'] | 'UPPER_SNAKE',
  tongue: Tongue,
  instead: string
): string {
  const words = letters(name, tongue)
  const written = inCase(words === '' ? instead : words, letterCase)
  const begun = /^\p{Nd}/u.test(written) ? `_${written}` : written
  return tongue.reserved.has(begun) ? `${begun}_` : begun
}

/** Gives names of which no two are the same: the later one gets a number. */
export class FreeNames {
  private readonly taken = new Set<string>()

  /** @param folds whether names that differ in nothing but small and large letters are the same. */
  constructor(private readonly folds = false) {}

  has(name: string): boolean {
    return this.taken.has(this.folded(name))
  }

  /** @param also other names that go with it and must be free as well. */
  give(wanted: string, also: (name: string) => readonly string[] = () => []): string {
    let name = wanted
    for (let n = 2; [name, ...also(name)].some((each) => this.has(each)); n++) name = numbered(wanted, n)
    for (const each of [name, ...also(name)]) this.taken.add(this.folded(each))
    return name
  }

  private folded(name: string): string {
    return this.folds ? name.toLowerCase() : name
  }
}

/** `name2`, `pen_no_2`: as the name itself is written. */
const numbered = (name: string, n: number): string =>
  name.includes('_') || /\d$/.test(name) ? `${name}_${n}` : `${name}${n}`

/** Whether a name in code says the same letters as the one that it stands for, and no more. */
export const saysSame = (name: string, of: string): boolean =>
  !name.endsWith('_') && lettersOf(name) === lettersOf(of)

const lettersOf = (name: string): string => name.replaceAll(/[_\s-]/g, '').toLowerCase()
