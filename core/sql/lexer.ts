/**
 * A token of SQL text. `text` is without quotes for a name or a string; `word` is in upper case for an
 * unquoted word.
 */
export interface Token {
  kind: 'word' | 'name' | 'string' | 'number' | 'mark'
  text: string
  word: string
  at: number
}

/**
 * How an engine spells what others spell otherwise: `[a name]` in brackets, and `\\` in a string for one
 * backslash.
 */
export interface Spelling {
  brackets: boolean
  backslash: boolean
}
const ANY: Spelling = { brackets: true, backslash: false }

const pattern = ({ brackets, backslash }: Spelling): RegExp =>
  new RegExp(
    [
      String.raw`(\s+|--[^\n]*|\/\*[\s\S]*?\*\/)`,
      String.raw`"((?:[^"]|"")*)"`,
      '`((?:[^`]|``)*)`',
      brackets ? String.raw`\[((?:[^\]]|\]\])*)\]` : '((?!))',
      backslash ? String.raw`[Nn]?'((?:[^'\\]|''|\\[\s\S])*)'` : "[Nn]?'((?:[^']|'')*)'",
      String.raw`(\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)`,
      String.raw`([\p{L}_][\p{L}\p{N}_$]*)`,
      String.raw`(<=|>=|<>|!=|\|\||::|!~~|~~|[\s\S])`
    ].join('|'),
    'gu'
  )

const PATTERNS = new Map<string, RegExp>()

/**
 * Splits SQL into tokens, without white space and comments. Names may be quoted in any of the engines'
 * ways.
 */
export function tokens(sql: string, spelling: Spelling = ANY): Token[] {
  const key = JSON.stringify(spelling)
  if (!PATTERNS.has(key)) PATTERNS.set(key, pattern(spelling))
  const found: Token[] = []
  for (const match of sql.matchAll(PATTERNS.get(key) as RegExp)) {
    const [, space, double, back, bracket, string, number, word, mark] = match
    if (space !== undefined) continue
    const at = match.index
    const name =
      double?.replaceAll('""', '"') ?? back?.replaceAll('``', '`') ?? bracket?.replaceAll(']]', ']')
    if (name !== undefined) found.push({ kind: 'name', text: name, word: '', at })
    else if (string !== undefined)
      found.push({ kind: 'string', text: unescape(string, spelling.backslash), word: '', at })
    else if (number !== undefined) found.push({ kind: 'number', text: number, word: '', at })
    else if (word !== undefined) found.push({ kind: 'word', text: word, word: word.toUpperCase(), at })
    else found.push({ kind: 'mark', text: mark ?? '', word: mark ?? '', at })
  }
  return found
}

/** What a backslash and a letter stand for (MariaDB, "String Literals"). */
const ESCAPED: Record<string, string> = { n: '\n', r: '\r', t: '\t', b: '\b', 0: '\0', Z: '\u001a' }

function unescape(text: string, backslash: boolean): string {
  if (!backslash) return text.replaceAll("''", "'")
  return text.replaceAll(/''|\\([\s\S])/g, (_, letter: string | undefined) =>
    letter === undefined ? "'" : (ESCAPED[letter] ?? letter)
  )
}
