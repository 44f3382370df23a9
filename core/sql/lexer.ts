/** A token of SQL text. `text` is without quotes for a name or a string; `word` is in upper case for an unquoted word. */
export interface Token { kind: 'word' | 'name' | 'string' | 'number' | 'mark'; text: string; word: string; at: number }

const PATTERN = /(\s+|--[^\n]*|\/\*[\s\S]*?\*\/)|"((?:[^"]|"")*)"|`((?:[^`]|``)*)`|\[([^\]]*)\]|'((?:[^']|'')*)'|(\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)|([\p{L}_][\p{L}\p{N}_$]*)|([\s\S])/gu

/** Splits SQL into tokens, without white space and comments. Names may be quoted in any of the engines' ways. */
export function tokens(sql: string): Token[] {
  const found: Token[] = []
  for (const match of sql.matchAll(PATTERN)) {
    const [, space, double, back, bracket, string, number, word, mark] = match
    if (space !== undefined) continue
    const at = match.index
    const name = double?.replaceAll('""', '"') ?? back?.replaceAll('``', '`') ?? bracket
    if (name !== undefined) found.push({ kind: 'name', text: name, word: '', at })
    else if (string !== undefined) found.push({ kind: 'string', text: string.replaceAll("''", "'"), word: '', at })
    else if (number !== undefined) found.push({ kind: 'number', text: number, word: '', at })
    else if (word !== undefined) found.push({ kind: 'word', text: word, word: word.toUpperCase(), at })
    else found.push({ kind: 'mark', text: mark ?? '', word: mark ?? '', at })
  }
  return found
}
