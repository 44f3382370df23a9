/**
 * Quotes around a name unless it is a plain lower-case word that is not reserved (ISO/IEC 9075-2, 5.2: a
 * closing quote inside is doubled).
 */
export function quoteUnless(
  reserved: ReadonlySet<string>,
  open = '"',
  close = open,
  plain = /^[a-z_][a-z0-9_]*$/
): (name: string) => string {
  return (name) =>
    plain.test(name) && !reserved.has(name) ? name : open + name.replaceAll(close, close + close) + close
}

/** A text as an SQL string literal. */
export function quoteText(text: string): string {
  return `'${text.replaceAll("'", "''")}'`
}

/** A number as SQL; whatever else is there is quoted, so that it can never be read as SQL. */
export function numberOr(quoted: (text: string) => string, value: unknown): string {
  const text = String(value)
  return /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(text) ? text : quoted(text)
}

/** Bytes as a dialect writes their hexadecimal digits; what is none is quoted. */
export function bytesOr(
  quoted: (text: string) => string,
  value: unknown,
  write: (digits: string) => string
): string {
  const text = String(value)
  return /^(?:[0-9a-f]{2})*$/i.test(text) ? write(text) : quoted(text)
}
