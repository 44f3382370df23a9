/** What stands in quotes of any kind, in which nothing may change, or a line's end. */
const QUOTED_OR_END = /'(?:[^']|'')*'|"(?:[^"]|"")*"|`(?:[^`]|``)*`|\[(?:[^\]]|\]\])*\]|\n/g

/** SQL set in by so many spaces from its second line on; a line's end within a text or a name is left alone. */
export const indented = (sql: string, by = 2): string =>
  sql.replaceAll(QUOTED_OR_END, (part) => (part === '\n' ? `\n${' '.repeat(by)}` : part))
